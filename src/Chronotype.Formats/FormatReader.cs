using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>Reads what is inside a file. Whatever the file is, it answers; it never fails a save.</summary>
public static class FormatReader
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="cancel">Reading a large file may be stopped.</param>
    public static Reading Read(Stream content, CancellationToken cancel = default)
    {
        if (content.Length == 0) return new Reading { Problem = "This file is empty: it has no bytes in it." };
        var format = FormatSniffer.Sniff(content);
        try
        {
            return format switch
            {
                FileFormat.OpenRaster => OpenRaster(content, cancel),
                FileFormat.Svg => Svg(content),
                FileFormat.Wave => Wave(content),
                FileFormat.Other => new Reading(),
                _ => Flat(content, format),
            };
        }
        catch (UnreadableFileException e)
        {
            return new Reading { Format = format, Problem = e.Message };
        }
        catch (Exception e) when (e is not OperationCanceledException and not IOException and not OutOfMemoryException)
        {
            // A reader that stumbles over a file in a way nobody thought of must not take the save with it.
            return new Reading { Format = format, Problem = $"This file could not be read ({e.GetType().Name}). Its bytes are kept as they came." };
        }
    }

    private static Reading OpenRaster(Stream content, CancellationToken cancel)
    {
        using var file = new OpenRasterFile(content);
        var tooLarge = Limits.TooLarge(file.Width, file.Height);
        var (layers, inside) = file.ReadParts(cancel);
        return new Reading
        {
            Format = FileFormat.OpenRaster,
            Picture = new PictureFacts(file.Width, file.Height),
            Layers = layers,
            Inside = inside,
            Notices = tooLarge is null ? [] : [tooLarge],
        };
    }

    private static Reading Svg(Stream content)
    {
        var svg = SvgFile.Read(content);
        var (width, height) = Pictures.Measure(svg.Safe);
        return new Reading
        {
            Format = FileFormat.Svg,
            Picture = new PictureFacts(width, height),
            Notices = svg.OutsideNames.Count == 0
                ? []
                : [$"This SVG names {Things(svg.OutsideNames.Count)} outside itself ({string.Join(", ", svg.OutsideNames.Take(3))}{(svg.OutsideNames.Count > 3 ? ", …" : "")}). Nothing is fetched, so it is drawn without."],
        };
    }

    private static Reading Wave(Stream content)
    {
        var wave = WaveFile.Open(content);
        return new Reading
        {
            Format = FileFormat.Wave,
            Sound = wave.Facts,
            Problem = wave.Truncated
                ? $"This WAVE file is cut short: it promises more sound than the {wave.Facts.Duration.TotalSeconds:0.0} s that are in it. Its bytes are kept as they came."
                : null,
        };
    }

    private static Reading Flat(Stream content, FileFormat format)
    {
        var (width, height, pages) = Pictures.Measure(content);
        if (Limits.TooLarge(width, height) is { } fault) return new Reading { Format = format, Picture = new PictureFacts(width, height, pages), Problem = fault };
        Pictures.Check(content);
        return new Reading { Format = format, Picture = new PictureFacts(width, height, pages) };
    }

    private static string Things(int count) => count == 1 ? "a file" : $"{count} files";
}
