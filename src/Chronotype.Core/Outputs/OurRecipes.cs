namespace Chronotype.Core.Outputs;

/// <summary>The recipes that every studio has.</summary>
public static class OurRecipes
{
    /// <summary>In the order in which they are shown.</summary>
    public static readonly IReadOnlyList<Recipe> All =
    [
        new("print-a2-300", "A2 print, 300 dpi") { Picture = Print(420, 594, 300) },
        new("print-a4-300", "A4 print, 300 dpi") { Picture = Print(210, 297, 300) },
        new("print-a3-pdf", "A3 print with bleed, PDF")
        {
            Picture = new(PictureFile.Pdf)
            {
                Size = new(297, 420, "mm", 300) { Turns = true },
                Fit = PictureFit.Fill,
                Bleed = 3,
                Marks = true,
                Background = "#ffffff",
                Colour = PictureColour.Srgb,
            },
        },
        new("screen-1080", "Screen, 1080 px high")
        {
            Picture = new(PictureFile.WebP)
            {
                Size = new(1920, 1080, "px"),
                Colour = PictureColour.Srgb,
                Sharpen = 0.5,
            },
        },
        new("flat-16", "Flat, full size, 16 bit")
        {
            Picture = new(PictureFile.Tiff) { Depth = 16, KeepsMetadata = true },
        },
        new("plain-svg", "Plain SVG, texts as outlines") { Drawing = new(DrawingFile.Svg) { Outlines = true } },
        new("cut-hpgl", "Cut lines, HPGL") { Drawing = new(DrawingFile.Hpgl) },
        new("cut-dxf", "Cut lines, DXF") { Drawing = new(DrawingFile.Dxf) },
        new("wav-44.1-16", "WAVE, 44.1 kHz, 16 bit")
        {
            Sound = new(SoundFile.Wave) { SampleRate = 44_100, Bits = 16 },
        },
        new("wav-48-24", "WAVE, 48 kHz, 24 bit")
        {
            Sound = new(SoundFile.Wave) { SampleRate = 48_000, Bits = 24 },
        },
        new("wav-r128", "WAVE, −23 LUFS (EBU R 128)")
        {
            Sound = new(SoundFile.Wave)
            {
                SampleRate = 48_000,
                Bits = 24,
                Loudness = -23,
            },
        },
        new("flac", "FLAC, as it is") { Sound = new(SoundFile.Flac) },
        new("mp3-192", "MP3, 192 kbit/s")
        {
            Sound = new(SoundFile.Mp3) { SampleRate = 44_100, KiloBits = 192 },
        },
        new("packed", "Packed, one file") { IsPacked = true },
    ];

    /// <returns>Null where there is none of that key.</returns>
    public static Recipe? Find(string key) => All.FirstOrDefault(r => r.Key == key);

    // A whole sheet, of which nothing is cut off: what the picture does not cover is paper.
    private static PictureRecipe Print(double width, double height, double resolution) =>
        new(PictureFile.Png)
        {
            Size = new(width, height, "mm", resolution) { Turns = true },
            Fit = PictureFit.Pad,
            Background = "#ffffff",
            Colour = PictureColour.Srgb,
        };
}
