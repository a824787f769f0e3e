namespace Chronotype.Core.Timeline;

/// <summary>Gives every mark of the time strip its place. Values in, values out: the view only draws.</summary>
public static class StripLayout
{
    /// <summary>The reader sees small changes: heights follow the square root of the change.</summary>
    public static double HeightOf(double change, double most) =>
        StripMeasure.MinBar + Math.Sqrt(Math.Clamp(change, 0, 1)) * (most - StripMeasure.MinBar);

    /// <summary>Places everything that a strip shows.</summary>
    public static Strip Lay(StripInput input)
    {
        if (input.Versions.Count == 0 && input.Loose.Count == 0 && input.Now is null)
            return new Strip(StripMeasure.Left + input.Width, [], [], [], [], [], null, 0, null)
            {
                Lanes = StripLanes.Place(input.Branches, [], StripMeasure.Left + input.Width),
            };

        var buckets = new StripBuckets(input).Choose();
        var bands = new List<StripBand>();
        var folds = new List<StripFold>();
        var places = new List<(Bucket Bucket, Marks Marks)>();
        var x = StripMeasure.Left;
        var spare = Spare(buckets, input.Width);
        for (var i = 0; i < buckets.Count; i++)
        {
            if (i > 0 && StripBuckets.Fold(buckets[i - 1], buckets[i]) is > 0 and var days)
            {
                folds.Add(new StripFold(x, FoldLabel(days)));
                x += StripMeasure.FoldWidth;
            }
            var width = buckets[i].MinWidth + spare[i];
            bands.Add(new StripBand(x, width - 2, buckets[i].Label));
            places.Add((buckets[i], Marks.Place(buckets[i], x + 7, width - 14)));
            x += width;
        }

        var at = places.SelectMany(p => p.Marks.Groups).ToList();
        var flags = FlagRows.Place(at.Select(g => (g.X, g.Versions)), StripMeasure.Left + input.Width);
        var rows = flags.Count == 0 ? 0 : flags.Max(f => f.Row) + 1;
        // Numbers stand above bars and flags above both, so the tallest bar ends below the lowest flag.
        var most = StripMeasure.Base - StripMeasure.Top - rows * StripMeasure.FlagRow - 20;
        var bars = at.Select(g => Bar(g.X, g.Versions, most)).ToList();

        StripBar? ghost = null;
        double? nowX = null;
        if (input.Now is not null)
        {
            var end = places[^1].Marks.End;
            nowX = end + 10;
            ghost = new StripBar(end + 24, StripMeasure.BarWidth, HeightOf(0.3, most), input.NextLabel, [], true);
        }
        return new Strip(
            StripMeasure.Left + input.Width,
            bands,
            folds,
            bars,
            places.SelectMany(p => p.Marks.Rings).Select(r => new StripRing(r.X, r.Saves)).ToList(),
            flags,
            nowX,
            StripMeasure.Top
                + 12
                + flags.Where(f => f.X + f.Width > nowX).Select(f => f.Row + 1).DefaultIfEmpty(0).Max() * StripMeasure.FlagRow,
            ghost
        )
        {
            Lanes = StripLanes.Place(input.Branches, bars, StripMeasure.Left + input.Width),
        };
    }

    // Bands share what is left by how much lies in them, up to a width past which marks would only drift apart; the newest takes the rest.
    private static double[] Spare(IReadOnlyList<Bucket> buckets, double width)
    {
        var folds = buckets.Zip(buckets.Skip(1)).Count(p => StripBuckets.Fold(p.First, p.Second) > 0);
        var spare = Math.Max(0, width - buckets.Sum(b => b.MinWidth) - folds * StripMeasure.FoldWidth);
        var weights = buckets.Select(b => 1.0 + b.Groups.Count + b.Rings.Count).ToArray();
        var total = weights.Sum();
        var shares = weights.Select((w, i) => Math.Min(spare * w / total, 24 * w)).ToArray();
        shares[^1] += spare - shares.Sum();
        return shares;
    }

    private static StripBar Bar(double x, IReadOnlyList<StripVersion> versions, double most)
    {
        var tallest = versions.MaxBy(v => v.Change ?? v.StandIn)!;
        var block = versions.Count > 1;
        return new StripBar(
            x,
            block ? StripMeasure.BlockWidth : StripMeasure.BarWidth,
            HeightOf(tallest.Change ?? tallest.StandIn, most),
            block ? $"{versions[0].Label}–{versions[^1].Label}" : versions[0].Label,
            versions,
            tallest.Change is not null
        );
    }

    private static string FoldLabel(int days) =>
        days switch
        {
            1 => "1 day",
            < 14 => $"{days} days",
            < 60 => $"{days / 7} weeks",
            < 730 => $"{days / 30} months",
            _ => $"{days / 365} years",
        };
}

/// <summary>The marks of one band, in the order of their times, apart enough not to touch.</summary>
internal sealed record Marks(
    IReadOnlyList<(double X, IReadOnlyList<StripVersion> Versions)> Groups,
    IReadOnlyList<(double X, IReadOnlyList<StripLoose> Saves)> Rings,
    double End
)
{
    public static Marks Place(Bucket bucket, double left, double width)
    {
        var marks = bucket
            .Groups.Select(g =>
                (
                    At: g[0].At,
                    Pitch: g.Count > 1 ? StripMeasure.BlockPitch : StripMeasure.Pitch,
                    Versions: g,
                    Saves: (IReadOnlyList<StripLoose>?)null
                )
            )
            .Concat(
                bucket.Rings.Select(r =>
                    (
                        r[0].At,
                        Pitch: StripMeasure.RingPitch,
                        Versions: (IReadOnlyList<StripVersion>)[],
                        Saves: (IReadOnlyList<StripLoose>?)r
                    )
                )
            )
            .OrderBy(m => m.At)
            .ToList();
        if (marks.Count == 0)
            return new Marks([], [], left);

        // First where the time of day would have it, then pushed right and back left until none touch.
        var room = width - bucket.Extra;
        var from = marks[0].At;
        var span = Math.Max(1, (marks[^1].At - from).TotalSeconds);
        var last = marks[^1].Pitch;
        var xs = marks.Select(m => left + (m.At - from).TotalSeconds / span * Math.Max(0, room - last)).ToArray();
        for (var i = 1; i < xs.Length; i++)
            xs[i] = Math.Max(xs[i], xs[i - 1] + marks[i - 1].Pitch);
        for (var i = xs.Length - 1; i >= 0; i--)
            xs[i] = Math.Min(xs[i], (i == xs.Length - 1 ? left + room : xs[i + 1]) - marks[i].Pitch);

        var groups = new List<(double, IReadOnlyList<StripVersion>)>();
        var rings = new List<(double, IReadOnlyList<StripLoose>)>();
        for (var i = 0; i < marks.Count; i++)
        {
            if (marks[i].Saves is { } saves)
                rings.Add((xs[i] + StripMeasure.RingPitch / 2, saves));
            else
                groups.Add(
                    (
                        xs[i] + (marks[i].Pitch - (marks[i].Versions.Count > 1 ? StripMeasure.BlockWidth : StripMeasure.BarWidth)) / 2,
                        marks[i].Versions
                    )
                );
        }
        return new Marks(groups, rings, xs[^1] + last);
    }
}
