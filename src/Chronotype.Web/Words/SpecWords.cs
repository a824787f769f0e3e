using System.Globalization;
using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Projects;

namespace Chronotype.Web.Words;

/// <summary>What files are, and what they should be.</summary>
public static class SpecWords
{
    public static string Title(SpecPoint point) =>
        point switch
        {
            SpecPoint.SampleRate => "Sample rate",
            SpecPoint.Bits => "Bits of a sample",
            SpecPoint.Channels => "Channels",
            SpecPoint.PixelSize => "Picture size",
            SpecPoint.Resolution => "Resolution",
            SpecPoint.Colour => "Colour",
            SpecPoint.Depth => "Bits of a channel",
            SpecPoint.FrameSize => "Frame size",
            SpecPoint.FrameRate => "Frame rate",
            _ => throw new ArgumentOutOfRangeException(nameof(point), point, "No one has found words for it."),
        };

    /// <summary>What a file that is off is: "44.1 kHz, mono".</summary>
    /// <summary>What a file becomes that is converted to what it should be.</summary>
    public static string Mended(Mendable file)
    {
        var told = file.Recipe switch
        {
            { Sound: { } s } => new[]
            {
                s.SampleRate is { } rate ? $"{rate / 1000.0:0.###} kHz" : null,
                s.Bits != file.File.Measures.Bits ? $"{s.Bits} bit" : null,
                s.Channels switch
                {
                    1 => "mono",
                    2 => "stereo",
                    _ => null,
                },
            },
            { Picture: { } p } =>
            [
                p.Size is { } size && (size.Width, size.Height) != (file.File.Measures.Width, file.File.Measures.Height)
                    ? $"{size.Width} × {size.Height} px"
                    : null,
                p.Size?.Resolution is { } dense && file.File.Points.Contains(SpecPoint.Resolution)
                    ? $"{dense:0} dpi, the same pixels"
                    : null,
                p.Colour switch
                {
                    Core.Outputs.PictureColour.Srgb => "sRGB",
                    Core.Outputs.PictureColour.Grey => "greys",
                    _ => null,
                },
                file.File.Points.Contains(SpecPoint.Depth) ? $"{p.Depth} bit" : null,
            ],
            _ => [],
        };
        var into =
            file.File.Piece is not null ? "a new loose save"
            : file.IsOriginal ? "a copy among the assets"
            : "new content";
        return $"{string.Join(", ", told.Where(t => t is not null))}; {into}";
    }

    public static string Is(OffSpec off) => Is(off.Measures, off.Points);

    public static string Is(FileMeasures file, IEnumerable<SpecPoint> points) => string.Join(", ", points.Select(p => Is(file, p)));

    /// <summary>What of a file is, in one point.</summary>
    public static string Is(FileMeasures file, SpecPoint point) =>
        point switch
        {
            SpecPoint.SampleRate => Rate(file.SampleRate),
            SpecPoint.Bits => $"{file.Bits} bit",
            SpecPoint.Channels => Channels(file.Channels),
            SpecPoint.PixelSize => Size(file.Width, file.Height),
            SpecPoint.Resolution => $"{Number(file.Resolution)} ppi",
            SpecPoint.Colour => Colour(file.Colour),
            SpecPoint.Depth => $"{file.Depth} bit a channel",
            SpecPoint.FrameSize => Size(file.FrameWidth, file.FrameHeight),
            SpecPoint.FrameRate => $"{Number(file.FramesPerSecond)} frames/s",
            _ => throw new ArgumentOutOfRangeException(nameof(point), point, "No one has found words for it."),
        };

    /// <summary>What it should be: "48 kHz", "24 bit or more".</summary>
    public static string Should(ProjectSpec spec, SpecPoint point) =>
        point switch
        {
            SpecPoint.SampleRate => Rate(spec.Sound?.SampleRate),
            SpecPoint.Bits => $"{spec.Sound?.Bits} bit or more",
            SpecPoint.Channels => Channels(spec.Sound?.Channels),
            SpecPoint.PixelSize => Size(spec.Picture?.Width, spec.Picture?.Height),
            SpecPoint.Resolution => $"{spec.Picture?.Resolution} ppi or more",
            SpecPoint.Colour => Colour(spec.Picture?.Colour),
            SpecPoint.Depth => $"{spec.Picture?.Depth} bit a channel or more",
            SpecPoint.FrameSize => Size(spec.Motion?.Width, spec.Motion?.Height),
            SpecPoint.FrameRate => $"{Number(spec.Motion?.FramesPerSecond)} frames/s",
            _ => throw new ArgumentOutOfRangeException(nameof(point), point, "No one has found words for it."),
        };

    /// <summary>A whole spec in a line; empty where it says nothing.</summary>
    public static string Of(ProjectSpec spec)
    {
        var (sound, picture, motion) = (spec.Sound, spec.Picture, spec.Motion);
        return string.Join(
            " · ",
            new[]
            {
                Line(
                    sound?.SampleRate is { } hertz ? Rate(hertz) : null,
                    sound?.Bits is { } bits ? $"{bits} bit" : null,
                    sound?.Channels is { } channels ? Channels(channels) : null
                ),
                Line(
                    picture?.Resolution is { } ppi ? $"{ppi} ppi" : null,
                    picture?.Colour is { } colour ? Colour(colour) : null,
                    picture?.Depth is { } depth ? $"{depth} bit" : null,
                    picture?.Width is { } width ? Size(width, picture.Height) : null
                ),
                Line(
                    motion?.Width is { } frame ? Size(frame, motion.Height) : null,
                    motion?.FramesPerSecond is { } rate ? $"{Number(rate)} frames/s" : null
                ),
            }.Where(p => p.Length > 0)
        );
    }

    public static string Colour(ColourModel? colour) =>
        colour switch
        {
            ColourModel.Grey => "grey",
            ColourModel.Rgb => "RGB",
            ColourModel.Cmyk => "CMYK",
            ColourModel.Lab => "L*a*b*",
            _ => "another colour model",
        };

    private static string Rate(int? hertz) => $"{Number(hertz / 1000.0)} kHz";

    private static string Channels(int? count) =>
        count switch
        {
            1 => "mono",
            2 => "stereo",
            _ => $"{count} channels",
        };

    private static string Size(int? width, int? height) => $"{width} × {height} px";

    private static string Number(double? value) => (value ?? 0).ToString("0.###", CultureInfo.InvariantCulture);

    private static string Line(params string?[] parts) => string.Join(", ", parts.Where(p => p is not null));
}
