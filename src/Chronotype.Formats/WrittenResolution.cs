using System.Buffers.Binary;
using Chronotype.Core.Content;
using NetVips;

namespace Chronotype.Formats;

/// <summary>Tells whether a picture says how dense its pixels are; where it does not, the picture library answers with a usual number.</summary>
internal static class WrittenResolution
{
    private const int MostChunks = 1000;

    /// <param name="content">Seekable.</param>
    /// <param name="format">Its format.</param>
    /// <param name="image">The same, opened.</param>
    public static bool Is(Stream content, FileFormat format, Image image) =>
        image.Contains("exif-ifd0-XResolution")
        || format switch
        {
            FileFormat.Png => HasPhys(content),
            FileFormat.Jpeg => HasDensity(content),
            _ => true,
        };

    // PNG (ISO/IEC 15948), 11.3.5.3: "pHYs" stands before the pixels; of unit 0 it tells only the shape of a pixel.
    private static bool HasPhys(Stream content)
    {
        content.Position = 8;
        Span<byte> head = stackalloc byte[17];
        for (var n = 0; n < MostChunks && content.ReadAtLeast(head[..8], 8, throwOnEndOfStream: false) == 8; n++)
        {
            var (length, next) = (BinaryPrimitives.ReadUInt32BigEndian(head), content.Position);
            if (head[4..].StartsWith("IDAT"u8))
                return false;
            if (head[4..].StartsWith("pHYs"u8))
                return content.ReadAtLeast(head[..9], 9, throwOnEndOfStream: false) == 9 && head[8] == 1;
            if (length > content.Length - next)
                return false;
            content.Position = next + length + 4;
        }
        return false;
    }

    // JFIF (ITU-T T.871), 10.1: the first segment says units of 1, an inch, or 2, a centimetre; 0 is only the shape of a pixel.
    private static bool HasDensity(Stream content)
    {
        content.Position = 2;
        Span<byte> head = stackalloc byte[12];
        return content.ReadAtLeast(head, head.Length, throwOnEndOfStream: false) == head.Length
            && head.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xE0])
            && head[4..].StartsWith("JFIF\0"u8)
            && head[11] is (1 or 2);
    }
}
