using System.Buffers;
using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Core.References;

/// <summary>How a format writes where a reference leads.</summary>
public enum ReferenceSyntax
{
    /// <summary>As a URI reference (RFC 3986), or with letters of other scripts as they are (RFC 3987).</summary>
    Uri,

    /// <summary>As a path of a file system, letter by letter.</summary>
    Path,
}

/// <summary>The syntax of a format.</summary>
public static class ReferenceSyntaxes
{
    /// <summary>SVG 2 (16.1, "URL references"), glTF 2.0 (2.8, "URIs") and OpenTimelineIO write URIs; a text what its pattern finds.</summary>
    public static ReferenceSyntax Of(FileFormat format) =>
        format is FileFormat.Svg or FileFormat.Gltf or FileFormat.Timeline ? ReferenceSyntax.Uri : ReferenceSyntax.Path;
}

/// <summary>What kind of place is written.</summary>
public enum WrittenKind
{
    /// <summary>A part of the file itself, or nothing.</summary>
    Itself,

    /// <summary>Content inside the file (RFC 2397).</summary>
    Embedded,

    /// <summary>An address of the web, or of any other scheme.</summary>
    Web,

    /// <summary>A path from a root, a drive, or another computer.</summary>
    Absolute,

    /// <summary>A path from where the file stands.</summary>
    Relative,
}

/// <summary>A reference as it is written, taken apart. Nothing that it says is trusted.</summary>
/// <param name="Kind">What kind of place it says.</param>
/// <param name="Path">The path, unescaped, with <c>/</c> between its parts; empty where it has none.</param>
/// <param name="Literal">
/// The path letter by letter, where it differs: what a program means that does not escape. Null where there is but one reading.
/// </param>
/// <param name="Tail">What stands behind the path: a part of the other file, such as <c>#wing</c>. Kept when the path is rewritten.</param>
public readonly record struct WrittenReference(WrittenKind Kind, string Path, string? Literal, string Tail)
{
    private static readonly SearchValues<char> TailBegins = SearchValues.Create("?#");

    /// <summary>The last part of the path, with which a file may be found elsewhere.</summary>
    public string Name => Path[(Path.LastIndexOf('/') + 1)..];

    /// <summary>Reads what is written.</summary>
    public static WrittenReference Read(string written, ReferenceSyntax syntax)
    {
        var text = written.Trim();
        if (text.Length == 0)
            return new(WrittenKind.Itself, "", null, "");
        if (syntax == ReferenceSyntax.Path)
            return ReadPath(text);
        if (text[0] == '#')
            return new(WrittenKind.Itself, "", null, text);
        if (text.StartsWith("data:", StringComparison.OrdinalIgnoreCase))
            return new(WrittenKind.Embedded, "", null, "");
        if (IsDrive(text) || text.StartsWith(@"\\", StringComparison.Ordinal))
            return new(WrittenKind.Absolute, Slashed(text), null, "");
        if (text.StartsWith("//", StringComparison.Ordinal))
            return new(WrittenKind.Web, "", null, "");
        var scheme = SchemeLength(text);
        if (scheme > 0 && !text.AsSpan(0, scheme).Equals("file", StringComparison.OrdinalIgnoreCase))
            return new(WrittenKind.Web, "", null, "");
        var path = scheme > 0 ? text[(scheme + 1)..] : text;
        var end = path.AsSpan().IndexOfAny(TailBegins);
        var (stem, tail) = end < 0 ? (path, "") : (path[..end], path[end..]);
        var plain = Unescape(Slashed(stem));
        var isAbsolute = scheme > 0 || plain.StartsWith('/');
        // A file may be called "50%.png", or "a#b.png", by a program that escapes nothing.
        var literal = Slashed(path);
        return new(isAbsolute ? WrittenKind.Absolute : WrittenKind.Relative, plain, literal == plain ? null : literal, tail);
    }

    private static WrittenReference ReadPath(string text)
    {
        var path = Slashed(text);
        if (text.StartsWith("data:", StringComparison.OrdinalIgnoreCase))
            return new(WrittenKind.Embedded, "", null, "");
        var scheme = SchemeLength(path);
        if (scheme > 1 && path.AsSpan(scheme).StartsWith("://", StringComparison.Ordinal))
            return path.StartsWith("file:", StringComparison.OrdinalIgnoreCase)
                ? new(WrittenKind.Absolute, Unescape(path[(scheme + 1)..]), null, "")
                : new(WrittenKind.Web, "", null, "");
        return new(
            IsDrive(path) || path[0] is '/' || path.StartsWith("~/", StringComparison.Ordinal)
                ? WrittenKind.Absolute
                : WrittenKind.Relative,
            path,
            null,
            ""
        );
    }

    // Programs on Windows write "\" in URIs, too, and readers of the web take it for "/".
    private static string Slashed(string path) => path.Replace('\\', '/');

    private static bool IsDrive(string text) => text.Length >= 2 && text[1] == ':' && char.IsAsciiLetter(text[0]);

    // RFC 3986, 3.1; one letter is a drive.
    private static int SchemeLength(string text)
    {
        if (!char.IsAsciiLetter(text[0]))
            return 0;
        for (var i = 1; i < text.Length; i++)
        {
            if (text[i] == ':')
                return i > 1 ? i : 0;
            if (!char.IsAsciiLetterOrDigit(text[i]) && text[i] is not ('+' or '-' or '.'))
                return 0;
        }
        return 0;
    }

    // RFC 3986, 2.1 and 2.4: an escaped separator is none, and what is no UTF-8 stays as it is written.
    private static string Unescape(string text)
    {
        if (!text.Contains('%'))
            return text;
        var bytes = new byte[Encoding.UTF8.GetMaxByteCount(text.Length)];
        var length = 0;
        for (var i = 0; i < text.Length; )
        {
            if (
                text[i] == '%'
                && i + 2 < text.Length
                && char.IsAsciiHexDigit(text[i + 1])
                && char.IsAsciiHexDigit(text[i + 2])
                && Convert.ToByte(text.Substring(i + 1, 2), 16) is var value and not (0 or (byte)'/' or (byte)'\\')
            )
            {
                bytes[length++] = value;
                i += 3;
                continue;
            }
            var letters = char.IsHighSurrogate(text[i]) && i + 1 < text.Length ? 2 : 1;
            length += Encoding.UTF8.GetBytes(text.AsSpan(i, letters), bytes.AsSpan(length));
            i += letters;
        }
        try
        {
            return Strict.GetString(bytes, 0, length);
        }
        catch (DecoderFallbackException)
        {
            return text;
        }
    }

    private static readonly UTF8Encoding Strict = new(encoderShouldEmitUTF8Identifier: false, throwOnInvalidBytes: true);
}
