using Chronotype.Core.Outputs;

namespace Chronotype.Web.Words;

/// <summary>Words for recipes and for what outputs give up.</summary>
public static class OutputWords
{
    /// <summary>What of a version is not in the output, and what becomes of it.</summary>
    public static (string What, string Becomes, string? Detail) Of(GivenUp loss) =>
        loss.Loss switch
        {
            Loss.Layers => ($"{DisplayText.Count((int)loss.Was, "layer", "layers")} become one", "gone", null),
            Loss.Texts => (
                $"{DisplayText.Count((int)loss.Was, "text", "texts")} can no longer be edited",
                "gone",
                string.Join(", ", loss.Names.Take(6)) + (loss.Names.Count > 6 ? $" and {loss.Names.Count - 6} more" : "")
            ),
            Loss.Outlines => ("What is drawn becomes pixels", "gone", "It can be enlarged no further."),
            Loss.Transparency => ("Transparency becomes background", "gone", null),
            Loss.Depth => ("Fewer bits", $"{loss.Was:0} → {loss.Now:0}", "Fine steps are rounded, with a little noise in their place."),
            Loss.Colour => ("Colours become greys", "gone", null),
            Loss.Profile => ("Colours are told in sRGB", "changed", string.Join(", ", loss.Names)),
            Loss.Pixels => ("Fewer pixels", $"{loss.Was:N0} → {loss.Now:N0} px", "Along the longer side."),
            Loss.Detail => (
                "No more detail than before",
                loss.Was > 0 ? $"{loss.Was:N0} of {loss.Now:N0} dpi" : "enlarged",
                loss.Was > 0
                    ? $"The picture has {loss.Was:N0} pixels an inch at this size; more are made up between them."
                    : "The pixels between are made up."
            ),
            Loss.Edges => ("Cut off at the sides", $"{(1 - loss.Now) * 100:0.0} %", null),
            Loss.Compression => ("The format loses a little", "small", "Each time that it is opened and saved again it loses more."),
            Loss.Pages => ("The first page alone", $"1 of {loss.Was:0}", null),
            Loss.SampleRate => (
                "A lower sample rate",
                $"{loss.Was / 1000:0.#} → {loss.Now / 1000:0.#} kHz",
                "What lies above half of it is gone."
            ),
            Loss.Channels => ("Fewer channels", $"{loss.Was:0} → {loss.Now:0}", null),
            Loss.Time => ("A stretch of it", $"{loss.Was:0.#} → {loss.Now:0.#} s", null),
            _ => throw new ArgumentOutOfRangeException(nameof(loss)),
        };

    /// <summary>The format that a recipe makes.</summary>
    public static string FormatOf(Recipe recipe) =>
        recipe.Picture?.File switch
        {
            PictureFile.Png => "PNG",
            PictureFile.Jpeg => "JPEG",
            PictureFile.WebP => "WebP",
            PictureFile.Tiff => "TIFF",
            _ => "WAVE",
        };

    /// <summary>Who opens it.</summary>
    public static string WhoOpens(Recipe recipe) =>
        recipe.Picture?.File switch
        {
            PictureFile.Png or PictureFile.Jpeg => "Anybody with a browser, and every printer.",
            PictureFile.WebP => "Anybody with a browser. Printers mostly want PNG or TIFF.",
            PictureFile.Tiff => "Printers and picture programs. Browsers do not show it.",
            _ => "Every sound program and player.",
        };

    /// <summary>How it is made, line by line.</summary>
    public static IReadOnlyList<(string What, string How)> Told(Recipe recipe, PictureFrame? frame) =>
        recipe switch
        {
            { Picture: { } picture } => Told(picture, frame),
            { Sound: { } sound } => Told(sound),
            _ => [],
        };

    private static List<(string What, string How)> Told(PictureRecipe picture, PictureFrame? frame)
    {
        var told = new List<(string, string)>();
        if (picture.Size is { } size)
        {
            var (width, height) = frame?.IsTurned == true ? (size.Height, size.Width) : (size.Width, size.Height);
            told.Add(
                ("Size", FormattableString.Invariant($"{width} × {height} {size.Unit}") + (frame?.IsTurned == true ? ", turned" : ""))
            );
            if (size.Resolution is { } dense)
                told.Add(("Resolution", $"{dense:0.##} dpi"));
            told.Add(
                (
                    "Fit",
                    picture.Fit switch
                    {
                        PictureFit.Inside => "all of it, as large as the size allows",
                        PictureFit.Pad => "all of it, with background beside it",
                        _ => "the size is filled",
                    }
                )
            );
        }
        if (frame is not null)
            told.Add(("Pixels", $"{frame.Width:N0} × {frame.Height:N0}"));
        told.Add(
            (
                "Colour",
                picture.Colour switch
                {
                    PictureColour.Srgb => "sRGB",
                    PictureColour.Grey => "greys",
                    _ => "as it is",
                } + (picture.Depth == 16 ? ", 16 bit" : "")
            )
        );
        if (picture.Sharpen > 0)
            told.Add(("Sharpened", $"by {picture.Sharpen:0.#}"));
        told.Add(("Inside it", picture.KeepsMetadata ? "who made it where and when stays" : "who made it where and when is left out"));
        return told;
    }

    private static List<(string What, string How)> Told(SoundRecipe sound)
    {
        var told = new List<(string, string)>
        {
            ("Sample rate", sound.SampleRate is { } rate ? $"{rate / 1000.0:0.#} kHz" : "as it is"),
            ("Bits", sound.Bits is { } bits ? $"{bits}" : "as they are"),
        };
        if (sound.Channels is { } channels)
            told.Add(("Channels", channels == 1 ? "mono" : "stereo"));
        if (sound.Loudness is { } loudness)
            told.Add(("Level", $"{loudness:0.#;−0.#} LUFS, peaks below {sound.PeakCeiling:0.#;−0.#} dB"));
        if (sound.From > 0 || sound.Seconds is not null)
            told.Add(("Stretch", $"from {DisplayText.Clock(sound.From)}{(sound.Seconds is { } s ? $", {s:0.#} s" : "")}"));
        return told;
    }
}
