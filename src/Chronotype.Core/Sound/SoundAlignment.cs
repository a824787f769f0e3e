namespace Chronotype.Core.Sound;

/// <summary>Orders what two recordings have in common, finds where each stretch ends to some milliseconds, and tells what is left.</summary>
internal sealed class SoundAlignment(SoundSketch before, SoundSketch after)
{
    private const int Rate = SoundSketch.Rate;

    // Ends are looked for in blocks of 2 ms, up to this far from where the prints let a stretch end.
    private const int Block = 16,
        Reach = 4096;

    // Shorter than this, in samples, is no gap but the inexactness of an end: 8 ms.
    private const int Least = 64;

    public SoundComparison Compare(CancellationToken cancel)
    {
        var found = new SoundStretches(before, after).Find(cancel);
        if (found.Count == 0 && LooksAlike(new Stretch(0, 0, Math.Min(before.Samples.Length, after.Samples.Length))) is { } whole)
            found = [whole];
        var (chain, others) = InOrder(found);
        chain = WithEnds(chain);
        var gaps = Gaps(chain);
        var moved = Moved(others, gaps);
        var differences = new List<SoundDifference>();
        differences.AddRange(chain.AsParallel().WithCancellation(cancel).SelectMany(s => new StretchLevels(before, after, s).Find()));
        foreach (var stretch in moved)
            differences.Add(Difference(SoundDifferenceKind.Moved, stretch.Before, stretch.Length, stretch.After, stretch.Length));
        foreach (var gap in gaps)
            differences.AddRange(Left(gap, moved));
        differences = [.. differences.OrderBy(d => d.After).ThenBy(d => d.Before)];
        var total = after.Samples.Length + differences.Where(d => d.AfterLength == 0).Sum(d => d.BeforeLength) * Rate;
        var changed = differences.Sum(d => Math.Max(d.AfterLength, d.AfterLength == 0 ? d.BeforeLength : 0)) * Rate;
        return new SoundComparison(
            [
                .. chain
                    .Concat(moved)
                    .OrderBy(s => s.After)
                    .Select(s => new SoundMatch(Seconds(s.Before), Seconds(s.After), Seconds(s.Length))),
            ],
            differences,
            total == 0 ? 0 : Math.Clamp(changed / total, 0, 1)
        );
    }

    private static double Seconds(int samples) => (double)samples / Rate;

    private static SoundDifference Difference(SoundDifferenceKind kind, int before, int beforeLength, int after, int afterLength) =>
        new(kind, Seconds(before), Seconds(beforeLength), Seconds(after), Seconds(afterLength));

    // Too short for prints, or with too little in it: the two from their beginnings on.
    private Stretch? LooksAlike(Stretch stretch)
    {
        if (stretch.Length < Block)
            return null;
        var unlike = 0.0;
        for (var at = 0; at + Block <= stretch.Length; at += Block)
            unlike += Unlike(at, 0, 1);
        return unlike / (stretch.Length / Block) < 0.5 ? stretch : null;
    }

    // The stretches that stand in the same order in both and cover the most (a heaviest increasing sequence), and the rest.
    private static (List<Stretch> Chain, List<Stretch> Others) InOrder(IReadOnlyList<Stretch> found)
    {
        var best = new long[found.Count];
        var from = new int[found.Count];
        var last = -1;
        for (var i = 0; i < found.Count; i++)
        {
            (best[i], from[i]) = (found[i].Length, -1);
            for (var j = 0; j < i; j++)
            {
                var fresh = found[i].BeforeEnd - Math.Max(found[i].Before, found[j].BeforeEnd);
                if (found[j].Before < found[i].Before && fresh > 0 && best[j] + fresh > best[i])
                    (best[i], from[i]) = (best[j] + fresh, j);
            }
            if (last < 0 || best[i] > best[last])
                last = i;
        }
        var isIn = new bool[found.Count];
        for (var i = last; i >= 0; i = from[i])
            isIn[i] = true;
        return ([.. found.Where((_, i) => isIn[i])], [.. found.Where((_, i) => !isIn[i])]);
    }

    private List<Stretch> WithEnds(List<Stretch> chain)
    {
        if (chain.Count == 0)
            return chain;
        var gains = chain.ConvertAll(Gain);
        var likeness = chain.Select((s, i) => Math.Min(0.8, Typical(s, gains[i]))).ToList();
        var starts = new int[chain.Count];
        var ends = new int[chain.Count];
        starts[0] = Start(chain[0], gains[0], likeness[0], Math.Max(0, chain[0].Shift));
        for (var i = 0; i < chain.Count; i++)
        {
            var stretch = chain[i];
            var furthest = Math.Min(after.Samples.Length, before.Samples.Length + stretch.Shift);
            if (i + 1 == chain.Count)
            {
                ends[i] = End(stretch, gains[i], likeness[i], furthest);
                continue;
            }
            var next = chain[i + 1];
            // Neither goes further than the other's sure part, in either recording.
            var nextSure = next.Length / 2;
            ends[i] = End(
                stretch,
                gains[i],
                likeness[i],
                Math.Min(furthest, Math.Min(next.After + nextSure, next.Before + nextSure + stretch.Shift))
            );
            var sure = stretch.After + stretch.Length / 2;
            starts[i + 1] = Start(
                next,
                gains[i + 1],
                likeness[i + 1],
                Math.Max(Math.Max(0, next.Shift), Math.Max(sure, sure - stretch.Shift + next.Shift))
            );
            (ends[i], starts[i + 1]) = Joined(stretch, gains[i], ends[i], next, gains[i + 1], starts[i + 1]);
        }
        return
        [
            .. chain
                .Select((s, i) => s with { Before = starts[i] - s.Shift, After = starts[i], Length = ends[i] - starts[i] })
                .Where(s => s.Length > 0),
        ];
    }

    // Where one ends and the next begins at once in one of the two recordings, the place is where both together fit best.
    private (int End, int Start) Joined(Stretch first, double firstGain, int end, Stretch next, double nextGain, int start)
    {
        var cut = first.Shift - next.Shift;
        var gapAfter = start - end;
        var gapBefore = gapAfter + cut;
        // Which of the two has nothing between them; where neither has, something else stands there.
        var isCut = gapAfter <= gapBefore;
        if (Math.Min(gapAfter, gapBefore) > Least)
            return (end, start);
        var (low, high) = isCut ? (Math.Min(end, start), Math.Max(end, start)) : (Math.Min(end, start + cut), Math.Max(end, start + cut));
        var move = isCut ? 0 : -cut;
        low = Math.Max(low - Reach / 8, first.After + first.Length / 4);
        high = Math.Min(high + Reach / 8, next.AfterEnd - next.Length / 4 - move);
        var sum = 0.0;
        var (least, at) = (0.0, low);
        for (var t = low; t + Block <= high; t += Block)
        {
            // Up to here it is the first, from here on the next.
            sum += Unlike(t, first.Shift, firstGain) - Unlike(t + move, next.Shift, nextGain);
            if (sum < least)
                (least, at) = (sum, t + Block);
        }
        return (at, at + move);
    }

    private int End(Stretch stretch, double gain, double typical, int furthest)
    {
        var from = stretch.After + Math.Max(stretch.Length / 2, stretch.Length - Reach);
        return Furthest(from, Math.Min(furthest, stretch.AfterEnd + Reach), 1, stretch.Shift, gain, typical);
    }

    private int Start(Stretch stretch, double gain, double typical, int earliest)
    {
        var from = stretch.After + Math.Min(stretch.Length / 2, Reach);
        return Furthest(from, Math.Max(earliest, stretch.After - Reach), -1, stretch.Shift, gain, typical);
    }

    // The place up to which it fits; past it, it fits worse than halfway between what is usual in it and what has nothing in common.
    private int Furthest(int from, int to, int way, int shift, double gain, double typical)
    {
        var limit = (typical + 1) / 2;
        var sum = 0.0;
        var (least, at) = (0.0, from);
        for (var t = from; way > 0 ? t + Block <= to : t - Block >= to; t += way * Block)
        {
            sum += Math.Min(1, Unlike(way > 0 ? t : t - Block, shift, gain)) - limit;
            if (sum <= least)
                (least, at) = (sum, t + way * Block);
        }
        // What is left is less than a block.
        return Math.Abs(to - at) < Block ? to : at;
    }

    private double Gain(Stretch stretch)
    {
        double ab = 0,
            aa = 0;
        for (var t = 0; t < stretch.Length; t++)
        {
            if (stretch.Before + t >= before.Samples.Length || stretch.After + t >= after.Samples.Length)
                break;
            double x = before.Samples[stretch.Before + t];
            ab += x * after.Samples[stretch.After + t];
            aa += x * x;
        }
        return aa == 0 || ab <= 0 ? 1 : ab / aa;
    }

    private double Typical(Stretch stretch, double gain)
    {
        double sum = 0;
        var count = 0;
        var step = Math.Max(Block, stretch.Length / 400 / Block * Block);
        for (var t = stretch.After + stretch.Length / 8; t < stretch.AfterEnd - stretch.Length / 8; t += step, count++)
            sum += Math.Min(1, Unlike(t, stretch.Shift, gain));
        return count == 0 ? 0 : sum / count;
    }

    // From 0 for the same to about 1 for two that have nothing in common, over one block of the later recording.
    private double Unlike(int at, int shift, double gain)
    {
        double difference = 0,
            energy = 50 * Block;
        for (var t = at; t < at + Block; t++)
        {
            var b = t >= 0 && t < after.Samples.Length ? after.Samples[t] : 0.0;
            var a = t - shift >= 0 && t - shift < before.Samples.Length ? before.Samples[t - shift] * gain : 0.0;
            difference += (b - a) * (b - a);
            energy += b * b + a * a;
        }
        return difference / energy;
    }

    private sealed record Gap(int Before, int BeforeLength, int After, int AfterLength);

    private List<Gap> Gaps(List<Stretch> chain)
    {
        var gaps = new List<Gap>();
        var (beforeAt, afterAt) = (0, 0);
        foreach (var stretch in chain.Append(new Stretch(before.Samples.Length, after.Samples.Length, 0)))
        {
            var (went, came) = (Math.Max(0, stretch.Before - beforeAt), Math.Max(0, stretch.After - afterAt));
            if (went > Least || came > Least)
                gaps.Add(new Gap(beforeAt, went > Least ? went : 0, afterAt, came > Least ? came : 0));
            (beforeAt, afterAt) = (stretch.BeforeEnd, stretch.AfterEnd);
        }
        return gaps;
    }

    // What stands in a gap of the later recording and in another gap of the earlier; what the earlier has elsewhere, too, is a copy.
    private List<Stretch> Moved(List<Stretch> others, List<Gap> gaps)
    {
        var moved = new List<Stretch>();
        foreach (var other in others.OrderByDescending(o => o.Length))
        {
            var came = gaps.Find(g => other.After + other.Length / 2 is var m && m >= g.After && m < g.After + g.AfterLength);
            var went = gaps.Find(g => other.Before + other.Length / 2 is var m && m >= g.Before && m < g.Before + g.BeforeLength);
            if (came is null || went is null)
                continue;
            var gain = Gain(other);
            var typical = Math.Min(0.8, Typical(other, gain));
            var (earliest, latest) = (
                Math.Max(came.After, went.Before + other.Shift),
                Math.Min(came.After + came.AfterLength, went.Before + went.BeforeLength + other.Shift)
            );
            var start = Start(other, gain, typical, earliest);
            var end = End(other, gain, typical, latest);
            // Ends that are a gap's own ends but for some milliseconds are those.
            if (start - earliest < 2 * Least)
                start = earliest;
            if (latest - end < 2 * Least)
                end = latest;
            var stretch = other with { Before = start - other.Shift, After = start, Length = end - start };
            if (
                stretch.Length > Rate / 4
                && !moved.Exists(m => m.After < stretch.AfterEnd && stretch.After < m.AfterEnd)
                && !moved.Exists(m => m.Before < stretch.BeforeEnd && stretch.Before < m.BeforeEnd)
            )
                moved.Add(stretch);
        }
        return moved;
    }

    private static IEnumerable<SoundDifference> Left(Gap gap, List<Stretch> moved)
    {
        var went = Without(gap.Before, gap.BeforeLength, moved.Select(m => (m.Before, m.BeforeEnd)));
        var came = Without(gap.After, gap.AfterLength, moved.Select(m => (m.After, m.AfterEnd)));
        if (went is [var one] && came is [var other])
            return [Difference(SoundDifferenceKind.Replaced, one.From, one.To - one.From, other.From, other.To - other.From)];
        return
        [
            .. went.Select(w => Difference(SoundDifferenceKind.Removed, w.From, w.To - w.From, gap.After, 0)),
            .. came.Select(c => Difference(SoundDifferenceKind.Inserted, gap.Before, 0, c.From, c.To - c.From)),
        ];
    }

    private static List<(int From, int To)> Without(int from, int length, IEnumerable<(int From, int To)> taken)
    {
        var left = new List<(int From, int To)>();
        var at = from;
        foreach (var (start, end) in taken.Where(t => t.From < from + length && t.To > from).OrderBy(t => t.From))
        {
            if (start - at > Least)
                left.Add((at, start));
            at = Math.Max(at, end);
        }
        if (from + length - at > Least)
            left.Add((at, from + length));
        return left;
    }
}
