using System.Text;
using System.Text.RegularExpressions;
using System.Xml;
using Chronotype.Core.Content;

namespace Chronotype.Formats.References;

/// <summary>
/// Exchanges the links of an SVG where they stand in its text; every other character stays. A parser of XML says where attributes and
/// styles stand, so that no comment and no text is taken for one.
/// </summary>
internal static partial class SvgRewriter
{
    /// <param name="to">Given a link as it is written, what it becomes; null where it stays.</param>
    public static void Rewrite(Stream content, Func<string, string?> to, Stream output)
    {
        if (content.Length > Limits.SvgBytes)
            throw new UnreadableFileException(new FileFault(FileFaultCode.TextTooLong, "", Limits.SvgBytes));
        var bytes = new byte[content.Length];
        content.ReadExactly(bytes);
        var (coding, mark) = CodingOf(bytes);
        var text = coding.GetString(bytes, mark, bytes.Length - mark);
        if (!coding.GetBytes(text).AsSpan().SequenceEqual(bytes.AsSpan(mark)))
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        output.Write(bytes, 0, mark);
        output.Write(coding.GetBytes(Exchange(text, to)));
    }

    private static string Exchange(string text, Func<string, string?> to)
    {
        var lines = LineStarts(text);
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
                    var (from, end) = ValueAt(text, lines[where.LineNumber - 1] + where.LinePosition - 1);
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

    // From an attribute's name to what stands between its quotes (XML 1.0, 2.3 and 3.1).
    private static (int From, int End) ValueAt(string text, int name)
    {
        var at = text.IndexOf('=', name) + 1;
        while (char.IsWhiteSpace(text[at]))
            at++;
        return (at + 1, text.IndexOf(text[at], at + 1));
    }

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

    // XML 1.0, 2.11: a line ends at a line feed, a carriage return, or both.
    private static List<int> LineStarts(string text)
    {
        var starts = new List<int> { 0 };
        for (var i = 0; i < text.Length; i++)
        {
            if (text[i] == '\n' || (text[i] == '\r' && (i + 1 == text.Length || text[i + 1] != '\n')))
                starts.Add(i + 1);
        }
        return starts;
    }

    // XML 1.0, appendix F: the mark at the beginning, else what the declaration says.
    private static (Encoding Coding, int Mark) CodingOf(byte[] bytes)
    {
        if (bytes is [0xEF, 0xBB, 0xBF, ..])
            return (new UTF8Encoding(false), 3);
        if (bytes is [0xFF, 0xFE, ..])
            return (new UnicodeEncoding(bigEndian: false, byteOrderMark: false), 2);
        if (bytes is [0xFE, 0xFF, ..])
            return (new UnicodeEncoding(bigEndian: true, byteOrderMark: false), 2);
        var head = Encoding.Latin1.GetString(bytes, 0, Math.Min(bytes.Length, 200));
        if (Declared().Match(head) is not { Success: true } declared)
            return (new UTF8Encoding(false), 0);
        try
        {
            return (Encoding.GetEncoding(declared.Groups[1].Value), 0);
        }
        catch (ArgumentException e)
        {
            throw new UnreadableFileException(FileFaultCode.NotUnderstood, e);
        }
    }

    [GeneratedRegex(@"url\(([^)]*)\)?", RegexOptions.IgnoreCase)]
    private static partial Regex Url();

    [GeneratedRegex("""^<\?xml[^>]*\bencoding\s*=\s*["']([A-Za-z0-9._-]+)["']""")]
    private static partial Regex Declared();
}
