using Chronotype.Core.Comparing;
using DiffPlex;
using DiffPlex.Chunkers;
using DiffPlex.Model;

namespace Chronotype.Formats.Texts;

/// <summary>Says which lines of a text are others, by DiffPlex (E. Myers, "An O(ND) Difference Algorithm", 1986).</summary>
internal static class TextComparer
{
    private const int MostChanges = 200,
        MostLines = 40,
        MostLetters = 400;

    // Finding the shortest way takes the time of lines times differences; past this the lines in common are counted instead.
    private const long MostWork = 60_000_000;

    public static Comparison? Compare(Stream before, Stream after)
    {
        if (TextCoding.Lines(before) is not var (_, old) || TextCoding.Lines(after) is not var (_, now))
            return null;
        return Compare(old, now);
    }

    public static Comparison Compare(IReadOnlyList<string> old, IReadOnlyList<string> now)
    {
        var (head, tail) = Common(old, now);
        var (a, b) = (old.Skip(head).Take(old.Count - head - tail).ToList(), now.Skip(head).Take(now.Count - head - tail).ToList());
        var all = Math.Max(1, Math.Max(old.Count, now.Count));
        if ((long)a.Count * b.Count > MostWork)
            return new Comparison((double)Uncommon(a, b) / all, ComparisonBasis.Lines);
        // Of no line at all it would make an empty one.
        if (a.Count == 0 || b.Count == 0)
            return a.Count + b.Count == 0 ? new Comparison(0, ComparisonBasis.Lines) : Told([new DiffBlock(0, a.Count, 0, b.Count)]);
        var blocks = Differ
            .Instance.CreateDiffs(string.Join('\n', a), string.Join('\n', b), ignoreWhiteSpace: false, ignoreCase: false, new LineChunker())
            .DiffBlocks;
        return Told([.. blocks]);

        Comparison Told(IReadOnlyList<DiffBlock> found) =>
            new(Math.Min(1, (double)found.Sum(d => Math.Max(d.DeleteCountA, d.InsertCountB)) / all), ComparisonBasis.Lines)
            {
                TextChanges =
                [
                    .. found
                        .Take(MostChanges)
                        .Select(d => new TextChange(
                            head + d.DeleteStartA + 1,
                            head + d.InsertStartB + 1,
                            TextComparer.Told(a, d.DeleteStartA, d.DeleteCountA),
                            TextComparer.Told(b, d.InsertStartB, d.InsertCountB),
                            Math.Max(0, d.DeleteCountA - MostLines),
                            Math.Max(0, d.InsertCountB - MostLines)
                        )),
                ],
                PartsLeftOut = Math.Max(0, found.Count - MostChanges),
            };
    }

    private static (int Head, int Tail) Common(IReadOnlyList<string> a, IReadOnlyList<string> b)
    {
        var least = Math.Min(a.Count, b.Count);
        var head = 0;
        while (head < least && a[head] == b[head])
            head++;
        var tail = 0;
        while (tail < least - head && a[^(tail + 1)] == b[^(tail + 1)])
            tail++;
        return (head, tail);
    }

    private static int Uncommon(List<string> a, List<string> b)
    {
        var left = new Dictionary<string, int>();
        foreach (var line in a)
            left[line] = left.GetValueOrDefault(line) + 1;
        var common = 0;
        foreach (var line in b)
        {
            if (left.GetValueOrDefault(line) == 0)
                continue;
            left[line]--;
            common++;
        }
        return Math.Max(a.Count, b.Count) - common;
    }

    private static IReadOnlyList<string> Told(List<string> lines, int start, int count) =>
        [.. lines.Skip(start).Take(Math.Min(count, MostLines)).Select(l => l.Length > MostLetters ? l[..MostLetters] + "…" : l)];
}
