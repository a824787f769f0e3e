using System.Globalization;
using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>A picture of a save for the screen.</summary>
/// <param name="Bytes">The file.</param>
/// <param name="MediaType">As RFC 6838 names it.</param>
public sealed record Preview(byte[] Bytes, string MediaType);

/// <summary>Draws what a save looks like, from its content itself.</summary>
public static class PreviewMaker
{
    /// <summary>The columns of a waveform, one for each pixel of its width.</summary>
    public const int WaveColumns = 1600;

    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="side">The longer side, in pixels, at most.</param>
    /// <param name="page">Of a picture with pages, which, from 0.</param>
    /// <param name="cancel">Drawing a long recording may be stopped.</param>
    /// <returns>Null where the format has nothing to see.</returns>
    /// <exception cref="UnreadableFileException">It cannot be drawn; the fault says why.</exception>
    public static Preview? Make(Stream content, int side, int page = 0, CancellationToken cancel = default)
    {
        switch (FormatSniffer.Sniff(content))
        {
            case FileFormat.OpenRaster:
                using (var file = new OpenRasterFile(content))
                {
                    using var merged = file.OpenMerged() ?? throw new UnreadableFileException(FileFaultCode.NoMergedPicture);
                    using var seekable = Buffered(merged);
                    return Shrunk(seekable, side);
                }
            case FileFormat.Svg:
                return new Preview(Pictures.ShrinkSvg(SvgFile.Read(content).Safe, Math.Min(side, Limits.SvgSide)), "image/webp");
            case FileFormat.Wave:
                return new Preview(Waveform(WaveFile.Open(content), content, cancel), "image/svg+xml");
            case FileFormat.Other:
                return null;
            default:
                return page > 0 ? new Preview(Pictures.ShrinkPage(content, page, side), "image/webp") : Shrunk(content, side);
        }
    }

    private static Preview Shrunk(Stream content, int side)
    {
        var (width, height, _) = Pictures.Measure(content);
        if (Limits.TooLarge(width, height) is { } fault)
            throw new UnreadableFileException(fault);
        return new Preview(Pictures.Shrink(content, side), "image/webp");
    }

    // A zip's entry cannot be sought in, and the picture library seeks; a large one goes through a file, not through memory.
    internal static Stream Buffered(Stream entry)
    {
        var file = new FileStream(
            Path.Combine(Path.GetTempPath(), $"chronotype-{Guid.NewGuid():N}"),
            new FileStreamOptions
            {
                Mode = FileMode.CreateNew,
                Access = FileAccess.ReadWrite,
                Options = FileOptions.DeleteOnClose,
            }
        );
        try
        {
            using var bounded = new BoundedStream(entry, Limits.Pixels * 4);
            bounded.CopyTo(file);
            file.Position = 0;
            return file;
        }
        catch (InvalidDataException e)
        {
            file.Dispose();
            throw new UnreadableFileException(FileFaultCode.PartDamaged, e);
        }
        catch
        {
            file.Dispose();
            throw;
        }
    }

    private static byte[] Waveform(WaveFile wave, Stream content, CancellationToken cancel)
    {
        const int height = 420,
            half = height / 2;
        var peaks = wave.Peaks(content, WaveColumns, cancel);
        var path = new StringBuilder();
        for (var x = 0; x < peaks.Length; x++)
        {
            // Silence is drawn as a hairline, so that it is seen to be there.
            var top = half - Math.Max(peaks[x].High * (half - 6), 0.5);
            var bottom = half - Math.Min(peaks[x].Low * (half - 6), -0.5);
            path.Append(CultureInfo.InvariantCulture, $"M{x}.5 {top:0.#}V{bottom:0.#}");
        }
        return Encoding.UTF8.GetBytes(
            $"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WaveColumns} {height}" width="{WaveColumns}" height="{height}" """
                + $"""preserveAspectRatio="none"><path d="{path}" stroke="#f3f3f1" stroke-width="1" fill="none"/></svg>"""
        );
    }
}
