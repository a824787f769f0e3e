using System.Globalization;
using System.Text;
using System.Xml.Linq;
using Chronotype.Core.Outputs;
using SkiaSharp;

namespace Chronotype.Formats.Drawings;

/// <summary>
/// Texts of an SVG as outlines (SVG 2, 11): each letter where a browser sets it. A text whose typeface is not at hand, or that is set in a
/// way that is not followed here, stays a text and is told: half of a text is never changed.
/// </summary>
internal sealed class SvgTextOutlines(Typefaces typefaces)
{
    private const int MostLetters = 200_000,
        MostTold = 60;

    // What says how letters are set, and says nothing of outlines.
    private static readonly HashSet<string> OfTexts =
    [
        "x",
        "y",
        "dx",
        "dy",
        "space",
        "text-anchor",
        "letter-spacing",
        "word-spacing",
        "white-space",
        "line-height",
    ];

    private readonly List<LeftText> left = [];
    private int letters,
        outlined;

    /// <summary>What became of all texts so far.</summary>
    public OutlinedTexts Told => new(outlined, left);

    /// <summary>Marks a group that was a text.</summary>
    internal sealed class WasText;

    private sealed class CannotBeSetException(TextObstacle why, string about) : Exception
    {
        public TextObstacle Why => why;
        public string About => about;
    }

    /// <summary>A character in its text.</summary>
    private sealed class Letter(string text, XText node, TextStyle style)
    {
        public string Text => text;
        public XText Node => node;
        public TextStyle Style => style;
        public double? X { get; set; }
        public double? Y { get; set; }
        public double Right { get; set; }
        public double Down { get; set; }
    }

    /// <param name="root">With its style sheets said on its elements. Not changed.</param>
    /// <returns>Each text that becomes outlines, in order, and what takes its place.</returns>
    public IReadOnlyList<(XElement Text, XElement Outlines)> Of(XElement root)
    {
        var named = new Dictionary<string, XElement>();
        foreach (var element in root.DescendantsAndSelf())
        {
            if ((string?)element.Attribute("id") is { } id)
                named.TryAdd(id, element);
        }
        var made = new List<(XElement, XElement)>();
        foreach (
            var text in root.Descendants().Where(e => e.Name.LocalName == "text" && e.Ancestors().All(a => a.Name.LocalName != "text"))
        )
        {
            try
            {
                if (Outlines(text, named) is not { } outlines)
                    continue;
                made.Add((text, outlines));
                outlined++;
            }
            catch (CannotBeSetException e)
            {
                var said = SvgOutline.Spaces().Replace(text.Value, " ").Trim();
                left.Add(new(said.Length > MostTold ? said[..MostTold] + "…" : said, e.Why, e.About));
            }
        }
        return made;
    }

    // Null for one that says nothing.
    private XElement? Outlines(XElement text, Dictionary<string, XElement> named)
    {
        var set = Letters(text);
        if (set.Count == 0)
            return null;
        if ((letters += set.Count) > MostLetters)
            throw new CannotBeSetException(TextObstacle.Setting, "text");
        foreach (var style in set.Select(l => l.Style).Distinct())
            Check(style, named);
        var paths = Paths(set);
        var single = text.Parent?.Name.LocalName == "clipPath";
        if (single)
            return Renamed(text, "path", new XAttribute("d", string.Concat(paths.Values)));
        var group = Renamed(text, "g");
        // What it says is told to those who cannot see it, and where it has no other name it goes by that.
        if (new[] { "label", "data-name", "aria-label", "id" }.All(n => text.Attributes().All(a => a.Name.LocalName != n)))
            group.SetAttributeValue("aria-label", SvgOutline.Spaces().Replace(text.Value, " ").Trim());
        group.AddAnnotation(new WasText());
        Fill(text, group, paths);
        return group;
    }

    private static void Check(TextStyle style, Dictionary<string, XElement> named)
    {
        if (style.Unfollowed is { } property)
            throw new CannotBeSetException(TextObstacle.Setting, property);
        // What is painted over the room of a text would be painted over the room of each of its parts.
        foreach (var (paint, name) in new[] { (style.Fill, "fill"), (style.Stroke, "stroke") })
        {
            if (
                SvgOutline
                    .LocalUrls(paint)
                    .Any(id =>
                        named.TryGetValue(id, out var server)
                        && !server
                            .Attributes()
                            .Any(a => a.Name.LocalName.EndsWith("Units", StringComparison.Ordinal) && a.Value == "userSpaceOnUse")
                    )
            )
                throw new CannotBeSetException(TextObstacle.Setting, name);
        }
    }

    private static List<Letter> Letters(XElement text)
    {
        var set = new List<Letter>();
        var within = new List<(XElement Element, int From, int End, TextStyle Style)>();
        var afterSpace = true;
        Collect(text, TextStyle.Of(text));
        if (set.Count > 0 && set[^1].Text == " " && !set[^1].Style.KeepsSpaces)
            set.RemoveAt(set.Count - 1);
        // What an inner element says of a letter's place goes before what an outer one says.
        foreach (var (element, from, end, style) in within)
        {
            Place("x", (l, v) => l.X = v);
            Place("y", (l, v) => l.Y = v);
            Place("dx", (l, v) => l.Right = v);
            Place("dy", (l, v) => l.Down = v);

            void Place(string attribute, Action<Letter, double> place)
            {
                var values = ((string?)element.Attribute(attribute) ?? "").Split(
                    [' ', ',', '\t', '\n', '\r'],
                    StringSplitOptions.RemoveEmptyEntries
                );
                for (var i = 0; i < values.Length && from + i < Math.Min(end, set.Count); i++)
                    place(
                        set[from + i],
                        TextStyle.Length(values[i], style.Size) ?? throw new CannotBeSetException(TextObstacle.Setting, attribute)
                    );
            }
        }
        return set;

        void Collect(XElement element, TextStyle style)
        {
            var at = within.Count;
            within.Add((element, set.Count, 0, style));
            foreach (var node in element.Nodes())
            {
                if (node is XText characters)
                    Add(characters, style);
                else if (node is XElement inner && inner.Name.LocalName is "tspan" or "a")
                    Collect((XElement)node, style.Within((XElement)node));
                else if (node is XElement other && other.Name.LocalName is not ("title" or "desc"))
                    throw new CannotBeSetException(TextObstacle.Setting, other.Name.LocalName);
            }
            within[at] = within[at] with { End = set.Count };
        }

        // SVG 2, 11.7: without word of it, runs of spaces are one, and none stands at either end.
        void Add(XText node, TextStyle style)
        {
            foreach (var rune in node.Value.EnumerateRunes())
            {
                var isSpace = rune.Value is ' ' or '\t' or '\n' or '\r';
                if (isSpace && afterSpace && !style.KeepsSpaces)
                    continue;
                set.Add(new Letter(isSpace ? " " : rune.ToString(), node, style));
                afterSpace = isSpace;
                if (rune.Value is >= 0x0590 and <= 0x08FF or >= 0xFB1D and <= 0xFDFF or >= 0xFE70 and <= 0xFEFF)
                    throw new CannotBeSetException(TextObstacle.Setting, "direction");
            }
        }
    }

    // The outlines of each node of a text, as path data (SVG 2, 9.3).
    private Dictionary<XText, string> Paths(List<Letter> set)
    {
        var data = new Dictionary<XText, StringBuilder>();
        var (penX, penY) = (0d, 0d);
        var chunk = new List<(Letter Of, Typeface Face, SetGlyph Glyph, double X, double Y)>();
        var (start, anchor) = (0d, set[0].Style.Anchor);
        for (var from = 0; from < set.Count; )
        {
            var first = set[from];
            var end = from + 1;
            while (end < set.Count && ReferenceEquals(set[end].Node, first.Node) && set[end] is { X: null, Y: null, Right: 0, Down: 0 })
                end++;
            if (first.X is not null || first.Y is not null)
            {
                Flush();
                (penX, penY) = (first.X ?? penX, first.Y ?? penY);
                (start, anchor) = (penX, first.Style.Anchor);
            }
            (penX, penY) = (penX + first.Right, penY + first.Down);
            Run(from, end);
            from = end;
        }
        Flush();
        return data.ToDictionary(d => d.Key, d => d.Value.ToString());

        void Run(int from, int end)
        {
            var style = set[from].Style;
            var face =
                typefaces.Find(style.Family, style.Weight, style.IsSlanted)
                ?? throw new CannotBeSetException(TextObstacle.Typeface, style.Family);
            var text = string.Concat(set[from..end].Select(l => l.Text));
            var scale = style.Size / face.UnitsPerEm;
            var glyphs = face.Set(text, hasLigatures: style.LetterSpacing == 0);
            for (var i = 0; i < glyphs.Count; i++)
            {
                var glyph = glyphs[i];
                if (glyph.Id == 0)
                    throw new CannotBeSetException(TextObstacle.Character, Rune.GetRuneAt(text, glyph.Cluster).ToString());
                chunk.Add((set[from], face, glyph, penX + glyph.X * scale, penY + glyph.Y * scale));
                penX += glyph.Advance * scale;
                // Between letters, not between the parts of one.
                if (i + 1 == glyphs.Count || glyphs[i + 1].Cluster != glyph.Cluster)
                    penX += style.LetterSpacing + (text[glyph.Cluster] is ' ' or '\u00A0' ? style.WordSpacing : 0);
            }
        }

        void Flush()
        {
            var shift = anchor switch
            {
                "middle" => (start - penX) / 2,
                "end" => start - penX,
                _ => 0,
            };
            foreach (var (of, face, glyph, x, y) in chunk)
            {
                using var outline = face.Outline(glyph.Id);
                if (!data.TryGetValue(of.Node, out var told))
                    data[of.Node] = told = new StringBuilder();
                if (outline is not null)
                    Write(outline, x + shift, y, of.Style.Size / face.UnitsPerEm, told);
            }
            chunk.Clear();
        }
    }

    private static void Write(SKPath outline, double x, double y, double scale, StringBuilder data)
    {
        // Finer than anybody prints or cuts, at any size of letters.
        var decimals = Math.Clamp(3 - (int)Math.Floor(Math.Log10(Math.Max(scale * 1000, 1e-6))), 2, 9);
        var points = new SKPoint[4];
        using var verbs = outline.CreateRawIterator();
        for (var verb = verbs.Next(points); verb != SKPathVerb.Done; verb = verbs.Next(points))
        {
            var (letter, count) = verb switch
            {
                SKPathVerb.Move => ('M', 1),
                SKPathVerb.Line => ('L', 1),
                SKPathVerb.Quad => ('Q', 2),
                SKPathVerb.Cubic => ('C', 3),
                SKPathVerb.Close => ('Z', 0),
                _ => throw new InvalidOperationException($"A glyph has no {verb}."),
            };
            data.Append(letter);
            // A piece begins where the last one ended, which is the first of its points.
            var from = letter == 'M' ? 0 : 1;
            for (var i = from; i < from + count; i++)
            {
                if (i > from)
                    data.Append(' ');
                data.Append(Number(x + points[i].X * scale, decimals)).Append(' ').Append(Number(y + points[i].Y * scale, decimals));
            }
        }
    }

    private static string Number(double value, int decimals) =>
        Math.Round(value, decimals).ToString("0.#########", CultureInfo.InvariantCulture);

    // Elements within a text as what they are around outlines: with all that they say of colour, and nothing that they say of letters.
    private static void Fill(XElement text, XElement into, Dictionary<XText, string> paths)
    {
        foreach (var node in text.Nodes())
        {
            if (node is XText characters)
            {
                if (paths.GetValueOrDefault(characters) is { Length: > 0 } data)
                    into.Add(new XElement(text.Name.Namespace + "path", new XAttribute("d", data)));
            }
            else if (node is XElement { Name.LocalName: "title" or "desc" } told)
                into.Add(new XElement(told));
            else if (node is XElement inner)
            {
                var group = Renamed(inner, inner.Name.LocalName == "a" ? "a" : "g");
                Fill(inner, group, paths);
                if (!group.HasElements)
                    continue;
                if (group.Name.LocalName == "a" || (group.HasAttributes && group.Elements().Count() > 1))
                    into.Add(group);
                else
                {
                    foreach (var child in group.Elements().ToList())
                    {
                        foreach (var attribute in group.Attributes().Where(a => child.Attribute(a.Name) is null))
                            child.Add(new XAttribute(attribute));
                        child.Remove();
                        into.Add(child);
                    }
                }
            }
        }
    }

    private static XElement Renamed(XElement element, string name, params object[] more)
    {
        var made = new XElement(element.Name.Namespace + name);
        foreach (var attribute in element.Attributes().Where(a => !a.IsNamespaceDeclaration))
        {
            if (attribute.Name == "style")
            {
                var kept = attribute.Value.Split(';').Select(d => d.Trim()).Where(d => d.Length > 0 && !IsOfTexts(d.Split(':')[0].Trim()));
                if (string.Join(";", kept) is { Length: > 0 } style)
                    made.SetAttributeValue("style", style);
            }
            else if (!IsOfTexts(attribute.Name.LocalName))
                made.Add(new XAttribute(attribute));
        }
        made.Add(more);
        return made;
    }

    private static bool IsOfTexts(string property) => OfTexts.Contains(property) || property.StartsWith("font", StringComparison.Ordinal);
}
