using Chronotype.Core.Naming;

namespace Chronotype.Core.Content;

/// <summary>What is known of a file format, whoever says so: this program, or the studio of its own formats.</summary>
/// <param name="Ending">Of the files' names, in small letters, with the dot.</param>
/// <param name="Name">What people call it.</param>
/// <param name="IsNative">What is worked in and opened again; else a copy for use.</param>
/// <param name="KeepsLayers">Layers, tracks or parts stay apart in it.</param>
/// <param name="IsText">It can be read as text.</param>
/// <param name="IsOpen">How it is written is published; else only its maker's programs read all of it.</param>
public sealed record FormatNote(string Ending, string Name, bool IsNative, bool KeepsLayers, bool IsText, bool IsOpen)
{
    /// <summary>The longest of each text, in characters.</summary>
    public const int MaxName = 60,
        MaxTold = 200;

    /// <summary>The content that it is known by, whatever the name ends with; <see cref="FileFormat.Other"/> for a name's ending alone.</summary>
    public FileFormat Content { get; init; }

    /// <summary>Who can open it, as people of the studio say it; empty where nobody said.</summary>
    public string OpenedBy { get; init; } = "";

    /// <summary>What to use instead, or to mind; empty for nothing.</summary>
    public string Advice { get; init; } = "";

    /// <summary>Whether an ending is one of file names: a dot, and 1 to 16 letters or digits.</summary>
    public static bool IsEnding(string ending) => ending is ['.', _, ..] && ending.Length <= 17 && ending.Skip(1).All(char.IsLetterOrDigit);
}

/// <summary>The formats that every studio knows, and finding what is known of a file.</summary>
public static class FormatNotes
{
    private const string Browsers = "anybody with a browser",
        Players = "every sound program and player";

    /// <summary>In the order in which they are shown: what is worked in, then copies for use.</summary>
    public static readonly IReadOnlyList<FormatNote> Ours =
    [
        new(".ora", "OpenRaster", true, true, false, true)
        {
            Content = FileFormat.OpenRaster,
            OpenedBy = "painting programs that read OpenRaster",
        },
        new(".svg", "SVG", true, true, true, true) { Content = FileFormat.Svg, OpenedBy = "drawing programs, and " + Browsers },
        new(".svgz", "SVG, compressed", true, true, false, true)
        {
            Content = FileFormat.Svg,
            OpenedBy = "drawing programs",
            Advice = "Keep .svg: it compares line by line, and is stored as small.",
        },
        new(".wav", "WAVE", true, false, false, true) { Content = FileFormat.Wave, OpenedBy = Players },
        new(".aif", "AIFF", true, false, false, true) { Content = FileFormat.Aiff, OpenedBy = "sound programs" },
        new(".aiff", "AIFF", true, false, false, true) { Content = FileFormat.Aiff, OpenedBy = "sound programs" },
        new(".flac", "FLAC", true, false, false, true)
        {
            Content = FileFormat.Flac,
            OpenedBy = "most sound programs, and " + Browsers,
            Advice = "Nothing is lost in it; some programs want WAVE.",
        },
        new(".gltf", "glTF", true, true, true, true) { Content = FileFormat.Gltf, OpenedBy = "3D programs that read glTF 2.0" },
        new(".glb", "glTF, binary", true, true, false, true)
        {
            Content = FileFormat.Gltf,
            OpenedBy = "3D programs that read glTF 2.0",
            Advice = "All is in one file; .gltf beside its textures says what changed.",
        },
        new(".otio", "OpenTimelineIO", true, true, true, true)
        {
            Content = FileFormat.Timeline,
            OpenedBy = "editing programs that read OpenTimelineIO",
        },
        new(".txt", "Plain text", true, false, true, true) { Content = FileFormat.Text, OpenedBy = "everything" },
        new(".md", "Plain text", true, false, true, true) { Content = FileFormat.Text, OpenedBy = "everything" },
        new(".png", "PNG", false, false, false, true)
        {
            Content = FileFormat.Png,
            OpenedBy = Browsers + ", and every printer",
            Advice = "One layer. Work in a layered format, and make this from it.",
        },
        new(".tif", "TIFF", false, false, false, true) { Content = FileFormat.Tiff, OpenedBy = "printers and picture programs" },
        new(".tiff", "TIFF", false, false, false, true) { Content = FileFormat.Tiff, OpenedBy = "printers and picture programs" },
        new(".jpg", "JPEG", false, false, false, true)
        {
            Content = FileFormat.Jpeg,
            OpenedBy = Browsers + ", and every printer",
            Advice = "It loses a little at each save: keep the native, or PNG.",
        },
        new(".jpeg", "JPEG", false, false, false, true)
        {
            Content = FileFormat.Jpeg,
            OpenedBy = Browsers + ", and every printer",
            Advice = "It loses a little at each save: keep the native, or PNG.",
        },
        new(".webp", "WebP", false, false, false, true)
        {
            Content = FileFormat.WebP,
            OpenedBy = Browsers,
            Advice = "Printers mostly want PNG or TIFF.",
        },
        new(".gif", "GIF", false, false, false, true)
        {
            Content = FileFormat.Gif,
            OpenedBy = Browsers,
            Advice = "256 colours: PNG for stills, a film for what moves.",
        },
        new(".pdf", "PDF", false, false, false, true)
        {
            Content = FileFormat.Pdf,
            OpenedBy = Browsers + ", and every printer",
            Advice = "A copy to print or to read; work in what it was made from.",
        },
        new(".mp3", "MP3", false, false, false, true)
        {
            Content = FileFormat.Mpeg,
            OpenedBy = Players,
            Advice = "What is left out of it never comes back: work in WAVE or FLAC.",
        },
        new(".ogg", "Vorbis", false, false, false, true)
        {
            Content = FileFormat.Vorbis,
            OpenedBy = "most players",
            Advice = "What is left out of it never comes back: work in WAVE or FLAC.",
        },
        new(".opus", "Opus", false, false, false, true)
        {
            Content = FileFormat.Opus,
            OpenedBy = "browsers and newer players",
            Advice = "What is left out of it never comes back: work in WAVE or FLAC.",
        },
        new(".m4a", "AAC", false, false, false, true)
        {
            OpenedBy = "most players",
            Advice = "What is left out of it never comes back: work in WAVE or FLAC.",
        },
        new(".mp4", "MP4", false, false, false, true) { Content = FileFormat.Film, OpenedBy = Browsers },
        new(".mov", "QuickTime", false, false, false, true) { Content = FileFormat.Film, OpenedBy = "editing programs and players" },
        new(".mkv", "Matroska", false, false, false, true) { Content = FileFormat.Film, OpenedBy = "many players" },
        new(".webm", "WebM", false, false, false, true) { Content = FileFormat.Film, OpenedBy = Browsers },
        new(".dxf", "DXF", false, true, true, true) { OpenedBy = "drawing and cutting programs" },
        new(".plt", "HPGL", false, false, true, true) { OpenedBy = "cutting machines and plotters" },
    ];

    /// <summary>What is known of a file: what the studio says of its ending, then what its content is, then what its ending is ours.</summary>
    /// <param name="name">The file's.</param>
    /// <param name="content">What it is inside.</param>
    /// <param name="studio">What the studio says.</param>
    /// <returns>Null where nothing is known.</returns>
    public static FormatNote? Of(string name, FileFormat content, IReadOnlyList<FormatNote> studio)
    {
        var ending = FileNames.Extension(name).ToLowerInvariant();
        return studio.FirstOrDefault(n => n.Ending == ending)
            ?? Ours.FirstOrDefault(n => n.Ending == ending && (content == FileFormat.Other || n.Content == content))
            ?? (content == FileFormat.Other ? null : Ours.FirstOrDefault(n => n.Content == content));
    }
}
