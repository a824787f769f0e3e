using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Versions;
using Chronotype.Studio.Outputs;

namespace Chronotype.Web.Words;

/// <summary>Words for recipes and for what outputs give up.</summary>
public static class OutputWords
{
    /// <summary>What of a version is not in the output, and what becomes of it.</summary>
    public static (string What, string Becomes, string? Detail) Of(GivenUp loss) =>
        loss.Loss switch
        {
            Loss.Layers => ($"{DisplayText.Count((int)loss.Was, "layer", "layers")} become one", "gone", null),
            Loss.LayersLeftOut => ("All but what was chosen", $"{loss.Now:0} of {loss.Was:0}", Named(loss)),
            Loss.Texts => ($"{DisplayText.Count((int)loss.Was, "text", "texts")} can no longer be edited", "gone", Named(loss)),
            Loss.TextsOutlined => (
                $"{DisplayText.Count((int)loss.Was, "text becomes", "texts become")} outlines",
                "changed",
                $"{Named(loss)}. Where the typeface is at hand; then the words can no longer be edited."
            ),
            Loss.Outlines => ("What is drawn becomes pixels", "gone", "It can be enlarged no further."),
            Loss.Transparency => ("Transparency becomes background", "gone", null),
            Loss.Depth => ("Fewer bits", $"{loss.Was:0} → {loss.Now:0}", "Fine steps are rounded, with a little noise in their place."),
            Loss.Colour => ("Colours become greys", "gone", null),
            Loss.Profile => (
                $"Colours are told in {string.Join(", ", loss.Names)}",
                "changed",
                "Those that have no place in it go to near ones."
            ),
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
            Loss.Coding => (
                "What is hardly heard is left out",
                loss.Now > 0 ? $"{loss.Now:0} kbit/s" : "coded",
                "It does not come back: keep working in what this is made of."
            ),
            Loss.PicturesLeftOut => ($"{DisplayText.Count((int)loss.Was, "picture is", "pictures are")} not cut", "left out", Named(loss)),
            Loss.Curves => (
                "Curves become straight pieces",
                $"{loss.Now:0.###} mm",
                "No further off than this. Colours and widths of lines are gone."
            ),
            _ => throw new ArgumentOutOfRangeException(nameof(loss)),
        };

    /// <summary>What was taken of a file.</summary>
    public static string Of(PartTaken part) =>
        part.Cut switch
        {
            { Region: { } r } => $"{r.Width:N0} × {r.Height:N0} px of it, {r.X:N0} from the left, {r.Y:N0} from above",
            { Stretch: { } s } => $"{DisplayText.Clock(s.From)} to {DisplayText.Clock(s.From + s.Seconds)} of it",
            _ => part.Names.Count switch
            {
                0 => "parts of it",
                <= 4 => $"{string.Join(", ", part.Names)} of it",
                _ => $"{string.Join(", ", part.Names.Take(3))} and {part.Names.Count - 3} more of it",
            },
        };

    /// <summary>Why a text does not become outlines.</summary>
    public static string Of(LeftText left) =>
        left.Why switch
        {
            TextObstacle.Typeface => left.About.Length > 0
                ? $"no file of its typeface {left.About} is at hand. Put it into the project, such as among its assets"
                : "it names no typeface",
            TextObstacle.Character => $"its typeface has no “{left.About}”",
            _ => $"it is set by “{left.About}”, which is not followed here",
        };

    /// <summary>The format that a recipe makes.</summary>
    public static string FormatOf(Recipe recipe) =>
        recipe.IsPacked ? "packed" : FormatNotes.Ours.FirstOrDefault(n => n.Ending == recipe.Extension)?.Name ?? recipe.Extension;

    /// <summary>What came of asking for several.</summary>
    public static string Of(AskedOutputs asked) =>
        asked.Making == 0
            ? $"{DisplayText.Count(asked.Already, "is", "are")} there already; nothing is made again."
            : $"{DisplayText.Count(asked.Making, "output is", "outputs are")} being made."
                + (asked.Already > 0 ? $" {DisplayText.Count(asked.Already, "was", "were")} there already." : "");

    /// <summary>Why a file that came may be of a version.</summary>
    public static string Of(MatchReasons reasons, VersionNumber number)
    {
        string?[] why =
        [
            reasons.Name switch
            {
                NameEvidence.Version => $"its name says {number}",
                NameEvidence.Piece => "its name says the piece",
                NameEvidence.Other => "its name says another",
                _ => null,
            },
            reasons.Alike is { } alike ? $"alike by {alike * 100:0} %" : null,
            reasons.At > 0.5 ? $"from {DisplayText.Clock(reasons.At)} on" : null,
            reasons.Hours < -0.1 ? "kept after it came"
            : reasons.WasNewest ? "the newest when it came"
            : null,
        ];
        return string.Join(", ", why.Where(w => w is not null));
    }

    /// <summary>What a recipe makes something of, where it makes nothing of what is looked at.</summary>
    public static string OnlyFor(Recipe recipe) =>
        recipe switch
        {
            { Picture: not null } => "pictures only",
            { Sound: not null } => "sounds only",
            { Drawing: not null } => "drawings only",
            _ => "scenes and timelines",
        };

    /// <summary>Who opens it.</summary>
    /// <param name="studio">What the studio says of formats.</param>
    public static string WhoOpens(Recipe recipe, IReadOnlyList<FormatNote> studio) =>
        FormatNotes.Of($"x{recipe.Extension}", FileFormat.Other, studio) is { OpenedBy: { Length: > 0 } by } note
            ? $"{char.ToUpperInvariant(by[0])}{by[1..]}. {note.Advice}".TrimEnd()
            : "Nobody has said yet who opens it.";

    private static string Named(GivenUp loss) =>
        string.Join(", ", loss.Names.Take(6)) + (loss.Names.Count > 6 ? $" and {loss.Names.Count - 6} more" : "");

    /// <summary>How it is made, line by line.</summary>
    public static IReadOnlyList<(string What, string How)> Told(Recipe recipe, PictureFrame? frame) =>
        recipe switch
        {
            { Picture: { } picture } => Told(picture, frame),
            { Sound: { } sound } => Told(sound),
            { Drawing: { File: not DrawingFile.Svg } drawing } =>
            [
                ("Curves", $"to within {drawing.Tolerance:0.###} mm"),
                ("Cut together", drawing.Order == StrokeOrder.Layer ? "layer by layer" : "colour by colour"),
            ],
            { Drawing: { } plain } =>
            [
                ("Texts", plain.Outlines ? "as outlines" : "as they are"),
                ("Left out", "what its maker’s program keeps in it for itself"),
            ],
            { IsPacked: true } => [("Inside it", "all that it refers to")],
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
        if (picture.Bleed > 0 || picture.Marks)
            told.Add(("Bleed, marks", $"{picture.Bleed:0.##} {picture.Size?.Unit}{(picture.Marks ? ", corners" : "")}"));
        if (frame is not null)
            told.Add(("Pixels", $"{frame.WholeWidth:N0} × {frame.WholeHeight:N0}"));
        told.Add(
            (
                "Colour",
                picture.Colour switch
                {
                    PictureColour.Srgb => "sRGB",
                    PictureColour.Grey => "greys",
                    PictureColour.Profile => $"{picture.Profile!.Name}, {Of(picture.Intent)}",
                    _ => "as it is",
                } + (picture.Depth == 16 ? ", 16 bit" : "")
            )
        );
        if (picture.Sharpen > 0)
            told.Add(("Sharpened", $"by {picture.Sharpen:0.#}"));
        told.Add(("Inside it", picture.KeepsMetadata ? "who made it where and when stays" : "who made it where and when is left out"));
        return told;
    }

    /// <summary>What is minded where colours have no place.</summary>
    public static string Of(ColourIntent intent) =>
        intent switch
        {
            ColourIntent.Perceptual => "perceptual",
            ColourIntent.Saturation => "saturation",
            ColourIntent.Absolute => "absolute, with the white",
            _ => "relative",
        };

    private static List<(string What, string How)> Told(SoundRecipe sound)
    {
        var told = new List<(string, string)>
        {
            ("Sample rate", sound.SampleRate is { } rate ? $"{rate / 1000.0:0.#} kHz" : "as it is"),
            sound.IsCoded
                ? ("Coded", sound.KiloBits is { } rated ? $"{rated} kbit/s" : "at a usual rate")
                : ("Bits", sound.Bits is { } bits ? $"{bits}" : "as they are"),
        };
        if (sound.IsBroadcast)
            told.Add(("Inside it", "of what, by whom and when (bext)"));
        if (sound.Channels is { } channels)
            told.Add(("Channels", channels == 1 ? "mono" : "stereo"));
        if (sound.Loudness is { } loudness)
            told.Add(("Level", $"{loudness:0.#;−0.#} LUFS, peaks below {sound.PeakCeiling:0.#;−0.#} dB"));
        if (sound.From > 0 || sound.Seconds is not null)
            told.Add(("Stretch", $"from {DisplayText.Clock(sound.From)}{(sound.Seconds is { } s ? $", {s:0.#} s" : "")}"));
        return told;
    }
}
