using System.Text;
using System.Text.RegularExpressions;
using System.Xml;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// Exchanges the links of an SVG where they stand in its text; every other character stays. A parser of XML says where attributes and
/// styles stand, so that no comment and no text is taken for one.
/// </summary>
internal static partial class SvgRewriter
{
    /// <param name="to">Given a link as it is written, what it becomes; null where it stays.</param>
    public static void Rewrite(Stream content, Func<string, string?> to, Stream output)
    {
        var svg = SvgText.Read(content);
        svg.Write(Exchange(svg.Text, to), output);
    }

    private static string Exchange(string text, Func<string, string?> to)
    {
        var lines = SvgText.LineStarts(text);
        var made = new StringBuilder(text.Length + 256);
        var copied = 0;
        using var reader = XmlReader.Create(
            new StringReader(text),
            new XmlReaderSettings { DtdProcessing = DtdProcessing.Ignore, XmlResolver = null }
        );
        var where = (IXmlLineInfo)reader;
        var inStyle = false;
        while (reader.Read())
        {
            if (reader.NodeType == XmlNodeType.EndElement && reader.LocalName == "style")
                inStyle = false;
            else if (reader.NodeType == XmlNodeType.Element)
            {
                inStyle = reader.LocalName == "style" && !reader.IsEmptyElement;
                var isAnchor = reader.LocalName == "a";
                while (reader.MoveToNextAttribute())
                {
                    if (reader.Prefix == "xmlns" || reader.Name == "xmlns")
                        continue;
                    var isLink = reader.LocalName is "href" or "src" && !isAnchor;
                    if (!isLink && !reader.Value.Contains("url(", StringComparison.OrdinalIgnoreCase))
                        continue;
                    var now = isLink ? Link(reader.Value, to) : Css(reader.Value, to);
                    if (now == reader.Value)
                        continue;
                    var (from, end) = SvgText.ValueAt(text, lines[where.LineNumber - 1] + where.LinePosition - 1);
                    Put(from, end, Escaped(now, text[from - 1]));
                }
                reader.MoveToElement();
            }
            else if (
                inStyle
                && reader.NodeType is XmlNodeType.Text or XmlNodeType.CDATA
                && Css(reader.Value, to) is var css
                && css != reader.Value
            )
            {
                var from = lines[where.LineNumber - 1] + where.LinePosition - 1;
                var isData = reader.NodeType == XmlNodeType.CDATA;
                var end = text.IndexOf(isData ? "]]>" : "<", from, StringComparison.Ordinal);
                Put(from, end, isData ? css : Escaped(css, '\0'));
            }
        }
        return made.Append(text, copied, text.Length - copied).ToString();

        void Put(int from, int end, string now)
        {
            made.Append(text, copied, from - copied).Append(now);
            copied = end;
        }
    }

    private static string Link(string value, Func<string, string?> to) =>
        to(value.Trim()) is { } now ? value.Replace(value.Trim(), now, StringComparison.Ordinal) : value;

    private static string Css(string css, Func<string, string?> to) =>
        Url()
            .Replace(
                css,
                match =>
                {
                    var inside = match.Groups[1].Value;
                    var written = inside.Trim('"', '\'', ' ').Trim();
                    return written.Length > 0 && to(written) is { } now
                        ? match.Value.Replace(written, now, StringComparison.Ordinal)
                        : match.Value;
                }
            );

    private static string Escaped(string value, char quote)
    {
        var escaped = value.Replace("&", "&amp;", StringComparison.Ordinal).Replace("<", "&lt;", StringComparison.Ordinal);
        return quote switch
        {
            '"' => escaped.Replace("\"", "&quot;", StringComparison.Ordinal),
            '\'' => escaped.Replace("'", "&apos;", StringComparison.Ordinal),
            _ => escaped,
        };
    }

    [GeneratedRegex(@"url\(([^)]*)\)?", RegexOptions.IgnoreCase)]
    private static partial Regex Url();
}
