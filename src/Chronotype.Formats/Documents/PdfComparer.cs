using Chronotype.Core.Comparing;
using Chronotype.Formats.Texts;

namespace Chronotype.Formats.Documents;

/// <summary>Says which pages of a document read otherwise, and where.</summary>
internal static class PdfComparer
{
    public static Comparison Compare(Stream before, Stream after, CancellationToken cancel)
    {
        var (old, now) = (PdfFormat.Lines(before, cancel), PdfFormat.Lines(after, cancel));
        var lines = TextComparer.Compare([.. old.SelectMany(p => p)], [.. now.SelectMany(p => p)]);
        var parts = new List<PartChange>();
        for (var page = 0; page < Math.Max(old.Count, now.Count); page++)
        {
            var name = $"{page + 1}";
            if (page >= old.Count || page >= now.Count)
                parts.Add(new PartChange(name, page >= old.Count ? PartChangeKind.Added : PartChangeKind.Removed));
            else if (old[page].SequenceEqual(now[page]))
                parts.Add(new PartChange(name, PartChangeKind.Same));
            else
                parts.Add(new PartChange(name, PartChangeKind.Reworded, TextComparer.Compare(old[page], now[page]).Change));
        }
        var resized = old.Count != now.Count && lines.Change is 0;
        return lines with { Basis = ComparisonBasis.PageText, Parts = parts, Change = resized ? 1.0 / parts.Count : lines.Change };
    }
}
