using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;

namespace Chronotype.Web.Words;

/// <content>What files hold, as it stands in the ledger.</content>
public static partial class FactWords
{
    /// <summary>What a picture is, as it stands in the ledger.</summary>
    public static string Of(PictureFacts picture) =>
        string.Join(
            ", ",
            new[]
            {
                $"{picture.Width} × {picture.Height} px",
                picture.Resolution is { } resolution ? $"{resolution:0.#} dpi" : null,
                picture is { Colour: { } colour, Depth: { } depth } ? $"{Of(colour)} {depth} bit" : null,
                picture.Profile,
                picture.Seconds is { } seconds ? $"{picture.Pages:N0} frames in {seconds:0.0} s"
                : picture.Pages > 1 ? $"{picture.Pages:N0} pages"
                : null,
            }.OfType<string>()
        );

    /// <summary>What a document holds, as it stands in the ledger.</summary>
    public static string Of(DocumentFacts document)
    {
        var sizes = document.Sizes.Take(2).Select(s => $"{s.Width:0.#} × {s.Height:0.#} mm");
        return string.Join(
            ", ",
            new[]
            {
                DisplayText.Count(document.Pages, "page", "pages"),
                string.Join(" and ", sizes) + (document.Sizes.Count > 2 ? $" and {document.Sizes.Count - 2} sizes more" : ""),
                DisplayText.Count(document.Words, "word", "words"),
            }.Where(t => t.Length > 0)
        );
    }

    /// <summary>What a document's text is set in, those that are not in it first.</summary>
    public static string Of(IReadOnlyList<TypefaceFacts> typefaces)
    {
        var missing = typefaces.Where(t => !t.IsEmbedded).Select(t => t.Name).ToList();
        var told =
            missing.Count == 0 ? "all embedded"
            : missing.Count <= 3 ? $"not embedded: {string.Join(", ", missing)}"
            : $"not embedded: {string.Join(", ", missing.Take(3))} and {missing.Count - 3} more";
        return $"{typefaces.Count:N0}, {told}";
    }

    /// <summary>What moving pictures are, as it stands in the ledger.</summary>
    public static string Of(FilmFacts film) =>
        $"{film.Width} × {film.Height} px, {film.FramesPerSecond:0.###} frames a second, {DisplayText.Clock(film.Seconds)}, "
        + $"{film.Coding}{(film.HasSound ? ", with sound" : "")}";

    /// <summary>Why a file is the face of a save.</summary>
    public static string Of(FaceOrigin origin) =>
        origin switch
        {
            FaceOrigin.SameName => "it has its name",
            FaceOrigin.SameSitting => "it came in the same sitting",
            FaceOrigin.Companion => "it lies beside the native, with its name",
            _ => "attached by hand",
        };

    /// <summary>What a sound is, as it stands in the ledger.</summary>
    public static string Of(SoundFacts sound) =>
        string.Join(
            ", ",
            new[]
            {
                $"{sound.SampleRate / 1000.0:0.###} kHz",
                sound.Bits == 0 ? null : $"{sound.Bits} bit{(sound.IsFloat ? " float" : "")}",
                sound.Channels switch
                {
                    1 => "mono",
                    2 => "stereo",
                    var n => $"{n} channels",
                },
                DisplayText.Clock(sound.Duration.TotalSeconds),
            }.OfType<string>()
        );

    private static string Of(ColourModel colour) =>
        colour switch
        {
            ColourModel.Grey => "grey",
            ColourModel.Rgb => "RGB",
            ColourModel.Cmyk => "CMYK",
            ColourModel.Lab => "L*a*b*",
            _ => "other colours",
        };

    /// <summary>What a scene holds, as it stands in the ledger.</summary>
    public static string Of(SceneFacts scene) =>
        string.Join(
            ", ",
            new[]
            {
                DisplayText.Count(scene.Count(ScenePartKind.Node), "node", "nodes"),
                DisplayText.Count(scene.Count(ScenePartKind.Mesh), "mesh", "meshes"),
                $"{scene.Triangles:N0} triangles",
                DisplayText.Count(scene.Count(ScenePartKind.Material), "material", "materials"),
                scene.Count(ScenePartKind.Animation) is > 0 and var moving ? DisplayText.Count(moving, "animation", "animations") : null,
                scene.Count(ScenePartKind.Camera) is > 0 and var cameras ? DisplayText.Count(cameras, "camera", "cameras") : null,
                scene.Count(ScenePartKind.Picture) is > 0 and var pictures ? DisplayText.Count(pictures, "picture", "pictures") : null,
            }.OfType<string>()
        );

    /// <summary>What a timeline holds, as it stands in the ledger.</summary>
    public static string Of(TimelineFacts timeline)
    {
        var clips = timeline.Tracks.Sum(t => t.Items.Count(i => i.Kind is TimelineItemKind.Clip or TimelineItemKind.Nested));
        return $"{DisplayText.Count(timeline.Tracks.Count, "track", "tracks")}, {DisplayText.Count(clips, "clip", "clips")}, "
            + $"{DisplayText.Clock(timeline.Length)}{(timeline.Rate > 0 ? $" at {timeline.Rate:0.###} frames a second" : "")}";
    }

    /// <summary>What a text is, as it stands in the ledger.</summary>
    public static string Of(TextFacts text) =>
        $"{DisplayText.Count(text.Lines, "line", "lines")}, {DisplayText.Count(text.Words, "word", "words")}, {text.Encoding}";
}
