using System.Xml;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Rewriting;

/// <summary>Takes layers, or what its maker's program keeps for itself, out of an SVG. Every other character stays.</summary>
internal static class SvgCutter
{
    private const string Declarations = "http://www.w3.org/2000/xmlns/";

    // What SVG itself and open vocabularies beside it mean: what is said in another is for the program that said it.
    private static readonly HashSet<string> Open =
    [
        "",
        Declarations,
        "http://www.w3.org/2000/svg",
        "http://www.w3.org/1999/xlink",
        "http://www.w3.org/XML/1998/namespace",
        "http://www.w3.org/1999/xhtml",
        "http://www.w3.org/1998/Math/MathML",
        "http://www.w3.org/1999/02/22-rdf-syntax-ns#",
        "http://purl.org/dc/elements/1.1/",
        "http://purl.org/dc/terms/",
        "http://creativecommons.org/ns#",
        "http://web.resource.org/cc/",
    ];

    /// <summary>A name as it stands in the text.</summary>
    private readonly record struct Told(string Prefix, string Name, string Space);

    /// <param name="ways">The layers that go, each as <see cref="LayerFacts.Source"/> tells it.</param>
    public static void Without(Stream content, IReadOnlySet<string> ways, Stream output)
    {
        var svg = SvgText.Read(content);
        svg.Write(svg.Without(Cut(svg, (_, way) => ways.Contains(way), null)), output);
    }

    /// <summary>Puts others in the place of elements.</summary>
    /// <param name="instead">In order, none within another: the way to each, as <see cref="LayerFacts.Source"/> tells it, and what stands there then.</param>
    public static void Replace(Stream content, IReadOnlyList<(string Way, string Text)> instead, Stream output)
    {
        var svg = SvgText.Read(content);
        var ways = instead.Select(i => i.Way).ToHashSet();
        var places = Cut(svg, (_, way) => ways.Contains(way), null);
        svg.Write(svg.With(places.Select((p, i) => (p.From, p.End, instead[i].Text))), output);
    }

    /// <summary>Without elements and attributes of namespaces that are a program's own. What a layer is called stays.</summary>
    public static void WithoutSettings(Stream content, Stream output)
    {
        var svg = SvgText.Read(content);
        // A namespace is still told where something that stays is of it.
        var kept = new HashSet<string>();
        Cut(
            svg,
            IsForeign,
            (attribute, _) =>
            {
                if (!Open.Contains(attribute.Space) && !IsSetting(attribute))
                    kept.Add(attribute.Prefix);
                return false;
            }
        );
        svg.Write(
            svg.Without(
                Cut(
                    svg,
                    IsForeign,
                    (attribute, value) =>
                        attribute.Space == Declarations
                            ? attribute.Prefix.Length > 0 && !Open.Contains(value) && !kept.Contains(attribute.Name)
                            : IsSetting(attribute)
                )
            ),
            output
        );
    }

    private static bool IsForeign(Told element, string way) => !Open.Contains(element.Space);

    private static bool IsSetting(Told attribute) => !Open.Contains(attribute.Space) && attribute.Name != "label";

    private static List<(int From, int End)> Cut(SvgText svg, Func<Told, string, bool> drops, Func<Told, string, bool>? dropsAttribute)
    {
        var lines = SvgText.LineStarts(svg.Text);
        var cuts = new List<(int, int)>();
        // Of each element that is open: its way, and how many elements stood in it so far.
        var around = new Stack<(string Way, int Inner)>();
        var (dropped, depth) = (-1, 0);
        using var reader = svg.Open();
        var where = (IXmlLineInfo)reader;
        int At() => lines[where.LineNumber - 1] + where.LinePosition - 1;
        while (reader.Read())
        {
            if (reader.NodeType == XmlNodeType.EndElement)
            {
                around.Pop();
                if (dropped >= 0 && reader.Depth == depth)
                {
                    cuts.Add((dropped, svg.Text.IndexOf('>', At()) + 1));
                    dropped = -1;
                }
                continue;
            }
            if (reader.NodeType != XmlNodeType.Element)
                continue;
            var from = At() - 1;
            var way = "";
            if (around.TryPop(out var parent))
            {
                way = parent.Way.Length == 0 ? $"{parent.Inner}" : $"{parent.Way}/{parent.Inner}";
                around.Push((parent.Way, parent.Inner + 1));
            }
            var isEmpty = reader.IsEmptyElement;
            if (dropped < 0 && way.Length > 0 && drops(Name(reader), way))
            {
                if (isEmpty)
                    cuts.Add((from, SvgText.TagEnd(svg.Text, from)));
                else
                    (dropped, depth) = (from, reader.Depth);
            }
            else if (dropped < 0 && dropsAttribute is not null)
            {
                while (reader.MoveToNextAttribute())
                {
                    if (!dropsAttribute(Name(reader), reader.Value))
                        continue;
                    var name = At();
                    var start = name;
                    while (char.IsWhiteSpace(svg.Text[start - 1]))
                        start--;
                    cuts.Add((start, SvgText.ValueAt(svg.Text, name).End + 1));
                }
                reader.MoveToElement();
            }
            if (!isEmpty)
                around.Push((way, 0));
        }
        return cuts;
    }

    private static Told Name(XmlReader reader) => new(reader.Prefix, reader.LocalName, reader.NamespaceURI);
}
