using Chronotype.Core.Content;
using Chronotype.Formats.Documents;
using Chronotype.Formats.Films;
using Chronotype.Formats.Scenes;
using Chronotype.Formats.Sound;
using Chronotype.Formats.Texts;
using Chronotype.Formats.Timelines;

namespace Chronotype.Formats;

/// <summary>The formats that are read for what is inside.</summary>
public static class FormatList
{
    /// <summary>The first that a file's beginning fits is the file's own.</summary>
    private static readonly IReadOnlyList<IFormat> All =
    [
        new FlatFormat(FileFormat.Png, [0x89, .. "PNG\r\n\x1A\n"u8]),
        new FlatFormat(FileFormat.Jpeg, [0xFF, 0xD8, 0xFF]),
        new FlatFormat(FileFormat.Tiff, [.. "II*\0"u8], [.. "MM\0*"u8], [.. "II+\0"u8], [.. "MM\0+"u8]),
        new FlatFormat(FileFormat.Gif, [.. "GIF87a"u8], [.. "GIF89a"u8]),
        new WebPFormat(),
        new WaveFormat(),
        new AiffFormat(),
        new FlacFormat(),
        new VorbisFormat(),
        new OpusFormat(),
        new MpegFormat(),
        new PdfFormat(),
        new FilmFormat(),
        new OpenRasterFormat(),
        new TimelineFormat(),
        new GltfFormat(),
        new SvgFormat(),
        // The last: whatever else is text, too, is what it is.
        new TextFormat(),
    ];

    /// <summary>Null for one that is not read.</summary>
    /// <param name="head">A file's first bytes.</param>
    public static IFormat? Of(ReadOnlySpan<byte> head)
    {
        foreach (var format in All)
        {
            if (format.Begins(head))
                return format;
        }
        return null;
    }

    /// <inheritdoc cref="Of(ReadOnlySpan{byte})"/>
    /// <param name="content">Seekable; stands at its beginning afterwards.</param>
    public static IFormat? Of(Stream content)
    {
        var buffer = new byte[FormatSniffer.Length];
        content.Position = 0;
        var read = content.ReadAtLeast(buffer, buffer.Length, throwOnEndOfStream: false);
        content.Position = 0;
        return Of(buffer.AsSpan(0, read));
    }

    /// <summary>Null for <see cref="FileFormat.Other"/>.</summary>
    public static IFormat? Of(FileFormat format) => All.FirstOrDefault(f => f.Format == format);
}
