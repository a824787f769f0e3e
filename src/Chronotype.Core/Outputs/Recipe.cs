using System.Globalization;
using System.Text;
using System.Text.Json.Serialization;
using Chronotype.Core.Content;

namespace Chronotype.Core.Outputs;

/// <summary>How an output is made from a version. Of the kinds of content one is said; the others are null.</summary>
/// <param name="Key">Tells recipes of one studio apart: 1 to 40 small letters of ASCII, digits, <c>-</c> and <c>.</c>.</param>
/// <param name="Name">For people.</param>
public sealed record Recipe(string Key, string Name)
{
    /// <summary>How a picture is made; null where it makes none.</summary>
    public PictureRecipe? Picture { get; init; }

    /// <summary>How a sound is made; null where it makes none.</summary>
    public SoundRecipe? Sound { get; init; }

    /// <summary>How a drawing is made that stays one; null where it makes none.</summary>
    public DrawingRecipe? Drawing { get; init; }

    /// <summary>What it is made of is packed into one file with all that it refers to: a scene as GLB, a timeline with its media.</summary>
    public bool IsPacked { get; init; }

    /// <summary>The layers or groups, or the nodes of a scene, that it is made of alone, by name; none for all.</summary>
    public IReadOnlyList<string> Layers { get; init; } = [];

    /// <summary>A key out of a name: small letters, digits, “-” and “.”, 40 at most; empty where the name has none of them.</summary>
    /// <param name="name">For people.</param>
    public static string KeyOf(string name)
    {
        var key = new StringBuilder();
        foreach (var letter in name.Normalize(NormalizationForm.FormD).ToLowerInvariant())
        {
            if (char.IsAsciiLetterLower(letter) || char.IsAsciiDigit(letter) || letter == '.')
                key.Append(letter);
            else if (key.Length > 0 && key[^1] != '-' && CharUnicodeInfo.GetUnicodeCategory(letter) != UnicodeCategory.NonSpacingMark)
                key.Append('-');
        }
        return key.ToString(0, Math.Min(key.Length, 40)).Trim('-', '.');
    }

    /// <summary>The extension of what it makes of a file, with its dot.</summary>
    /// <param name="facts">Of the file.</param>
    public string ExtensionFor(FileFacts facts) => IsPacked && facts.Timeline is not null ? ".otioz" : Extension;

    /// <summary>The extension of what it makes, with its dot; of what is packed, that of a scene.</summary>
    [JsonIgnore]
    public string Extension =>
        this switch
        {
            { Picture: { } picture } => picture.File switch
            {
                PictureFile.Png => ".png",
                PictureFile.Jpeg => ".jpg",
                PictureFile.WebP => ".webp",
                PictureFile.Tiff => ".tif",
                _ => ".pdf",
            },
            { Sound: { } sound } => sound.File switch
            {
                SoundFile.Wave => ".wav",
                SoundFile.Aiff => ".aif",
                SoundFile.Flac => ".flac",
                SoundFile.Mp3 => ".mp3",
                SoundFile.Opus => ".opus",
                _ => ".m4a",
            },
            { Drawing: { } drawing } => drawing.File switch
            {
                DrawingFile.Svg => ".svg",
                DrawingFile.Hpgl => ".plt",
                _ => ".dxf",
            },
            _ => ".glb",
        };
}

/// <summary>The file formats of pictures that are made.</summary>
public enum PictureFile
{
    /// <summary>PNG (ISO/IEC 15948).</summary>
    Png,

    /// <summary>JPEG (ISO/IEC 10918).</summary>
    Jpeg,

    /// <summary>WebP (RFC 9649).</summary>
    WebP,

    /// <summary>TIFF 6.0.</summary>
    Tiff,

    /// <summary>PDF (ISO 32000), each page of the picture one of its own.</summary>
    Pdf,
}

/// <summary>How a picture comes into a size of other proportions.</summary>
public enum PictureFit
{
    /// <summary>All of it is seen, and it is no larger than the size either way.</summary>
    Inside,

    /// <summary>All of it is seen in exactly the size, with background beside it.</summary>
    Pad,

    /// <summary>The size is filled, and what lies beyond is cut off at both sides alike.</summary>
    Fill,
}

/// <summary>What colours are written in.</summary>
public enum PictureColour
{
    /// <summary>As they are, with the profile that they have.</summary>
    Kept,

    /// <summary>sRGB (IEC 61966-2-1).</summary>
    Srgb,

    /// <summary>Greys.</summary>
    Grey,

    /// <summary>Those of a profile that was handed in.</summary>
    Profile,
}

/// <summary>What is minded where colours have no place in a profile (ICC.1:2022, 0.4).</summary>
public enum ColourIntent
{
    /// <summary>How they stand to one another.</summary>
    Perceptual,

    /// <summary>The colours themselves, with the white of the paper; those that have none go to the nearest.</summary>
    Relative,

    /// <summary>How lively they are.</summary>
    Saturation,

    /// <summary>The colours themselves, and the white, too: for proofs.</summary>
    Absolute,
}

/// <summary>A colour profile (ISO 15076-1) that was handed in.</summary>
/// <param name="Name">What the studio calls it; beside a recipe's file, the profile's file without its ending.</param>
/// <param name="Space">What its colours are told in: <c>RGB</c>, <c>CMYK</c> or <c>GRAY</c>.</param>
/// <param name="Hash">Its content.</param>
public sealed record OutputProfile(string Name, string Space, ContentHash Hash);

/// <summary>The size of an output picture.</summary>
/// <param name="Width">In the unit.</param>
/// <param name="Height">In the unit.</param>
/// <param name="Unit"><c>px</c>, or of a print <c>mm</c>, <c>cm</c> or <c>in</c>.</param>
/// <param name="Resolution">Pixels an inch of a print; of pixels, what the file says it is printed at, or null for nothing.</param>
public sealed record OutputSize(double Width, double Height, string Unit, double? Resolution = null)
{
    /// <summary>It is turned by a quarter where that lies better for the picture: a sheet of paper has no upper side.</summary>
    public bool Turns { get; init; }
}

/// <summary>How a picture is made.</summary>
/// <param name="File">In which format.</param>
public sealed record PictureRecipe(PictureFile File)
{
    /// <summary>Null for the picture's own.</summary>
    public OutputSize? Size { get; init; }

    /// <summary>What of the picture is made; null for all of it.</summary>
    public PictureRegion? Region { get; init; }

    /// <summary>How the picture comes into the size.</summary>
    public PictureFit Fit { get; init; } = PictureFit.Inside;

    /// <summary>Behind what is transparent, and beside what does not fill: <c>#rrggbb</c>; null leaves it transparent, where the format can.</summary>
    public string? Background { get; init; }

    /// <summary>How far a print goes beyond its size on every side, in the size's unit, so that cutting leaves no paper white.</summary>
    public double Bleed { get; init; }

    /// <summary>Lines beside a print that say where it is cut.</summary>
    public bool Marks { get; init; }

    /// <summary>The profile that its colours are written in, where they are written in one.</summary>
    public OutputProfile? Profile { get; init; }

    /// <summary>What is minded where colours are told by another profile.</summary>
    public ColourIntent Intent { get; init; } = ColourIntent.Relative;

    /// <summary>What its colours are written in.</summary>
    public PictureColour Colour { get; init; } = PictureColour.Kept;

    /// <summary>Bits a channel: 8, or 16 where the format has them.</summary>
    public int Depth { get; init; } = 8;

    /// <summary>1 to 100, of formats that lose something; null for the format's usual.</summary>
    public int? Quality { get; init; }

    /// <summary>Sharpened after it was made smaller, from 0, not at all, to 10.</summary>
    public double Sharpen { get; init; }

    /// <summary>What stands in the file about where, when and by whom it was made stays in it.</summary>
    public bool KeepsMetadata { get; init; }
}

/// <summary>The file formats of sounds that are made.</summary>
public enum SoundFile
{
    /// <summary>WAVE, as RIFF, or past 4 GB as BW64 (ITU-R BS.2088).</summary>
    Wave,

    /// <summary>AIFF 1.3.</summary>
    Aiff,

    /// <summary>FLAC (RFC 9639), from which the same samples come back.</summary>
    Flac,

    /// <summary>MPEG-1 audio layer III (ISO/IEC 11172-3), where <c>ffmpeg</c> stands on the machine.</summary>
    Mp3,

    /// <summary>Opus in Ogg (RFC 6716, RFC 7845), where <c>ffmpeg</c> stands on the machine.</summary>
    Opus,

    /// <summary>AAC (ISO/IEC 14496-3) in MP4, where <c>ffmpeg</c> stands on the machine.</summary>
    Aac,
}

/// <summary>How a sound is made.</summary>
/// <param name="File">In which format.</param>
public sealed record SoundRecipe(SoundFile File)
{
    /// <summary>Something of it is left out, for its size.</summary>
    [JsonIgnore]
    public bool IsCoded => File is SoundFile.Mp3 or SoundFile.Opus or SoundFile.Aac;

    /// <summary>Thousands of bits a second of what is coded, 32 to 512; null for a usual number.</summary>
    public int? KiloBits { get; init; }

    /// <summary>Thousands of bits a second that what is coded is written with.</summary>
    [JsonIgnore]
    public int CodedKiloBits => KiloBits ?? (File == SoundFile.Opus ? 128 : 192);

    /// <summary>What a sound is written as that is to stay of its format.</summary>
    /// <returns>Null for a format that loses something each time, or that is not written here.</returns>
    public static SoundFile? Same(FileFormat format) =>
        format switch
        {
            FileFormat.Wave => SoundFile.Wave,
            FileFormat.Aiff => SoundFile.Aiff,
            FileFormat.Flac => SoundFile.Flac,
            _ => null,
        };

    /// <summary>A WAVE says who made it, of what and when (EBU Tech 3285).</summary>
    public bool IsBroadcast { get; init; }

    /// <summary>Frames a second; null for the sound's own.</summary>
    public int? SampleRate { get; init; }

    /// <summary>Bits a sample, 16 or 24, with triangular dither where something is lost; null for the sound's own, 24 at most.</summary>
    public int? Bits { get; init; }

    /// <summary>1 or 2; null for the sound's own.</summary>
    public int? Channels { get; init; }

    /// <summary>How loud the whole is to be, in LUFS (ITU-R BS.1770); null leaves the level.</summary>
    public double? Loudness { get; init; }

    /// <summary>How high its true peak may come, in dB under full scale (ITU-R BS.1770, annex 2); where it would, the whole is made less loud.</summary>
    public double PeakCeiling { get; init; } = -1;

    /// <summary>What is cut out of it begins here, in seconds.</summary>
    public double From { get; init; }

    /// <summary>And lasts so long, in seconds; null to the end.</summary>
    public double? Seconds { get; init; }

    /// <summary>Faded in over so many seconds.</summary>
    public double FadeIn { get; init; }

    /// <summary>Faded out over so many seconds.</summary>
    public double FadeOut { get; init; }
}

/// <summary>The file formats of drawings that are made.</summary>
public enum DrawingFile
{
    /// <summary>SVG 2 without what its maker's program keeps in it for itself.</summary>
    Svg,

    /// <summary>HPGL: strokes of a pen or a knife, in 40ths of a millimetre.</summary>
    Hpgl,

    /// <summary>DXF, as release 12 wrote it, in millimetres.</summary>
    Dxf,
}

/// <summary>In which order strokes are drawn or cut.</summary>
public enum StrokeOrder
{
    /// <summary>Layer by layer, as they lie above one another.</summary>
    Layer,

    /// <summary>Colour by colour.</summary>
    Colour,
}

/// <summary>How a drawing is made that stays one.</summary>
/// <param name="File">In which format.</param>
public sealed record DrawingRecipe(DrawingFile File)
{
    /// <summary>How far a straight piece may lie beside the curve that it stands for, in millimetres.</summary>
    public double Tolerance { get; init; } = 0.05;

    /// <summary>What is drawn or cut together.</summary>
    public StrokeOrder Order { get; init; }

    /// <summary>Texts of an SVG become outlines where their typeface is at hand. Those of cut lines always do.</summary>
    public bool Outlines { get; init; }

    /// <summary>Whether texts become outlines.</summary>
    [JsonIgnore]
    public bool OutlinesTexts => Outlines || File != DrawingFile.Svg;
}
