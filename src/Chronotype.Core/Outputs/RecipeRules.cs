using Chronotype.Core.Content;

namespace Chronotype.Core.Outputs;

/// <summary>What a recipe must be so that something can be made by it.</summary>
public static class RecipeRules
{
    /// <summary>The most layers that a recipe names.</summary>
    public const int MostLayers = 500;

    /// <summary>Frames a second that are made.</summary>
    public static readonly IReadOnlyList<int> Rates =
    [
        8_000,
        11_025,
        16_000,
        22_050,
        24_000,
        32_000,
        44_100,
        48_000,
        88_200,
        96_000,
        176_400,
        192_000,
    ];

    /// <summary>All that is wrong with a recipe, each with its place in its file.</summary>
    public static IReadOnlyList<SettingFault> Check(Recipe recipe)
    {
        var faults = new List<SettingFault>();
        if (recipe.Key.Length is < 1 or > 40 || !recipe.Key.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c is '-' or '.'))
            faults.Add(new("recipe", "A recipe’s key is 1 to 40 small letters, digits, “-” and “.”."));
        if (recipe.Name.Trim().Length is < 1 or > 80)
            faults.Add(new("name", "A recipe has a name of 1 to 80 characters."));
        if (new object?[] { recipe.Picture, recipe.Sound, recipe.Drawing, recipe.IsPacked ? recipe : null }.Count(k => k is not null) != 1)
            faults.Add(new("", "A recipe makes one thing, and says how: “picture”, “sound”, “drawing” or “packed”."));
        if (recipe.Layers.Count > MostLayers || recipe.Layers.Any(l => l.Length is < 1 or > 200))
            faults.Add(new("layers", $"Up to {MostLayers} layers are named, each by 1 to 200 characters."));
        else if (recipe.Layers.Count > 0 && recipe.Picture is null && recipe.Drawing is null)
            faults.Add(new("layers", "Pictures and drawings are made of layers; sounds and what is packed are not."));
        if (recipe.Picture is { } picture)
            Check(picture, faults);
        if (recipe.Sound is { } sound)
            Check(sound, faults);
        if (recipe.Drawing is { Outlines: true, File: not DrawingFile.Svg })
            faults.Add(new("drawing.outlines", "Texts of cut lines are outlines without word of it."));
        if (recipe.Drawing is { } drawing && drawing.Tolerance is not (>= 0.001 and <= 10))
            faults.Add(new("drawing.tolerance", "A curve is followed to within 0.001 to 10 mm."));
        return faults;
    }

    /// <summary>Whether a text is a colour as recipes write it.</summary>
    public static bool IsColour(string text) => text.Length == 7 && text[0] == '#' && text.Skip(1).All(char.IsAsciiHexDigit);

    private static void Check(PictureRecipe picture, List<SettingFault> faults)
    {
        if (picture.Size is { } size)
            Check(size, 2 * picture.Bleed, faults);
        if (picture.Background is { } colour && !IsColour(colour))
            faults.Add(new("picture.background", "A background is a colour such as #ffffff."));
        if (picture.Depth is not (8 or 16))
            faults.Add(new("picture.depth", "A channel has 8 or 16 bits."));
        else if (picture is { Depth: 16, File: PictureFile.Jpeg or PictureFile.WebP })
            faults.Add(new("picture.depth", "JPEG and WebP have 8 bits a channel. PNG and TIFF have 16, too."));
        if (picture.Quality is < 1 or > 100)
            faults.Add(new("picture.quality", "The quality is a number from 1 to 100."));
        if (picture.Colour == PictureColour.Profile != picture.Profile is not null)
            faults.Add(new("picture.profile", "Colours of a profile need the profile, and no others do."));
        else if (picture is { Profile.Space: "CMYK", File: PictureFile.Png or PictureFile.WebP })
            faults.Add(new("picture.file", "PNG and WebP have no CMYK: choose TIFF, JPEG or PDF."));
        if (picture is { Depth: 16, File: PictureFile.Pdf })
            faults.Add(new("picture.depth", "A PDF is made with 8 bits a channel here."));
        if (picture.Region is { } region && (region.Width < 1 || region.Height < 1 || region.X < 0 || region.Y < 0))
            faults.Add(new("picture.region", "A region lies in the picture, and is one pixel wide and high at least."));
        if (picture.Bleed is not (>= 0 and <= 1_000))
            faults.Add(new("picture.bleed", "The bleed is 0 or more, in the unit of the size."));
        else if ((picture.Bleed > 0 || picture.Marks) && picture.Size is not { Unit: not "px" })
            faults.Add(
                new(picture.Marks ? "picture.marks" : "picture.bleed", "Bleed and marks belong to a print: give it a size in mm, cm or in.")
            );
        if (picture.Marks && picture.Fit == PictureFit.Inside)
            faults.Add(new("picture.fit", "Marks say where a size is cut: let the picture fill it, or lie on a background."));
        if (picture.Sharpen is < 0 or > 10 || double.IsNaN(picture.Sharpen))
            faults.Add(new("picture.sharpen", "Sharpening goes from 0, not at all, to 10."));
    }

    private static void Check(OutputSize size, double beyond, List<SettingFault> faults)
    {
        if (size.Unit is not ("px" or "mm" or "cm" or "in"))
        {
            faults.Add(new("picture.size.unit", "A size is in px, mm, cm or in."));
            return;
        }
        if (size.Resolution is not null and not (>= 1 and <= 10_000))
            faults.Add(new("picture.size.dpi", "The resolution is 1 to 10,000 pixels an inch."));
        else if (size.Unit != "px" && size.Resolution is null)
            faults.Add(new("picture.size.dpi", "A print size needs its resolution in pixels an inch."));
        else if (
            new[] { size.Width, size.Height }.Any(s =>
                !double.IsFinite(s)
                || PictureFrame.Pixels(s + (size.Unit == "px" ? 0 : beyond), size.Unit, size.Resolution)
                    is not (>= 1 and <= PictureFrame.MostSide)
            )
        )
            faults.Add(new("picture.size", $"Either side of a picture has 1 to {PictureFrame.MostSide:N0} pixels."));
        else if (size.Unit == "px" && (size.Width != Math.Truncate(size.Width) || size.Height != Math.Truncate(size.Height)))
            faults.Add(new("picture.size", "Pixels are whole numbers."));
    }

    private static void Check(SoundRecipe sound, List<SettingFault> faults)
    {
        if (sound.KiloBits is not null and not (>= 32 and <= 512))
            faults.Add(new("sound.kilobits", "What is coded has 32 to 512 thousand bits a second."));
        if (sound.KiloBits is not null && !sound.IsCoded)
            faults.Add(new("sound.kilobits", "WAVE, AIFF and FLAC keep every sample, and take what that needs."));
        if (sound.IsBroadcast && sound.File != SoundFile.Wave)
            faults.Add(new("sound.broadcast", "Only a WAVE says who made it, in the broadcasters’ way."));
        if (sound is { File: SoundFile.Mp3, SampleRate: > 48_000 } or { File: SoundFile.Opus, SampleRate: not (null or 48_000) })
            faults.Add(new("sound.rate", "MP3 has at most 48 kHz, and Opus always 48 kHz."));
        if (sound.SampleRate is { } rate && !Rates.Contains(rate))
            faults.Add(new("sound.rate", $"The sample rate is one of {string.Join(", ", Rates)}."));
        if (sound.Bits is not (null or 16 or 24))
            faults.Add(new("sound.bits", "A sample has 16 or 24 bits."));
        if (sound.Channels is not (null or 1 or 2))
            faults.Add(new("sound.channels", "It is made in mono, 1, or in stereo, 2."));
        if (sound.Loudness is not null and not (>= -60 and <= -5))
            faults.Add(new("sound.loudness", "The loudness is −60 to −5 LUFS."));
        if (sound.PeakCeiling is not (>= -20 and <= 0))
            faults.Add(new("sound.peak", "The ceiling of the true peak is −20 to 0 dB."));
        if (sound.From is not (>= 0 and <= 360_000))
            faults.Add(new("sound.from", "A cut begins at 0 seconds or later."));
        if (sound.Seconds is not null and not (> 0 and <= 360_000))
            faults.Add(new("sound.seconds", "A cut lasts more than 0 seconds."));
        if (sound.FadeIn is not (>= 0 and <= 3_600) || sound.FadeOut is not (>= 0 and <= 3_600))
            faults.Add(new(sound.FadeIn is >= 0 and <= 3_600 ? "sound.fadeOut" : "sound.fadeIn", "A fade lasts 0 to 3,600 seconds."));
    }
}
