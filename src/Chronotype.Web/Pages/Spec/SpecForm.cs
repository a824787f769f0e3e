using System.Globalization;
using Chronotype.Core.Content;
using Chronotype.Core.Structure;

namespace Chronotype.Web.Pages.Spec;

/// <summary>A spec as it is typed; empty fields say nothing.</summary>
public sealed class SpecForm
{
    public string? SampleRate { get; set; }
    public string? Bits { get; set; }
    public string? Channels { get; set; }
    public string? Width { get; set; }
    public string? Height { get; set; }
    public string? Resolution { get; set; }
    public string? Colour { get; set; }
    public string? Depth { get; set; }
    public string? FrameWidth { get; set; }
    public string? FrameHeight { get; set; }
    public string? FrameRate { get; set; }

    public static SpecForm Of(ProjectSpec spec) =>
        new()
        {
            SampleRate = Text(spec.Sound?.SampleRate),
            Bits = Text(spec.Sound?.Bits),
            Channels = Text(spec.Sound?.Channels),
            Width = Text(spec.Picture?.Width),
            Height = Text(spec.Picture?.Height),
            Resolution = Text(spec.Picture?.Resolution),
            Colour = spec.Picture?.Colour?.ToString(),
            Depth = Text(spec.Picture?.Depth),
            FrameWidth = Text(spec.Motion?.Width),
            FrameHeight = Text(spec.Motion?.Height),
            FrameRate = spec.Motion?.FramesPerSecond?.ToString("0.###", CultureInfo.InvariantCulture),
        };

    /// <returns>The spec, or the field that holds no number with what stands in it.</returns>
    public (ProjectSpec? Spec, SpecPoint? Fault) Read()
    {
        SpecPoint? fault = null;
        int? Whole(string? text, SpecPoint point)
        {
            if (string.IsNullOrWhiteSpace(text))
                return null;
            if (int.TryParse(text.Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var number))
                return number;
            fault ??= point;
            return null;
        }
        var rate = (double?)null;
        if (!string.IsNullOrWhiteSpace(FrameRate))
        {
            // A comma is as good as a point to whoever types it.
            if (double.TryParse(FrameRate.Trim().Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var frames))
                rate = frames;
            else
                fault ??= SpecPoint.FrameRate;
        }
        var colour = (ColourModel?)null;
        if (!string.IsNullOrEmpty(Colour))
        {
            if (Enum.TryParse<ColourModel>(Colour, out var model) && Enum.IsDefined(model))
                colour = model;
            else
                fault ??= SpecPoint.Colour;
        }
        var spec = new ProjectSpec
        {
            Sound = new(Whole(SampleRate, SpecPoint.SampleRate), Whole(Bits, SpecPoint.Bits), Whole(Channels, SpecPoint.Channels)),
            Picture = new(
                Whole(Width, SpecPoint.PixelSize),
                Whole(Height, SpecPoint.PixelSize),
                Whole(Resolution, SpecPoint.Resolution),
                colour,
                Whole(Depth, SpecPoint.Depth)
            ),
            Motion = new(Whole(FrameWidth, SpecPoint.FrameSize), Whole(FrameHeight, SpecPoint.FrameSize), rate),
        }.Trimmed();
        fault ??= spec.OutOfRange();
        return fault is null ? (spec, null) : (null, fault);
    }

    /// <summary>The same with the parts that a preset speaks of as it says.</summary>
    public SpecForm With(SpecPreset preset)
    {
        var (usual, form) = (Of(preset.Spec), (SpecForm)MemberwiseClone());
        if (preset.Spec.Sound is not null)
            (form.SampleRate, form.Bits, form.Channels) = (usual.SampleRate, usual.Bits, usual.Channels);
        // A size is of the job, not of the trade.
        if (preset.Spec.Picture is not null)
            (form.Resolution, form.Colour, form.Depth) = (usual.Resolution, usual.Colour, usual.Depth);
        if (preset.Spec.Motion is not null)
            (form.FrameWidth, form.FrameHeight, form.FrameRate) = (usual.FrameWidth, usual.FrameHeight, usual.FrameRate);
        return form;
    }

    private static string? Text(int? value) => value?.ToString(CultureInfo.InvariantCulture);
}
