using System.Xml.Linq;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Html;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>
/// Draws two timelines on one scale, the earlier above the later: a row for each track, a block for each clip, each told by what became
/// of it, and a line from where a clip was to where it is.
/// </summary>
public sealed class TimelinesSvg
{
    private const double Width = 1000,
        Head = 130,
        Row = 34,
        Gap = 6,
        Between = 46,
        Letter = 8.2;
    private const int MostBlocks = 4000;

    private static readonly XNamespace Ns = "http://www.w3.org/2000/svg";
    private readonly double length;
    private readonly ILookup<(string, double), PartChange> was,
        now;
    private readonly Dictionary<string, double> rowsBefore = [],
        rowsNow = [];

    private TimelinesSvg(TimelineFacts a, TimelineFacts b, Comparison? comparison)
    {
        length = Math.Max(0.001, Math.Max(a.Length, b.Length));
        var parts = comparison is { Basis: ComparisonBasis.Timeline } ? comparison.Parts : [];
        was = parts
            .Where(p => p.Kind != PartChangeKind.Added)
            .ToLookup(p => (p.GroupBefore ?? p.Track ?? "", Math.Round(p.AtBefore ?? p.At ?? 0, 3)));
        now = parts.Where(p => p.Kind != PartChangeKind.Removed).ToLookup(p => (p.Track ?? "", Math.Round(p.At ?? 0, 3)));
        Parts = parts;
    }

    private IReadOnlyList<PartChange> Parts { get; }

    /// <param name="before">The earlier.</param>
    /// <param name="after">The later.</param>
    /// <param name="comparison">Of the two; null where it is not measured yet.</param>
    public static IHtmlContent Draw(TimelineFacts before, TimelineFacts after, Comparison? comparison) =>
        new HtmlString(new TimelinesSvg(before, after, comparison).Svg(before, after).ToString(SaveOptions.DisableFormatting));

    private XElement Svg(TimelineFacts a, TimelineFacts b)
    {
        var inside = new List<XElement>();
        var y = Tracks(a, 22, was, rowsBefore, inside);
        var second = y + Between;
        var end = Tracks(b, second, now, rowsNow, inside);
        inside.AddRange(Links());
        inside.Add(Text("side", 0, 14, "A"));
        inside.Add(Text("side", 0, second - 8, "B"));
        inside.AddRange(Ticks(end));
        return Element(
            "svg",
            [
                ("class", "timelines"),
                ("viewBox", $"0 0 {N(Width)} {N(end + 26)}"),
                ("role", "img"),
                ("aria-label", "The earlier timeline above, the later below, on one scale"),
            ],
            [.. inside]
        );
    }

    private double Tracks(
        TimelineFacts timeline,
        double y,
        ILookup<(string, double), PartChange> parts,
        Dictionary<string, double> rows,
        List<XElement> into
    )
    {
        var blocks = 0;
        foreach (var track in timeline.Tracks.Reverse())
        {
            rows.TryAdd(track.Name, y);
            into.Add(Text("name", 0, y + Row / 2 + 4, Short(track.Name, Head - 12)));
            into.Add(Rect("row", Head, y, Width - Head, Row));
            foreach (var item in track.Items.Where(i => i.Kind != TimelineItemKind.Gap))
            {
                if (blocks++ >= MostBlocks)
                    break;
                var part = parts[(track.Name, Math.Round(item.Start, 3))]
                    .FirstOrDefault(p => p.Name == item.Name || p.FormerName == item.Name);
                var (x, wide) = (X(item.Start), Math.Max(1, item.Length / length * (Width - Head)));
                var block = Rect($"clip {Look(part)}", x, y, wide, Row);
                block.Add(Element("title", [], []), new XText(""));
                block.Element(Ns + "title")!.Value = $"{item.Name}, {DisplayText.Clock(item.Start)}, {item.Length:0.##} s{Told(part)}";
                into.Add(block);
                if (wide > 26 && item.Kind != TimelineItemKind.Transition)
                    into.Add(Text($"label {Look(part)}", x + 6, y + Row / 2 + 4, Short(item.Name, wide - 10)));
            }
            y += Row + Gap;
        }
        return y;
    }

    private IEnumerable<XElement> Links()
    {
        foreach (var part in Parts)
        {
            if (part.Kind is PartChangeKind.Same or PartChangeKind.Added or PartChangeKind.Removed || part.At is not { } at)
                continue;
            if (
                !rowsBefore.TryGetValue(part.GroupBefore ?? part.Track ?? "", out var from)
                || !rowsNow.TryGetValue(part.Track ?? "", out var to)
            )
                continue;
            var (x, y) = (X(part.AtBefore ?? at) + 2, from + Row);
            yield return Element(
                "path",
                [
                    ("class", "link"),
                    ("d", $"M{N(x)} {N(y)}C{N(x)} {N((y + to) / 2)} {N(X(at) + 2)} {N((y + to) / 2)} {N(X(at) + 2)} {N(to)}"),
                ],
                []
            );
        }
    }

    private IEnumerable<XElement> Ticks(double y)
    {
        double[] steps = [0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600];
        var step = steps.FirstOrDefault(s => length / s <= 12, 7200);
        for (var at = 0.0; at <= length * 0.95; at += step)
            yield return Text("tick", X(at), y + 14, DisplayText.Clock(at));
    }

    private static string Look(PartChange? part) =>
        part?.Kind switch
        {
            PartChangeKind.Added => "added",
            PartChangeKind.Removed => "removed",
            null or PartChangeKind.Same => "same",
            _ => "changed",
        };

    private static string Told(PartChange? part) =>
        part is null or { Kind: PartChangeKind.Same } ? "" : $": {FactWords.KindOf(part)} {FactWords.DetailOf(part)}".TrimEnd();

    private double X(double seconds) => Head + seconds / length * (Width - Head);

    private static string Short(string text, double room)
    {
        var letters = Math.Max(1, (int)(room / Letter));
        var clean = string.Concat(text.Where(c => System.Xml.XmlConvert.IsXmlChar(c) && !char.IsControl(c)));
        return clean.Length <= letters ? clean : clean[..Math.Max(1, letters - 1)] + "…";
    }

    private static XElement Rect(string kind, double x, double y, double wide, double tall) =>
        Element("rect", [("class", kind), ("x", N(x)), ("y", N(y)), ("width", N(wide)), ("height", N(tall)), ("rx", "2")], []);

    private static XElement Text(string kind, double x, double y, string text)
    {
        var element = Element("text", [("class", kind), ("x", N(x)), ("y", N(y))], []);
        element.Add(text);
        return element;
    }

    private static string N(double number) => DisplayText.N(number);

    private static XElement Element(string name, (string Name, string Value)[] attributes, XElement[] inside) =>
        new(Ns + name, attributes.Select(a => new XAttribute(a.Name, a.Value)), inside);
}
