using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Rewriting;

/// <summary>Contents inside a link (RFC 2397).</summary>
internal static class DataUri
{
    private const string Scheme = "data:";

    public static bool Is(string uri) => uri.AsSpan().TrimStart().StartsWith(Scheme, StringComparison.OrdinalIgnoreCase);

    /// <returns>Null where it is none, or cannot be read as one.</returns>
    public static byte[]? Read(string uri)
    {
        var comma = uri.IndexOf(',', StringComparison.Ordinal);
        if (!Is(uri) || comma < 0)
            return null;
        var text = uri[(comma + 1)..].Trim();
        // What follows is a part of the resource (RFC 3986, 3.5), not of its bytes.
        if (text.IndexOf('#', StringComparison.Ordinal) is >= 0 and var fragment)
            text = text[..fragment];
        if (!uri.AsSpan(0, comma).TrimEnd().EndsWith(";base64", StringComparison.OrdinalIgnoreCase))
            return Unescaped(text);
        var bytes = new byte[text.Length * 3L / 4 + 3];
        if (text.Contains('%', StringComparison.Ordinal))
            text = Uri.UnescapeDataString(text);
        return Convert.TryFromBase64Chars(text, bytes, out var written) ? bytes[..written] : null;
    }

    /// <summary>The part of the resource that is meant, with its mark; empty for all of it.</summary>
    public static string Fragment(string uri) => uri.IndexOf('#', StringComparison.Ordinal) is >= 0 and var at ? uri[at..] : "";

    public static string Write(string mediaType, byte[] bytes, string fragment) =>
        $"{Scheme}{mediaType};base64,{Convert.ToBase64String(bytes)}{fragment}";

    private static byte[] Unescaped(string text)
    {
        using var bytes = new MemoryStream(text.Length);
        for (var i = 0; i < text.Length; )
        {
            if (
                text[i] == '%'
                && i + 2 < text.Length
                && byte.TryParse(text.AsSpan(i + 1, 2), System.Globalization.NumberStyles.HexNumber, null, out var value)
            )
            {
                bytes.WriteByte(value);
                i += 3;
                continue;
            }
            var length = char.IsHighSurrogate(text[i]) && i + 1 < text.Length ? 2 : 1;
            bytes.Write(Encoding.UTF8.GetBytes(text, i, length));
            i += length;
        }
        return bytes.ToArray();
    }
}

/// <summary>What contents are called where they stand inside others: media types (RFC 6838), and file names' extensions.</summary>
internal static class MediaTypes
{
    private static readonly (string Extension, string MediaType)[] ByName =
    [
        (".png", "image/png"),
        (".jpg", "image/jpeg"),
        (".jpeg", "image/jpeg"),
        (".gif", "image/gif"),
        (".webp", "image/webp"),
        (".svg", "image/svg+xml"),
        (".tif", "image/tiff"),
        (".tiff", "image/tiff"),
        (".avif", "image/avif"),
        (".ktx2", "image/ktx2"),
        (".ttf", "font/ttf"),
        (".otf", "font/otf"),
        (".woff", "font/woff"),
        (".woff2", "font/woff2"),
        (".css", "text/css"),
        (".wav", "audio/wav"),
        (".mp3", "audio/mpeg"),
        (".ogg", "audio/ogg"),
        (".mp4", "video/mp4"),
        (".webm", "video/webm"),
    ];

    /// <summary>By what is in it; where that says nothing, by what it is called.</summary>
    public static string Of(Stream content, string name)
    {
        var extension = ExtensionOf(content);
        if (extension == Unknown)
            extension = Path.GetExtension(name).ToLowerInvariant();
        return ByName.FirstOrDefault(t => t.Extension == extension).MediaType ?? "application/octet-stream";
    }

    public const string Unknown = ".bin";

    /// <summary>The extension that a content's file has by what is in it.</summary>
    public static string ExtensionOf(Stream content)
    {
        Span<byte> head = stackalloc byte[12];
        content.Position = 0;
        head = head[..content.ReadAtLeast(head, head.Length, throwOnEndOfStream: false)];
        content.Position = 0;
        // What is not read here, and is told by its first bytes: fonts (ISO/IEC 14496-22; WOFF 2.0, 4), KTX 2.0.
        if (head.StartsWith("wOF2"u8))
            return ".woff2";
        if (head.StartsWith("wOFF"u8))
            return ".woff";
        if (head.StartsWith("OTTO"u8))
            return ".otf";
        if (head.StartsWith((ReadOnlySpan<byte>)[0, 1, 0, 0]) || head.StartsWith("true"u8))
            return ".ttf";
        if (head.StartsWith((ReadOnlySpan<byte>)[0xAB, (byte)'K', (byte)'T', (byte)'X', (byte)' ', (byte)'2', (byte)'0', 0xBB]))
            return ".ktx2";
        return FormatSniffer.Sniff(content) switch
        {
            FileFormat.Png => ".png",
            FileFormat.Jpeg => ".jpg",
            FileFormat.Gif => ".gif",
            FileFormat.WebP => ".webp",
            FileFormat.Svg => ".svg",
            FileFormat.Tiff => ".tif",
            FileFormat.Wave => ".wav",
            FileFormat.Mpeg => ".mp3",
            FileFormat.Vorbis or FileFormat.Opus => ".ogg",
            FileFormat.Pdf => ".pdf",
            _ => Unknown,
        };
    }
}
