using System.Globalization;
using Chronotype.Core.Content;
using Chronotype.Core.Structure;
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
