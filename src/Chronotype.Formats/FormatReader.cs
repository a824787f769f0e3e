using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>Reads what is inside a file. Whatever the file is, it answers; it never fails a save.</summary>
public static class FormatReader
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="cancel">FileFacts a large file may be stopped.</param>
    public static FileFacts Read(Stream content, CancellationToken cancel = default)
    {
        if (content.Length == 0)
            return new FileFacts { Fault = new FileFault(FileFaultCode.Empty) };
        var format = FormatSniffer.Sniff(content);
        try
        {
            return format switch
            {
                FileFormat.OpenRaster => OpenRaster(content, cancel),
                FileFormat.Svg => Svg(content),
                FileFormat.Wave => Wave(content),
                FileFormat.Other => new FileFacts { IsPacked = FormatSniffer.IsPacked(content) },
                _ => Flat(content, format),
            };
        }
        catch (UnreadableFileException e)
        {
            return new FileFacts { Format = format, Fault = e.Fault };
        }
        catch (Exception e) when (e is not OperationCanceledException and not IOException and not OutOfMemoryException)
        {
            // A reader that stumbles over a file in a way nobody thought of must not take the save with it.
            return new FileFacts { Format = format, Fault = new FileFault(FileFaultCode.NotUnderstood, e.GetType().Name) };
        }
    }

    private static FileFacts OpenRaster(Stream content, CancellationToken cancel)
    {
        using var file = new OpenRasterFile(content);
        var isTooLarge = Limits.TooLarge(file.Width, file.Height) is not null;
        var (layers, inside) = file.ReadParts(cancel);
        return new FileFacts
        {
            Format = FileFormat.OpenRaster,
            Picture = new PictureFacts(file.Width, file.Height),
            Layers = layers,
            Inside = inside,
            Notices = isTooLarge ? [new FileNotice(FileNoticeCode.NotDrawn, [], file.Width, file.Height)] : [],
        };
    }

    private static FileFacts Svg(Stream content)
    {
        var svg = SvgFile.Read(content);
        var (width, height) = Pictures.Measure(svg.Safe);
        return new FileFacts
        {
            Format = FileFormat.Svg,
            Picture = new PictureFacts(width, height),
            Notices =
                svg.OutsideNames.Count == 0
                    ? []
                    : [new FileNotice(FileNoticeCode.NamesOutside, [.. svg.OutsideNames.Take(3)], svg.OutsideNames.Count)],
        };
    }

    private static FileFacts Wave(Stream content)
    {
        var wave = WaveFile.Open(content);
        return new FileFacts
        {
            Format = FileFormat.Wave,
            Sound = wave.Facts,
            Fault = wave.Truncated ? new FileFault(FileFaultCode.SoundCutShort, "", wave.Facts.Duration.TotalSeconds) : null,
        };
    }

    private static FileFacts Flat(Stream content, FileFormat format)
    {
        var (width, height, pages) = Pictures.Measure(content);
        if (Limits.TooLarge(width, height) is { } fault)
            return new FileFacts
            {
                Format = format,
                Picture = new PictureFacts(width, height, pages),
                Fault = fault,
            };
        Pictures.Check(content);
        return new FileFacts { Format = format, Picture = new PictureFacts(width, height, pages) };
    }
}
