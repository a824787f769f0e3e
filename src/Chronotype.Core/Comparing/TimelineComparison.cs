using Chronotype.Core.Content;

namespace Chronotype.Core.Comparing;

/// <summary>Says what became of each clip of a timeline: moved, trimmed, relinked, added or removed.</summary>
public static class TimelineComparison
{
    // Half of a frame at a hundred a second.
    private const double SameTime = 0.005;

    /// <summary>
    /// Clips are found again by track, name and medium; then by name and medium on another track; then by medium and the place in it; then
    /// by track and name, which finds those with another medium. The change is the share of clips' time that is not as it was.
    /// </summary>
    public static Comparison Compare(TimelineFacts before, TimelineFacts after)
    {
        var all = Clips(before);
        var old = all.ToHashSet();
        var now = Clips(after);
        var found = new Placed?[now.Count];
        Take((b, a) => b.Track == a.Track && b.Item.Name == a.Item.Name && b.Item.Media == a.Item.Media && Near(b, a));
        Take((b, a) => b.Track == a.Track && b.Item.Name == a.Item.Name && b.Item.Media == a.Item.Media);
        Take((b, a) => b.Item.Name == a.Item.Name && b.Item.Media == a.Item.Media);
        Take((b, a) => b.Item.Media.Length > 0 && b.Item.Media == a.Item.Media && Same(b.Item.SourceStart, a.Item.SourceStart));
        Take((b, a) => b.Track == a.Track && b.Item.Name == a.Item.Name);
        var parts = new List<PartChange>();
        double changed = 0,
            total = 0;
        for (var i = 0; i < now.Count; i++)
            Add(Change(found[i], now[i]), Math.Max(found[i]?.Item.Length ?? 0, now[i].Item.Length));
        foreach (var gone in all.Where(old.Contains))
            Add(Change(gone, null), gone.Item.Length);
        return new Comparison(total == 0 ? 0 : changed / total, ComparisonBasis.Timeline)
        {
            Parts = [.. parts.Select(p => p with { Weight = total == 0 ? 0 : Math.Round(p.Weight / total, 6) })],
        };

        void Add(PartChange part, double seconds)
        {
            parts.Add(part with { Weight = part.Kind == PartChangeKind.Same ? 0 : seconds });
            total += seconds;
            changed += part.Kind == PartChangeKind.Same ? 0 : seconds;
        }

        void Take(Func<Placed, Placed, bool> same)
        {
            var byName = all.ToLookup(b => b.Item.Name);
            var byMedia = all.ToLookup(b => b.Item.Media);
            for (var i = 0; i < now.Count; i++)
            {
                if (found[i] is not null)
                    continue;
                var one =
                    byName[now[i].Item.Name].FirstOrDefault(b => old.Contains(b) && same(b, now[i]))
                    ?? byMedia[now[i].Item.Media].FirstOrDefault(b => old.Contains(b) && same(b, now[i]));
                if (one is not null && old.Remove(one))
                    found[i] = one;
            }
        }
    }

    // Two clips may be alike in everything; each is still its own.
    private sealed class Placed(string track, TimelineItem item)
    {
        public string Track => track;
        public TimelineItem Item => item;
    }

    // Gaps are what is between; a clip that moved says more than the gap before it.
    private static List<Placed> Clips(TimelineFacts timeline) =>
        [.. timeline.Tracks.SelectMany(t => t.Items.Where(i => i.Kind != TimelineItemKind.Gap).Select(i => new Placed(t.Name, i)))];

    private static bool Near(Placed b, Placed a) => Same(b.Item.Start, a.Item.Start);

    private static bool Same(double a, double b) => Math.Abs(a - b) <= SameTime;

    private static PartChange Change(Placed? old, Placed? now)
    {
        var there = (now ?? old)!;
        var part = new PartChange(there.Item.Name, PartChangeKind.Same) { Track = there.Track, At = there.Item.Start };
        if (old is null || now is null)
            return part with { Kind = old is null ? PartChangeKind.Added : PartChangeKind.Removed };
        var isTrimmed = !Same(old.Item.Length, now.Item.Length) || !Same(old.Item.SourceStart, now.Item.SourceStart);
        var isMoved = !Same(old.Item.Start, now.Item.Start) || old.Track != now.Track;
        var isRelinked = old.Item.Media != now.Item.Media;
        return part with
        {
            Kind =
                isRelinked ? PartChangeKind.Relinked
                : isTrimmed ? PartChangeKind.Trimmed
                : isMoved ? PartChangeKind.Moved
                : old.Item.Name != now.Item.Name ? PartChangeKind.Changed
                : PartChangeKind.Same,
            FormerName = old.Item.Name != now.Item.Name ? old.Item.Name : null,
            GroupBefore = old.Track != now.Track ? old.Track : null,
            AtBefore = isMoved ? old.Item.Start : null,
            SecondsBefore = isTrimmed ? old.Item.Length : null,
            SecondsNow = isTrimmed ? now.Item.Length : null,
            UsesBefore = isRelinked ? old.Item.Media : null,
            UsesNow = isRelinked ? now.Item.Media : null,
        };
    }
}
