using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>Tells a format from a file's first bytes; a name's extension is not asked, since it may lie.</summary>
public static class FormatSniffer
{
    /// <summary>How many bytes are looked at.</summary>
    public const int Length = 4096;

    public static FileFormat Sniff(Stream content) => FormatList.Of(content)?.Format ?? FileFormat.Other;

    public static FileFormat Sniff(ReadOnlySpan<byte> head) => FormatList.Of(head)?.Format ?? FileFormat.Other;

    /// <summary>Whether a content of no format that is read is compressed as a whole.</summary>
    public static bool IsPacked(Stream content)
    {
        Span<byte> head = stackalloc byte[16];
        content.Position = 0;
        head = head[..content.ReadAtLeast(head, head.Length, throwOnEndOfStream: false)];
        content.Position = 0;
        return IsPacked(head);
    }

    /// <summary>As <see cref="IsPacked(Stream)"/>, by the marks that archives and coded sound, pictures and films begin with.</summary>
    private static bool IsPacked(ReadOnlySpan<byte> head) =>
        // ZIP (APPNOTE 4.3.7, 4.3.16), 7z, gzip (RFC 1952), bzip2, xz, Zstandard (RFC 8878), LZ4 frames, RAR.
        head.StartsWith("PK\x03\x04"u8)
        || head.StartsWith("PK\x05\x06"u8)
        || head.StartsWith((ReadOnlySpan<byte>)[(byte)'7', (byte)'z', 0xBC, 0xAF, 0x27, 0x1C])
        || head.StartsWith((ReadOnlySpan<byte>)[0x1F, 0x8B])
        || head.StartsWith("BZh"u8)
        || head.StartsWith((ReadOnlySpan<byte>)[0xFD, (byte)'7', (byte)'z', (byte)'X', (byte)'Z', 0])
        || head.StartsWith((ReadOnlySpan<byte>)[0x28, 0xB5, 0x2F, 0xFD])
        || head.StartsWith((ReadOnlySpan<byte>)[0x04, 0x22, 0x4D, 0x18])
        || head.StartsWith("Rar!"u8)
        // Ogg with what is not read (RFC 3533), Matroska (RFC 8794), PDF (ISO 32000).
        || head.StartsWith("OggS"u8)
        || head.StartsWith((ReadOnlySpan<byte>)[0x1A, 0x45, 0xDF, 0xA3])
        || head.StartsWith("%PDF"u8)
        // ISO base media files (ISO/IEC 14496-12): MP4, MOV, HEIF, AVIF; and JPEG XL (ISO/IEC 18181-2), bare or in its box.
        || (head.Length >= 8 && head[4..].StartsWith("ftyp"u8))
        || head.StartsWith((ReadOnlySpan<byte>)[0xFF, 0x0A])
        || head.StartsWith("\0\0\0\x0CJXL "u8);
}
