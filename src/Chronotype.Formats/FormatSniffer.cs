using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>Tells a format from a file's first bytes; a name's extension is not asked, since it may lie.</summary>
public static class FormatSniffer
{
    /// <summary>How many bytes are looked at.</summary>
    public const int Length = 4096;

    public static FileFormat Sniff(Stream content)
    {
        var buffer = new byte[Length];
        var read = content.ReadAtLeast(buffer, Length, throwOnEndOfStream: false);
        content.Position = 0;
        return Sniff(buffer.AsSpan(0, read));
    }

    public static FileFormat Sniff(ReadOnlySpan<byte> head)
    {
        if (head.StartsWith((ReadOnlySpan<byte>)[0x89, (byte)'P', (byte)'N', (byte)'G', 13, 10, 26, 10])) return FileFormat.Png;
        if (head.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xD8, 0xFF])) return FileFormat.Jpeg;
        if (head.StartsWith("II*\0"u8) || head.StartsWith("MM\0*"u8) || head.StartsWith("II+\0"u8) || head.StartsWith("MM\0+"u8)) return FileFormat.Tiff;
        if (head.Length >= 12 && head.StartsWith("RIFF"u8) && head[8..].StartsWith("WEBP"u8)) return FileFormat.WebP;
        if (head.Length >= 12 && (head.StartsWith("RIFF"u8) || head.StartsWith("RF64"u8)) && head[8..].StartsWith("WAVE"u8)) return FileFormat.Wave;
        // OpenRaster, "File layout": the first entry is "mimetype", stored, so that its content stands at a fixed place.
        if (head.StartsWith("PK\x03\x04"u8) && head.Length > 54 && head[30..].StartsWith("mimetypeimage/openraster"u8)) return FileFormat.OpenRaster;
        return LooksLikeSvg(head) ? FileFormat.Svg : FileFormat.Other;
    }

    private static bool LooksLikeSvg(ReadOnlySpan<byte> head)
    {
        var text = head.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE]) ? Encoding.Unicode.GetString(head)
            : head.StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF]) ? Encoding.BigEndianUnicode.GetString(head)
            : Encoding.UTF8.GetString(head);
        text = text.TrimStart('\uFEFF', ' ', '\t', '\r', '\n');
        if (!text.StartsWith('<')) return false;
        var at = text.IndexOf("<svg", StringComparison.Ordinal);
        if (at < 0) at = text.IndexOf(":svg", StringComparison.Ordinal);
        return at >= 0 || text.Contains("<!DOCTYPE svg", StringComparison.Ordinal);
    }
}
