using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using System.Xml.Linq;
using Chronotype.Core.Comparing;

namespace Chronotype.Formats;

/// <summary>
/// Finds what became of each shape of a drawing (SVG 2, chapters 9 and 10): added, removed, moved, restyled or redrawn. Groups, texts and
/// pictures are told as layers.
/// </summary>
internal static partial class SvgElements
{
    // More changes than this are no story any more; the layers that they are in are told.
    private const int MostTold = 60,
        MostShapes = 20_000;

    private static readonly HashSet<string> Shapes = ["path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "use"];

    // What says where a shape stands and how it is drawn; all else says how it looks.
    private static readonly HashSet<string> Geometry =
    [
        "d",
        "points",
        "x",
        "y",
        "width",
        "height",
        "cx",
        "cy",
        "r",
        "rx",
        "ry",
        "x1",
        "y1",
        "x2",
        "y2",
        "href",
        "transform",
        "pathLength",
    ];

    /// <param name="Name">As its maker named it; empty where nobody did.</param>
    /// <param name="In">The layer that it is in; empty for none.</param>
    /// <param name="Place">Where it stands.</param>
    /// <param name="Outline">How it is drawn, wherever it stands.</param>
    /// <param name="Style">How it looks.</param>
    private sealed record Shape(string Tag, string Name, string In, (double X, double Y) Place, string Outline, string Style);

    /// <summary>What became of each shape that is not as it was; none where there are too many to be told.</summary>
    public static IReadOnlyList<PartChange> Compare(XElement before, XElement after)
    {
        var (old, now) = (Of(before), Of(after));
        if (old.Count > MostShapes || now.Count > MostShapes)
            return [];
        var found = new Shape?[now.Count];
        var left = new HashSet<Shape>(old, ReferenceEqualityComparer.Instance);
        Take(s => (s.Tag, s.Name, s.In, s.Place, s.Outline, s.Style));
        Take(s => s.Name.Length > 0 ? (s.Tag, s.Name) : null);
        Take(s => (s.Tag, s.In, s.Outline, s.Style));
        Take(s => (s.Tag, s.Outline, s.Style));
        Take(s => (s.Tag, s.In, s.Outline));
        Take(s => (s.Tag, s.In, s.Place, s.Style));
        Take(s => (s.Tag, s.In, s.Style));
        var parts = new List<PartChange>();
        for (var i = 0; i < now.Count; i++)
        {
            if (Change(found[i], now[i]) is { } part)
                parts.Add(part);
        }
        parts.AddRange(old.Where(left.Contains).Select(s => new PartChange(Called(s), PartChangeKind.Removed)));
        return parts.Count <= MostTold ? parts : [];

        void Take(Func<Shape, object?> key)
        {
            var byKey = old.Where(s => left.Contains(s) && key(s) is not null)
                .GroupBy(s => key(s)!)
                .ToDictionary(g => g.Key, g => new Queue<Shape>(g));
            for (var i = 0; i < now.Count; i++)
            {
                if (found[i] is not null || key(now[i]) is not { } wanted || !byKey.TryGetValue(wanted, out var same))
                    continue;
                if (same.TryDequeue(out var taken))
                {
                    found[i] = taken;
                    left.Remove(taken);
                }
            }
        }
    }

    private static PartChange? Change(Shape? old, Shape now)
    {
        if (old is null)
            return new PartChange(Called(now), PartChangeKind.Added);
        var by = new PixelOffset(Whole(now.Place.X - old.Place.X), Whole(now.Place.Y - old.Place.Y));
        var (isMoved, isRedrawn, isRestyled) = (old.Place != now.Place, old.Outline != now.Outline, old.Style != now.Style);
        if (!isMoved && !isRedrawn && !isRestyled && old.Name == now.Name && old.In == now.In)
            return null;
        return new PartChange(
            Called(now),
            isRedrawn ? PartChangeKind.Repainted
                : isRestyled ? PartChangeKind.Restyled
                : isMoved ? PartChangeKind.Moved
                : PartChangeKind.Changed
        )
        {
            MovedBy = isMoved && by != default ? by : null,
            FormerName = old.Name != now.Name && old.Name.Length > 0 ? old.Name : null,
            GroupBefore = old.In != now.In ? old.In : null,
        };
    }

    private static string Called(Shape shape)
    {
        var what = shape.Tag switch
        {
            "rect" => "rectangle",
            "use" => "symbol",
            "polyline" or "polygon" => "outline",
            var tag => tag,
        };
        return shape.Name.Length > 0 ? shape.Name : $"{what}{(shape.In.Length > 0 ? $" in {shape.In}" : "")}";
    }

    private static List<Shape> Of(XElement root)
    {
        var shapes = new List<Shape>();
        Walk(root, "");
        return shapes;

        void Walk(XElement parent, string within)
        {
            foreach (var element in parent.Elements())
            {
                var tag = element.Name.LocalName;
                if (shapes.Count > MostShapes || SvgOutline.Undrawn.Contains(tag))
                    continue;
                if (Shapes.Contains(tag))
                    shapes.Add(Read(element, tag, within));
                else if (tag is "g" or "svg" or "a" or "switch")
                    Walk(element, NameOf(element) is { Length: > 0 } name ? name : within);
            }
        }
    }

    private static Shape Read(XElement element, string tag, string within)
    {
        var (outline, style) = (new StringBuilder(), new SortedDictionary<string, string>(StringComparer.Ordinal));
        double x = 0,
            y = 0;
        foreach (
            var attribute in element
                .Attributes()
                .Where(a => !a.IsNamespaceDeclaration)
                .OrderBy(a => a.Name.LocalName, StringComparer.Ordinal)
        )
        {
            var (name, value) = (attribute.Name.LocalName, SvgOutline.Spaces().Replace(attribute.Value, " ").Trim());
            if (name is "id" or "label" or "data-name" or "aria-label")
                continue;
            if (name is "x" or "cx" && Number(value) is { } across)
                x += across;
            else if (name is "y" or "cy" && Number(value) is { } down)
                y += down;
            else if (name == "transform" && SvgOutline.Translate().Match(value) is { Success: true } by)
                (x, y) = (x + (Number(by.Groups[1].Value) ?? 0), y + (Number(by.Groups[2].Value) ?? 0));
            else if (name == "d" && Start().Match(value) is { Success: true } start && Number(start.Groups[1].Value) is { } fromX)
            {
                // Where a path begins is its place; a path of relative steps is then drawn alike wherever it stands.
                (x, y) = (x + fromX, y + (Number(start.Groups[2].Value) ?? 0));
                outline.Append(" d=").Append(value[start.Length..]);
            }
            else if (name == "style")
            {
                foreach (var rule in value.Split(';'))
                {
                    if (rule.Split(':', 2) is [var property, var set])
                        style[property.Trim()] = set.Trim();
                }
            }
            else if (Geometry.Contains(name))
                outline.Append(' ').Append(name).Append('=').Append(value);
            else
                style.TryAdd(name, value);
        }
        return new Shape(
            tag,
            NameOf(element),
            within,
            (x, y),
            outline.ToString(),
            string.Join(';', style.Select(s => $"{s.Key}:{s.Value}"))
        );
    }

    private static string NameOf(XElement element)
    {
        var name =
            element.Attributes().FirstOrDefault(a => a.Name.LocalName is "label" or "data-name" or "aria-label")?.Value
            ?? element.Elements().FirstOrDefault(e => e.Name.LocalName == "title")?.Value
            ?? (string?)element.Attribute("id")
            ?? "";
        name = SvgOutline.Spaces().Replace(name, " ").Trim();
        return name.Length > 80 ? name[..80] : name;
    }

    private static double? Number(string text) =>
        double.TryParse(SvgOutline.LeadingNumber().Match(text).Value, NumberStyles.Float, CultureInfo.InvariantCulture, out var number)
        && double.IsFinite(number)
            ? Math.Round(number, 3)
            : null;

    private static int Whole(double number) => (int)Math.Clamp(Math.Round(number), -1e9, 1e9);

    // 9.3.3: the first moveto is absolute in either letter.
    [GeneratedRegex(@"^[Mm]\s*([+-]?(?:\d+\.?\d*|\.\d+))[\s,]*([+-]?(?:\d+\.?\d*|\.\d+))")]
    private static partial Regex Start();
}
