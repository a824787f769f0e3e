using System.Globalization;
using Chronotype.Core.Versions;

namespace Chronotype.Core.Timeline;

/// <summary>A band before it has a place: the span of days it stands for and what lies in it.</summary>
internal sealed class Bucket
{
    public required DateOnly First { get; init; }
    public required DateOnly Last { get; init; }
    public required string Label { get; init; }

    /// <summary>Each group becomes one mark.</summary>
    public required IReadOnlyList<IReadOnlyList<StripVersion>> Groups { get; init; }

    public required IReadOnlyList<IReadOnlyList<StripLoose>> Rings { get; init; }

    /// <summary>Room that the now line and the ghost need after the last mark.</summary>
    public double Extra { get; init; }

    public double MinWidth =>
        Math.Max(
            TextWidth.Of(Label, 12) + 10,
            14 + Extra + Groups.Sum(g => g.Count > 1 ? StripMeasure.BlockPitch : StripMeasure.Pitch) + Rings.Count * StripMeasure.RingPitch
        );
}

/// <summary>
/// Chooses how much each stretch of time is merged so that all of it fits: the newest days show every version, older ones
/// their sittings, then weeks, then months, and what is left beyond these one block.
/// </summary>
internal sealed class StripBuckets(StripInput input)
{
    // How far, as shares of the width counted from the newest, each way of drawing may reach.
    private const double VersionsReach = 0.45,
        SittingsReach = 0.58,
        WeeksReach = 0.7,
        MonthsReach = 0.88;

    private const int RingRun = 8;

    /// <summary>From the oldest to the newest; their least widths and the folds between them fit the input's width.</summary>
    public List<Bucket> Choose()
    {
        var days = Days();
        var every = days.Select(d => DayBucket(d, merge: false)).ToList();
        if (Cost(every) <= input.Width)
            return every;

        var chosen = new LinkedList<Bucket>();
        var cost = 0.0;
        var left = days.Count;
        left = TakeDays(merge: false, VersionsReach);
        left = TakeDays(merge: true, SittingsReach);
        left = TakeSpans(WeekStart, WeekLabel, WeeksReach);
        left = TakeSpans(d => new DateOnly(d.Year, d.Month, 1), MonthLabel, MonthsReach);
        if (left > 0)
            chosen.AddFirst(
                SpanBucket(
                    days.Take(left).ToList(),
                    $"Before {days[left - 1].Date.AddDays(1).ToString(input.Dates.Year, CultureInfo.InvariantCulture)}"
                )
            );
        return [.. chosen];

        int TakeDays(bool merge, double reach)
        {
            for (; left > 0; left--)
            {
                var bucket = DayBucket(days[left - 1], merge);
                if (!Fits(bucket, reach))
                    break;
            }
            return left;
        }

        int TakeSpans(Func<DateOnly, DateOnly> startOf, Func<DateOnly, DateOnly, string> label, double reach)
        {
            while (left > 0)
            {
                var start = startOf(days[left - 1].Date);
                var from = left - 1;
                while (from > 0 && days[from - 1].Date >= start)
                    from--;
                var span = days[from..left];
                if (!Fits(SpanBucket(span, label(span[0].Date, span[^1].Date)), reach))
                    break;
                left = from;
            }
            return left;
        }

        bool Fits(Bucket bucket, double reach)
        {
            var more = bucket.MinWidth + (chosen.First is { } next && Fold(bucket, next.Value) > 0 ? StripMeasure.FoldWidth : 0);
            if (cost + more > input.Width * reach)
                return false;
            cost += more;
            chosen.AddFirst(bucket);
            return true;
        }
    }

    /// <summary>
    /// The days between two bands that a fold stands for; 0 where none is drawn. Beside a week or a month only a long pause is worth
    /// one.
    /// </summary>
    public static int Fold(Bucket earlier, Bucket later)
    {
        var days = later.First.DayNumber - earlier.Last.DayNumber - 1;
        var spans = earlier.First != earlier.Last || later.First != later.Last;
        return spans && days < 15 ? 0 : days;
    }

    private static double Cost(IReadOnlyList<Bucket> buckets) =>
        buckets.Sum(b => b.MinWidth) + buckets.Zip(buckets.Skip(1)).Count(p => Fold(p.First, p.Second) > 0) * StripMeasure.FoldWidth;

    private sealed record Day(DateOnly Date, List<StripVersion> Versions, List<StripLoose> Loose);

    private List<Day> Days()
    {
        var days = new SortedDictionary<DateOnly, Day>();
        foreach (var version in input.Versions)
            Of(version.At).Versions.Add(version);
        foreach (var save in input.Loose)
            Of(save.At).Loose.Add(save);
        if (input.Now is { } now)
            Of(now);
        return [.. days.Values];

        Day Of(DateTimeOffset at)
        {
            var date = DateOnly.FromDateTime(at.DateTime);
            return days.TryGetValue(date, out var day) ? day : days[date] = new Day(date, [], []);
        }
    }

    private bool IsLast(DateOnly date) => date == DateOnly.FromDateTime((input.Now ?? Newest).DateTime);

    private DateTimeOffset Newest => input.Versions.Select(v => v.At).Concat(input.Loose.Select(s => s.At)).Max();

    private bool IsToday(DateOnly date) => input.Now is { } now && date == DateOnly.FromDateTime(now.DateTime);

    private Bucket DayBucket(Day day, bool merge)
    {
        var today = IsToday(day.Date);
        return new Bucket
        {
            First = day.Date,
            Last = day.Date,
            Label = (today ? "Today, " : "") + input.Dates.Named(day.Date, Year),
            Groups = merge ? Merged(day.Versions) : day.Versions.Select(v => (IReadOnlyList<StripVersion>)[v]).ToList(),
            Rings = RingsOf(day.Loose, together: false),
            Extra = IsLast(day.Date) ? AfterLast : 0,
        };
    }

    // The now line and the ghost, and above them the flag of a milestone that was marked last.
    private double AfterLast =>
        Math.Max(
            input.Now is null ? 0 : StripMeasure.Pitch * 2,
            input.Versions.Count > 0 && input.Versions[^1].Milestone is { } reason ? FlagRows.WidthOf(reason) : 0
        );

    private int Year => (input.Now ?? Newest).Year;

    // Sittings; and where even one sitting alone is too many (a view opened on it), runs of equal length.
    private IReadOnlyList<IReadOnlyList<StripVersion>> Merged(List<StripVersion> versions)
    {
        var sittings = Sittings.Group(versions, v => v.At);
        var room = Math.Max(1, (int)(input.Width * VersionsReach / StripMeasure.BlockPitch));
        if (sittings.Count > 1 || versions.Count <= room)
            return sittings;
        return [.. versions.Chunk((versions.Count + room - 1) / room)];
    }

    private Bucket SpanBucket(IReadOnlyList<Day> days, string label)
    {
        var versions = days.SelectMany(d => d.Versions).ToList();
        return new Bucket
        {
            First = days[0].Date,
            Last = days[^1].Date,
            Label = label,
            Groups = versions.Count > 0 ? [versions] : [],
            Rings = RingsOf(days.SelectMany(d => d.Loose).ToList(), together: true),
            Extra = days.Any(d => IsLast(d.Date)) ? AfterLast : 0,
        };
    }

    private static IReadOnlyList<IReadOnlyList<StripLoose>> RingsOf(List<StripLoose> saves, bool together)
    {
        if (saves.Count == 0)
            return [];
        if (together)
            return [saves];
        return saves.Count <= RingRun ? saves.Select(s => (IReadOnlyList<StripLoose>)[s]).ToList() : Sittings.Group(saves, s => s.At);
    }

    private static DateOnly WeekStart(DateOnly date) => date.AddDays(-(((int)date.DayOfWeek + 6) % 7));

    private string WeekLabel(DateOnly first, DateOnly last) => input.Dates.Range(first, last);

    private static string MonthLabel(DateOnly first, DateOnly last) => first.ToString("MMM yyyy", CultureInfo.InvariantCulture);
}
