using System.Text;
using System.Text.RegularExpressions;
using System.Xml;
using System.Xml.Linq;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>
/// An SVG made safe to draw (SVG 2, W3C Candidate Recommendation): no entities, no scripts, nothing fetched. What it
/// names outside itself is taken out and told.
/// </summary>
/// <param name="Safe">The drawing as UTF-8, without anything that leads outside.</param>
/// <param name="OutsideNames">What it named outside, as written, each once; empty for what is hidden in escapes.</param>
public sealed partial record SvgFile(byte[] Safe, IReadOnlyList<string> OutsideNames)
{
    /// <summary>Its groups, texts and pictures.</summary>
    public IReadOnlyList<LayerFacts> Layers { get; private init; } = [];

    /// <summary>What it refers to or carries inside.</summary>
    public IReadOnlyList<ReferenceFacts> References { get; private init; } = [];

    private const int MaxDepth = 256,
        MaxElements = 200_000,
        MaxAttributes = 2_000_000;

    private static readonly HashSet<string> Dropped = ["script", "foreignObject", "iframe", "audio", "video", "object", "embed", "handler"];

    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="only">The way to a layer that is drawn alone, as <see cref="LayerFacts.Source"/> says it; null for all of it.</param>
    /// <exception cref="UnreadableFileException">It is no SVG, too large or too deep to draw, or defines entities.</exception>
    public static SvgFile Read(Stream content, string? only = null)
    {
        if (content.Length > Limits.SvgBytes)
            throw new UnreadableFileException(new FileFault(FileFaultCode.TextTooLong, "", Limits.SvgBytes));
        content.Position = 0;
        var root = Load(content);
        if (root.Name.LocalName != "svg")
            throw new UnreadableFileException(new FileFault(FileFaultCode.WrongBeginning, root.Name.LocalName));

        // What it is made of is told as it stands, before anything is taken out.
        var (layers, references) = (SvgOutline.Layers(root), SvgOutline.References(root));
        if (only is not null)
            SvgOutline.LeaveOnly(root, only);
        var outside = new List<string>();
        var elements = root.DescendantsAndSelf().ToList();
        foreach (var element in elements)
        {
            if (Dropped.Contains(element.Name.LocalName))
            {
                if (element.Parent is not null)
                    element.Remove();
                continue;
            }
            foreach (var attribute in element.Attributes().ToList())
                Clean(element, attribute, outside);
            if (element.Name.LocalName == "style" && LeadsOutside(element.Value, outside))
                element.RemoveNodes();
        }
        foreach (var instruction in root.Document!.Nodes().Where(n => n is XProcessingInstruction or XDocumentType).ToList())
            instruction.Remove();
        using var memory = new MemoryStream();
        using (var writer = XmlWriter.Create(memory, new XmlWriterSettings { Encoding = new UTF8Encoding(false) }))
            root.Document.Save(writer);
        return new SvgFile(memory.ToArray(), outside.Distinct().ToList()) { Layers = layers, References = references };
    }

    /// <summary>The tree of a drawing as it stands, with what leads outside.</summary>
    /// <exception cref="UnreadableFileException">As for <see cref="Read"/>.</exception>
    internal static XElement Tree(Stream content)
    {
        content.Position = 0;
        // A space between two parts of a text is one that is seen.
        return Load(content, LoadOptions.PreserveWhitespace);
    }

    private static XElement Load(Stream content, LoadOptions more = LoadOptions.None)
    {
        try
        {
            // An old DOCTYPE is common and harmless when it is skipped; an entity that it defined is then unknown and refused below.
            using var reader = new LimitedXmlReader(
                XmlReader.Create(
                    content,
                    new XmlReaderSettings
                    {
                        DtdProcessing = DtdProcessing.Ignore,
                        XmlResolver = null,
                        MaxCharactersInDocument = Limits.SvgBytes,
                    }
                ),
                MaxDepth,
                MaxElements,
                MaxAttributes
            );
            return XDocument.Load(reader, LoadOptions.SetLineInfo | more).Root!;
        }
        catch (XmlException e) when (e.Message.Contains("entity", StringComparison.OrdinalIgnoreCase))
        {
            throw new UnreadableFileException(new FileFault(FileFaultCode.DefinesEntities, "", e.LineNumber), e);
        }
        catch (XmlException e)
        {
            throw new UnreadableFileException(new FileFault(FileFaultCode.NotWellFormed, "", e.LineNumber), e);
        }
    }

    private static void Clean(XElement element, XAttribute attribute, List<string> outside)
    {
        var name = attribute.Name.LocalName;
        if (name.StartsWith("on", StringComparison.OrdinalIgnoreCase))
            attribute.Remove();
        else if (name is "href" or "src" && !attribute.IsNamespaceDeclaration)
        {
            if (IsLocal(attribute.Value))
                return;
            // A link that a reader may click is no part of the drawing.
            if (element.Name.LocalName != "a")
                outside.Add(Shown(attribute.Value));
            attribute.Remove();
        }
        else if (name == "base")
            attribute.Remove();
        else if (!attribute.IsNamespaceDeclaration && MayHoldAddress(attribute.Value) && LeadsOutside(attribute.Value, outside))
            attribute.Remove();
    }

    private static bool MayHoldAddress(string value) => value.Contains("url(", StringComparison.OrdinalIgnoreCase) || value.Contains('\\');

    // Embedded pictures are drawn when they are flat ones of a sensible size; an SVG within an SVG is not.
    private static bool IsLocal(string reference)
    {
        reference = reference.Trim();
        if (reference.StartsWith('#'))
            return true;
        var data = EmbeddedPicture().Match(reference);
        if (!data.Success)
            return false;
        try
        {
            return Pictures.Measure(Convert.FromBase64String(data.Groups[1].Value.Trim())) is var (width, height)
                && Limits.TooLarge(width, height) is null;
        }
        catch (Exception e) when (e is FormatException or UnreadableFileException)
        {
            return false;
        }
    }

    private static bool LeadsOutside(string css, List<string> outside)
    {
        var before = outside.Count;
        // A backslash can spell "url" or "@import" in ways that a search does not see.
        if (css.Contains('\\'))
            outside.Add("");
        foreach (Match match in CssUrl().Matches(css))
        {
            if (!IsLocal(match.Groups[1].Value.Trim().Trim('"', '\'')))
                outside.Add(Shown(match.Groups[1].Value));
        }
        foreach (Match match in CssImport().Matches(css))
            outside.Add(Shown(match.Groups[1].Value));
        return outside.Count > before;
    }

    private static string Shown(string reference)
    {
        var text = reference.Trim().Trim('"', '\'');
        return text.Length > 60 ? text[..60] + "…" : text;
    }

    [GeneratedRegex(@"^data:image/(?:png|jpe?g|webp);base64,(.*)$", RegexOptions.Singleline | RegexOptions.IgnoreCase)]
    private static partial Regex EmbeddedPicture();

    // CSS Cascading and Inheritance 4, 2: a rule that imports names a style by url() or by a string.
    [GeneratedRegex("""@import(?>\s*)(?!url\()["']?([^"';]*)""", RegexOptions.IgnoreCase)]
    private static partial Regex CssImport();

    [GeneratedRegex(@"url\(([^)]*)\)?", RegexOptions.IgnoreCase)]
    private static partial Regex CssUrl();
}
