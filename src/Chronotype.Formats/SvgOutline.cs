using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using System.Xml;
using System.Xml.Linq;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>
/// What an SVG is made of (SVG 2, W3C Candidate Recommendation): its groups, texts and pictures as layers, and what it refers to. Loose
/// shapes belong to the group that they stand in.
/// </summary>
internal static partial class SvgOutline
{
    private const int MostLetters = 200;

    // What is drawn only where something else asks for it, or not at all.
    internal static readonly HashSet<string> Undrawn =
    [
        "defs",
        "symbol",
        "clipPath",
        "mask",
        "marker",
        "pattern",
        "linearGradient",
        "radialGradient",
        "filter",
        "metadata",
        "style",
        "script",
        "title",
        "desc",
    ];

    // What a layer is seen by and what it is called are told apart from what is on it.
    private static readonly HashSet<string> Told = ["id", "label", "data-name", "aria-label", "opacity", "display", "visibility"];

    /// <summary>From what is drawn last to what is drawn first, as a stack of layers stands.</summary>
    public static IReadOnlyList<LayerFacts> Layers(XElement root)
    {
        var layers = new List<LayerFacts>();
        Walk(root, "", 0, layers);
        return layers;
    }

    /// <summary>Every link and embedded picture, with the line that it begins on.</summary>
    public static IReadOnlyList<ReferenceFacts> References(XElement root)
    {
        var references = new List<ReferenceFacts>();
        foreach (var element in root.DescendantsAndSelf())
        {
            foreach (var attribute in element.Attributes().Where(a => !a.IsNamespaceDeclaration))
            {
                if (attribute.Name.LocalName is "href" or "src")
                {
                    if (element.Name.LocalName != "a")
                        Add(attribute.Value, element, attribute.Name.LocalName);
                }
                else if (attribute.Value.Contains("url(", StringComparison.OrdinalIgnoreCase))
                    AddAll(attribute.Value, element, attribute.Name.LocalName);
            }
            if (element.Name.LocalName == "style")
                AddAll(element.Value, element, "style");
        }
        return references;

        void AddAll(string css, XElement element, string where)
        {
            foreach (Match match in Url().Matches(css))
                Add(match.Groups[1].Value.Trim('"', '\'', ' '), element, where);
        }

        void Add(string written, XElement element, string where)
        {
            written = written.Trim();
            if (written.Length == 0 || written[0] == '#' || references.Count >= Limits.References)
                return;
            var place = $"{element.Name.LocalName}, {where}, line {((IXmlLineInfo)element).LineNumber}";
            // RFC 2397: three letters of base64 for two bytes; a few more or less are nothing here.
            references.Add(
                written.StartsWith("data:", StringComparison.OrdinalIgnoreCase)
                    ? new ReferenceFacts("", place, (written.Length - written.IndexOf(',', StringComparison.Ordinal) - 1) * 3L / 4)
                    : new ReferenceFacts(written.Length > ReferenceFacts.Most ? written[..ReferenceFacts.Most] : written, place)
            );
        }
    }

    /// <summary>The left, the upper edge, the width and the height that are drawn, in the drawing's own units (SVG 2, 8.6).</summary>
    /// <returns>Null where it says none, or one without room.</returns>
    public static double[]? ViewBox(XElement root)
    {
        double[] box =
        [
            .. (Attribute(root, "viewBox") ?? "").Split([' ', ',', '\t', '\n', '\r'], StringSplitOptions.RemoveEmptyEntries).Select(Number),
        ];
        return box is [_, _, > 0, > 0] ? box : null;
    }

    /// <summary>What of the same drawing a style is drawn with, such as <c>url(#sky)</c>, by its identity.</summary>
    public static IEnumerable<string> LocalUrls(string css) =>
        css.Contains("url(", StringComparison.OrdinalIgnoreCase)
            ? Url().Matches(css).Select(m => m.Groups[1].Value.Trim('"', '\'', ' ')).Where(u => u.StartsWith('#')).Select(u => u[1..])
            : [];

    /// <summary>Takes out all that is drawn but one layer, whose way is the places of the elements from the top: <c>0/3/1</c>; what is only drawn from, such as patterns and styles, stays.</summary>
    /// <param name="way">As <see cref="LayerFacts.Source"/> says it.</param>
    /// <exception cref="UnreadableFileException">There is no such layer.</exception>
    public static void LeaveOnly(XElement root, string way)
    {
        var at = root;
        foreach (var step in way.Split('/'))
        {
            var next = int.TryParse(step, NumberStyles.None, CultureInfo.InvariantCulture, out var n)
                ? at.Elements().ElementAtOrDefault(n)
                : null;
            if (next is null)
                throw new UnreadableFileException(FileFaultCode.NoLayers);
            foreach (var other in at.Elements().Where(e => e != next && !Undrawn.Contains(e.Name.LocalName)).ToList())
                other.Remove();
            at = next;
        }
        // Its own switch does not hide what is asked for by itself.
        foreach (var element in at.AncestorsAndSelf())
        {
            element.Attribute("display")?.Remove();
            element.Attribute("visibility")?.Remove();
        }
    }

    // The way is counted as one goes: to count it from each layer would take the time of layers times elements.
    private static void Walk(XElement parent, string above, int depth, List<LayerFacts> layers)
    {
        var unnamed = 0;
        var elements = parent.Elements().ToList();
        for (var i = elements.Count - 1; i >= 0; i--)
        {
            if (layers.Count >= Limits.Layers)
                return;
            var (element, way) = (elements[i], above.Length == 0 ? $"{i}" : $"{above}/{i}");
            if (element.Name.LocalName == "text")
                layers.Add(Layer(element, way, LayerKind.Text, depth, ++unnamed));
            else if (element.Name.LocalName == "image")
                layers.Add(Layer(element, way, LayerKind.Picture, depth, ++unnamed));
            else if (IsLayer(element))
            {
                var isGroup = element.Elements().Any(IsLayer);
                layers.Add(Layer(element, way, isGroup ? LayerKind.Group : LayerKind.Drawing, depth, ++unnamed));
                if (isGroup)
                    Walk(element, way, depth + 1, layers);
            }
        }
    }

    private static LayerFacts Layer(XElement element, string way, LayerKind kind, int depth, int unnamed)
    {
        var text = kind == LayerKind.Text ? Spaces().Replace(element.Value, " ").Trim() : null;
        var (moved, transform) = Moved(Attribute(element, "transform"));
        return new LayerFacts(kind, NameOf(element, kind, text, unnamed), depth)
        {
            Source = way,
            X = Whole(moved.X + (kind is LayerKind.Text or LayerKind.Picture ? Number(Attribute(element, "x")) : 0)),
            Y = Whole(moved.Y + (kind is LayerKind.Text or LayerKind.Picture ? Number(Attribute(element, "y")) : 0)),
            Visible = Style(element, "display") != "none" && Style(element, "visibility") is not ("hidden" or "collapse"),
            Opacity = Math.Clamp(double.TryParse(Style(element, "opacity"), CultureInfo.InvariantCulture, out var o) ? o : 1, 0, 1),
            Blend = Style(element, "mix-blend-mode") is { Length: > 0 and < 40 } blend ? blend : LayerFacts.Normal,
            Text = text is { Length: > MostLetters } ? text[..MostLetters] : text,
            Pixels = ContentHash.Of(Encoding.UTF8.GetBytes(Described(element, kind, transform))),
        };
    }

    // What is on it, without what else is told of it, and without the layers in it, which speak for themselves.
    private static string Described(XElement element, LayerKind kind, string transform)
    {
        var told = new StringBuilder(transform);
        Write(element, isSelf: true);
        return told.ToString();

        void Write(XElement one, bool isSelf)
        {
            told.Append('<').Append(one.Name.LocalName);
            foreach (
                var attribute in one.Attributes()
                    .Where(a => !a.IsNamespaceDeclaration)
                    .OrderBy(a => a.Name.ToString(), StringComparer.Ordinal)
            )
            {
                var name = attribute.Name.LocalName;
                var isPlace = name == "transform" || (kind is LayerKind.Text or LayerKind.Picture && name is "x" or "y");
                if (isSelf ? !Told.Contains(name) && !isPlace : name != "id")
                    told.Append(' ').Append(attribute.Name).Append('=').Append(Spaces().Replace(attribute.Value, " ").Trim());
            }
            told.Append('>');
            foreach (var node in one.Nodes())
            {
                if (node is XText text)
                    told.Append(Spaces().Replace(text.Value, " ").Trim());
                else if (
                    node is XElement inner
                    && !(kind == LayerKind.Group && IsLayer(inner))
                    && inner.Name.LocalName is not ("title" or "desc")
                )
                    Write(inner, isSelf: false);
            }
            told.Append("</>");
        }
    }

    private static bool IsLayer(XElement element) =>
        element.Name.LocalName is "text" or "image" || (element.Name.LocalName is "g" or "svg" or "switch" or "a" && element.HasElements);

    private static string NameOf(XElement element, LayerKind kind, string? text, int unnamed)
    {
        string?[] given =
        [
            element.Attributes().FirstOrDefault(a => a.Name.LocalName == "label")?.Value,
            Attribute(element, "data-name"),
            Attribute(element, "aria-label"),
            element.Elements().FirstOrDefault(e => e.Name.LocalName == "title")?.Value,
            Attribute(element, "id"),
        ];
        var name = given.Select(n => n?.Trim()).FirstOrDefault(n => n is { Length: > 0 });
        name ??= text is { Length: > 0 } ? text : $"{kind} {unnamed}";
        return name.Length > MostLetters ? name[..MostLetters] : name;
    }

    private static string? Attribute(XElement element, string name) => (string?)element.Attribute(name);

    // CSS goes before the attribute of the same name (SVG 2, 6.6).
    internal static string? Style(XElement element, string property)
    {
        foreach (var rule in (Attribute(element, "style") ?? "").Split(';'))
        {
            if (rule.Split(':', 2) is [var name, var value] && name.Trim() == property)
                return value.Trim();
        }
        return Attribute(element, property)?.Trim();
    }

    // A transform that only moves is a place; any other is part of what is drawn.
    private static ((double X, double Y) By, string Transform) Moved(string? transform)
    {
        if (transform is null)
            return (default, "");
        var match = Translate().Match(transform);
        return match.Success ? ((Number(match.Groups[1].Value), Number(match.Groups[2].Value)), "") : (default, transform);
    }

    private static double Number(string? text) =>
        text is not null
        && double.TryParse(LeadingNumber().Match(text.Trim()).Value, CultureInfo.InvariantCulture, out var n)
        && double.IsFinite(n)
            ? n
            : 0;

    private static int Whole(double number) => (int)Math.Clamp(Math.Round(number), -1e9, 1e9);

    [GeneratedRegex(@"url\(([^)]*)\)?", RegexOptions.IgnoreCase)]
    private static partial Regex Url();

    [GeneratedRegex(@"\s+")]
    internal static partial Regex Spaces();

    [GeneratedRegex(@"^\s*translate\(\s*([^\s,)]+)[\s,]*([^\s,)]*)\s*\)\s*$")]
    internal static partial Regex Translate();

    [GeneratedRegex(@"^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?")]
    internal static partial Regex LeadingNumber();
}
