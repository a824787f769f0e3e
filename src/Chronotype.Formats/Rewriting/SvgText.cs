using System.Text;
using System.Text.RegularExpressions;
using System.Xml;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// The text of an SVG, which is changed where it stands, so that every other character stays as its maker wrote it. A parser of XML says
/// where things stand.
/// </summary>
internal sealed partial class SvgText
{
    private readonly Encoding coding;
    private readonly byte[] mark;

    private SvgText(string text, Encoding coding, byte[] mark) => (Text, this.coding, this.mark) = (text, coding, mark);

    public string Text { get; }

    /// <exception cref="UnreadableFileException">It is too long, or of a coding that does not give back what was read.</exception>
    public static SvgText Read(Stream content)
    {
        if (content.Length > Limits.SvgBytes)
            throw new UnreadableFileException(new FileFault(FileFaultCode.TextTooLong, "", Limits.SvgBytes));
        content.Position = 0;
        var bytes = new byte[content.Length];
        content.ReadExactly(bytes);
        var (coding, mark) = CodingOf(bytes);
        var text = coding.GetString(bytes, mark, bytes.Length - mark);
        return coding.GetBytes(text).AsSpan().SequenceEqual(bytes.AsSpan(mark))
            ? new SvgText(text, coding, bytes[..mark])
            : throw new UnreadableFileException(FileFaultCode.NotUnderstood);
    }

    public void Write(string text, Stream output)
    {
        output.Write(mark);
        output.Write(coding.GetBytes(text));
    }

    /// <summary>A parser that tells lines and columns of the text.</summary>
    public XmlReader Open() =>
        XmlReader.Create(new StringReader(Text), new XmlReaderSettings { DtdProcessing = DtdProcessing.Ignore, XmlResolver = null });

    /// <summary>The text without some stretches, in order, none within another.</summary>
    public string Without(IEnumerable<(int From, int End)> stretches) => With(stretches.Select(s => (s.From, s.End, "")));

    /// <summary>The text with others in the place of some stretches, in order, none within another.</summary>
    public string With(IEnumerable<(int From, int End, string Text)> stretches)
    {
        var made = new StringBuilder(Text.Length);
        var copied = 0;
        foreach (var (from, end, text) in stretches)
        {
            made.Append(Text, copied, from - copied).Append(text);
            copied = end;
        }
        return made.Append(Text, copied, Text.Length - copied).ToString();
    }

    /// <summary>Behind the tag that begins at a place (XML 1.0, 3.1): a “>” in an attribute ends none.</summary>
    public static int TagEnd(string text, int from)
    {
        var quote = '\0';
        for (var i = from; i < text.Length; i++)
        {
            if (quote != '\0')
                quote = text[i] == quote ? '\0' : quote;
            else if (text[i] is '"' or '\'')
                quote = text[i];
            else if (text[i] == '>')
                return i + 1;
        }
        return text.Length;
    }

    // From an attribute's name to what stands between its quotes (XML 1.0, 2.3 and 3.1).
    public static (int From, int End) ValueAt(string text, int name)
    {
        var at = text.IndexOf('=', name) + 1;
        while (char.IsWhiteSpace(text[at]))
            at++;
        return (at + 1, text.IndexOf(text[at], at + 1));
    }

    // XML 1.0, 2.11: a line ends at a line feed, a carriage return, or both.
    public static List<int> LineStarts(string text)
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

    [GeneratedRegex("""^<\?xml[^>]*\bencoding\s*=\s*["']([A-Za-z0-9._-]+)["']""")]
    private static partial Regex Declared();
}
