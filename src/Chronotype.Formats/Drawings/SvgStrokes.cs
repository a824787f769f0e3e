using System.Globalization;
using System.Text.RegularExpressions;
using System.Xml.Linq;
using Chronotype.Core.Content;
using Chronotype.Core.Drawings;
using Chronotype.Core.Outputs;

namespace Chronotype.Formats.Drawings;

/// <summary>
/// The outlines of an SVG as strokes in millimetres: paths and shapes that are drawn, under all transforms of what they stand in (SVG 2,
/// 8 to 10). Texts that are not outlines and pictures have none, and clips are not minded.
/// </summary>
internal sealed partial class SvgStrokes
{
    private const int MostPoints = 1_000_000,
        MostVisits = 500_000,
        MaxDepth = 200;

    // CSS: 96 pixels are an inch.
    private static readonly Dictionary<string, double> Millimetres = new()
    {
        ["mm"] = 1,
        ["cm"] = 10,
        ["in"] = 25.4,
        ["pt"] = 25.4 / 72,
        ["pc"] = 25.4 / 6,
        ["px"] = 25.4 / 96,
        [""] = 25.4 / 96,
        ["q"] = 0.25,
    };

    private readonly XElement root;
    private readonly DrawingRecipe recipe;
    private readonly Dictionary<string, XElement> named = [];
    private readonly List<Stroke> strokes = [];
    private int points,
        visited;

    private SvgStrokes(XElement root, DrawingRecipe recipe)
    {
        (this.root, this.recipe) = (root, recipe);
        foreach (var element in root.DescendantsAndSelf())
        {
            if (element.Attribute("id")?.Value is { Length: > 0 } id)
                named.TryAdd(id, element);
        }
    }

    /// <summary>What is inherited on the way down.</summary>
    private readonly record struct Around(DrawnTransform Transform, string Fill, string Stroke, string Layer, bool IsHidden);

    /// <param name="root">An SVG, with its style sheets said on its elements.</param>
    /// <returns>The strokes, those of one tool together, and the size that they lie in, in millimetres.</returns>
    public static (IReadOnlyList<Stroke> Strokes, double Width, double Height) Of(XElement root, DrawingRecipe recipe)
    {
        var reader = new SvgStrokes(root, recipe);
        var (transform, width, height) = reader.Page();
        reader.Walk(root, new Around(transform, "black", "none", "", false), 0, isTop: true);
        // What belongs together is cut together, in the order in which it first comes.
        var order = reader.strokes.Select(s => s.Tool).Distinct().Select((t, i) => (t, i)).ToDictionary(t => t.t, t => t.i);
        return ([.. reader.strokes.OrderBy(s => order[s.Tool])], width, height);
    }

    // From the units of the drawing to millimetres (8.2): the view box is laid into the size, in its middle.
    private (DrawnTransform Transform, double Width, double Height) Page()
    {
        var view = SvgOutline.ViewBox(root);
        var width = Length(Attribute(root, "width")) ?? (view is null ? 0 : view[2] * Millimetres["px"]);
        var height = Length(Attribute(root, "height")) ?? (view is null ? 0 : view[3] * Millimetres["px"]);
        if (view is null)
            return (new(Millimetres["px"], 0, 0, Millimetres["px"], 0, 0), width, height);
        var (across, down) = (width / view[2], height / view[3]);
        if (Attribute(root, "preserveAspectRatio") != "none")
            across = down = Math.Min(across, down);
        var (x, y) = ((width - view[2] * across) / 2 - view[0] * across, (height - view[3] * down) / 2 - view[1] * down);
        return (new(across, 0, 0, down, x, y), width, height);
    }

    private static double? Length(string? text)
    {
        if (text is null)
            return null;
        var number = SvgOutline.LeadingNumber().Match(text.Trim()).Value;
        var unit = text.Trim()[number.Length..].Trim().ToLowerInvariant();
        return
            number.Length > 0
            && Millimetres.TryGetValue(unit, out var size)
            && double.TryParse(number, CultureInfo.InvariantCulture, out var n)
            && n > 0
            && double.IsFinite(n)
            ? n * size
            : null;
    }

    private void Walk(XElement element, Around around, int depth, bool isTop = false)
    {
        // What is used again and again by what is used again can be endless.
        if (depth > MaxDepth || points >= MostPoints || ++visited > MostVisits)
            return;
        var name = element.Name.LocalName;
        if (SvgOutline.Undrawn.Contains(name) || name is "text" or "image" or "foreignObject")
            return;
        if (Style(element, "display") == "none")
            return;
        around = around with
        {
            Fill = Style(element, "fill") ?? around.Fill,
            Stroke = Style(element, "stroke") ?? around.Stroke,
            IsHidden = Style(element, "visibility") is { } seen ? seen is "hidden" or "collapse" : around.IsHidden,
            Transform = around.Transform.After(Transform(Attribute(element, "transform"))),
        };
        if (!isTop && name is "svg" or "use")
            around = around with { Transform = around.Transform.After(new(1, 0, 0, 1, Number(element, "x"), Number(element, "y"))) };
        // The outermost group that has a name is the layer.
        if (name is "g" or "svg" or "a" && around.Layer.Length == 0 && !isTop && !WasText(element) && LayerName(element) is { } layer)
            around = around with { Layer = layer };
        switch (name)
        {
            case "svg" or "g" or "a" or "switch" or "symbol":
                foreach (var child in element.Elements())
                    Walk(child, around, depth + 1);
                break;
            case "use":
                var href = element.Attributes().FirstOrDefault(a => a.Name.LocalName == "href")?.Value.Trim() ?? "";
                if (href.StartsWith('#') && named.TryGetValue(href[1..], out var used))
                {
                    if (used.Name.LocalName == "symbol")
                    {
                        foreach (var child in used.Elements())
                            Walk(child, around, depth + 1);
                    }
                    else
                        Walk(used, around, depth + 1);
                }
                break;
            default:
                if (Path(element, name) is { } path && !around.IsHidden && (around.Fill != "none" || around.Stroke != "none"))
                    Draw(path, around);
                break;
        }
    }

    private void Draw(string path, Around around)
    {
        var colour = around.Stroke == "none" ? around.Fill : around.Stroke;
        var tool = recipe.Order == StrokeOrder.Colour ? colour : around.Layer;
        foreach (var run in PathData.Flatten(path, around.Transform, recipe.Tolerance, MostPoints - points))
        {
            points += run.Count;
            strokes.Add(new Stroke(run, tool));
        }
    }

    // 10: each shape as the path that the standard says it is.
    private static string? Path(XElement element, string name)
    {
        string N(double value) => value.ToString("R", CultureInfo.InvariantCulture);
        double V(string attribute) => Number(element, attribute);
        switch (name)
        {
            case "path":
                return Attribute(element, "d");
            case "rect":
                var (x, y, w, h) = (V("x"), V("y"), V("width"), V("height"));
                if (w <= 0 || h <= 0)
                    return null;
                var (rx, ry) = (Attribute(element, "rx") is null ? V("ry") : V("rx"), Attribute(element, "ry") is null ? V("rx") : V("ry"));
                (rx, ry) = (Math.Clamp(rx, 0, w / 2), Math.Clamp(ry, 0, h / 2));
                if (rx == 0 || ry == 0)
                    return $"M{N(x)} {N(y)}h{N(w)}v{N(h)}h{N(-w)}z";
                string Corner(double dx, double dy) => $"a{N(rx)} {N(ry)} 0 0 1 {N(dx)} {N(dy)}";
                return $"M{N(x + rx)} {N(y)}H{N(x + w - rx)}{Corner(rx, ry)}V{N(y + h - ry)}{Corner(-rx, ry)}H{N(x + rx)}{Corner(-rx, -ry)}"
                    + $"V{N(y + ry)}{Corner(rx, -ry)}z";
            case "circle" or "ellipse":
                var (cx, cy) = (V("cx"), V("cy"));
                var (a, b) = name == "circle" ? (V("r"), V("r")) : (V("rx"), V("ry"));
                return a <= 0 || b <= 0
                    ? null
                    : $"M{N(cx + a)} {N(cy)}A{N(a)} {N(b)} 0 0 1 {N(cx - a)} {N(cy)}A{N(a)} {N(b)} 0 0 1 {N(cx + a)} {N(cy)}z";
            case "line":
                return $"M{N(V("x1"))} {N(V("y1"))}L{N(V("x2"))} {N(V("y2"))}";
            case "polyline" or "polygon":
                return Attribute(element, "points") is { } listed ? $"M{listed}{(name == "polygon" ? "z" : "")}" : null;
            default:
                return null;
        }
    }

    private static bool WasText(XElement element) => element.Annotation<SvgTextOutlines.WasText>() is not null;

    private static string? LayerName(XElement element) =>
        new[] { "label", "data-name", "aria-label" }
            .Select(n => element.Attributes().FirstOrDefault(a => a.Name.LocalName == n)?.Value.Trim())
            .Append(Attribute(element, "id")?.Trim())
            .FirstOrDefault(n => n is { Length: > 0 and < 200 });

    // A list of functions, the last of which is done first.
    private static DrawnTransform Transform(string? text)
    {
        var all = DrawnTransform.None;
        if (text is null)
            return all;
        foreach (Match match in Function().Matches(text))
        {
            double[] n =
            [
                .. match
                    .Groups[2]
                    .Value.Split([' ', ',', '\t', '\n', '\r'], StringSplitOptions.RemoveEmptyEntries)
                    .Select(t => double.TryParse(t, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v) ? v : 0),
            ];
            var (cos, sin) = n.Length > 0 ? (Math.Cos(n[0] * Math.PI / 180), Math.Sin(n[0] * Math.PI / 180)) : (1, 0);
            var tan = n.Length > 0 ? Math.Tan(n[0] * Math.PI / 180) : 0;
            DrawnTransform? next = (match.Groups[1].Value, n.Length) switch
            {
                ("matrix", 6) => new(n[0], n[1], n[2], n[3], n[4], n[5]),
                ("translate", 1) => new(1, 0, 0, 1, n[0], 0),
                ("translate", 2) => new(1, 0, 0, 1, n[0], n[1]),
                ("scale", 1) => new(n[0], 0, 0, n[0], 0, 0),
                ("scale", 2) => new(n[0], 0, 0, n[1], 0, 0),
                ("rotate", 1) => new(cos, sin, -sin, cos, 0, 0),
                ("rotate", 3) => new(cos, sin, -sin, cos, n[1] - cos * n[1] + sin * n[2], n[2] - sin * n[1] - cos * n[2]),
                ("skewX", 1) => new(1, 0, tan, 1, 0, 0),
                ("skewY", 1) => new(1, tan, 0, 1, 0, 0),
                _ => null,
            };
            if (next is { } one)
                all = all.After(one);
        }
        return all;
    }

    private static double Number(XElement element, string attribute) =>
        Attribute(element, attribute) is { } text
        && double.TryParse(SvgOutline.LeadingNumber().Match(text.Trim()).Value, CultureInfo.InvariantCulture, out var n)
        && double.IsFinite(n)
            ? n
            : 0;

    private static string? Attribute(XElement element, string name) => element.Attribute(name)?.Value;

    private static string? Style(XElement element, string property)
    {
        var value = SvgOutline.Style(element, property);
        return value is null or "inherit" ? null : value;
    }

    [GeneratedRegex(@"([a-zA-Z]+)\s*\(([^)]*)\)")]
    private static partial Regex Function();
}
