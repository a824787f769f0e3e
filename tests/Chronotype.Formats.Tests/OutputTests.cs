using System.Globalization;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.RegularExpressions;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Formats.Outputs;
using NetVips;

namespace Chronotype.Formats.Tests;

/// <summary>What recipes make, read by what reads it here and by other programs.</summary>
public sealed class OutputTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("outputs-").FullName;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    private static (MadeOutput Made, byte[] File) Make(byte[] content, Recipe recipe)
    {
        using var output = new MemoryStream();
        var made = OutputMaker.Make(new MemoryStream(content), recipe, output);
        return (made, output.ToArray());
    }

    private static Recipe Of(PictureRecipe picture) => new("made", "Made") { Picture = picture };

    private static Recipe Of(SoundRecipe sound) => new("made", "Made") { Sound = sound };

    private static FileFacts Read(byte[] file) => FormatReader.Read(new MemoryStream(file));

    private static byte[] Layered(int width, int height) =>
        Samples.OpenRaster(
            width,
            height,
            new Samples.OraLayer("Moon", 10, 10, Red: 250, X: 20, Y: 5),
            new Samples.OraLayer("Sky", width, height, Red: 10)
        );

    [Theory]
    [InlineData("print-a2-300", 4961, 7016)]
    [InlineData("print-a4-300", 2480, 3508)]
    public void A_print_has_its_pixels_exactly_and_says_how_dense_they_are(string key, int width, int height)
    {
        var (made, file) = Make(Layered(496, 702), OurRecipes.Find(key)!);
        var facts = Read(file);
        Assert.Equal((FileFormat.Png, 300.0), (facts.Format, facts.Picture!.Resolution));
        Assert.Equal((width, height), (facts.Picture.Width, facts.Picture.Height));
        Assert.Equal((width, height), (made.Frame!.Width, made.Frame.Height));
        // What is square lies in the middle of a white sheet.
        using var square = Image.NewFromBuffer(Make(Layered(300, 300), OurRecipes.Find(key)!).File);
        Assert.Equal([255, 255, 255], square.Getpoint(width / 2, 9));
        Assert.Equal([250, 40, 60], square.Getpoint(width / 2, height / 2));

        var filled = OurRecipes.Find(key)! with { Picture = OurRecipes.Find(key)!.Picture! with { Fit = PictureFit.Fill } };
        var sideways = Read(Make(Layered(700, 300), filled).File).Picture!;
        Assert.Equal((height, width), (sideways.Width, sideways.Height));
    }

    [Fact]
    public void Each_format_is_written_with_what_the_recipe_says_of_it()
    {
        var deep = Samples.Png(64, 48);
        (FileFormat, int?)[] made =
        [
            .. new PictureRecipe[]
            {
                new(PictureFile.Png) { Depth = 16 },
                new(PictureFile.Tiff) { Depth = 16, Colour = PictureColour.Grey },
                new(PictureFile.Jpeg) { Quality = 80 },
                new(PictureFile.WebP),
            }
                .Select(r => Read(Make(deep, Of(r)).File))
                .Select(f => (f.Format, f.Picture!.Depth)),
        ];
        Assert.Equal([(FileFormat.Png, 16), (FileFormat.Tiff, 16), (FileFormat.Jpeg, 8), (FileFormat.WebP, 8)], made);
        var grey = Read(Make(deep, Of(new PictureRecipe(PictureFile.Tiff) { Colour = PictureColour.Grey })).File).Picture!;
        Assert.Equal(ColourModel.Grey, grey.Colour);
    }

    [Fact]
    public void What_is_transparent_stays_so_or_is_laid_on_the_background_and_what_does_not_fill_has_it_beside_it()
    {
        using var half = Image.Black(40, 20, bands: 4).NewFromImage([200.0, 100, 50, 128]).Copy(interpretation: Enums.Interpretation.Srgb);
        var png = half.PngsaveBuffer();
        double[] At(PictureRecipe recipe, int x, int y)
        {
            using var image = Image.NewFromBuffer(Make(png, Of(recipe)).File);
            return image.Getpoint(x, y);
        }
        var square = new OutputSize(20, 20, "px");
        Assert.Equal([200, 100, 50, 128], At(new(PictureFile.Png) { Size = square }, 10, 5));
        var padded = new PictureRecipe(PictureFile.Png) { Size = square, Fit = PictureFit.Pad };
        Assert.Equal(0, At(padded, 10, 1)[3]);
        Assert.Equal([200, 100, 50, 128], At(padded, 10, 10));
        var blue = padded with { Background = "#0000ff" };
        Assert.Equal([0, 0, 255], At(blue, 10, 1)[..3]);
        Assert.Equal([100, 50, 152], At(blue, 10, 10)[..3].Select(v => Math.Round(v / 2) * 2));
        Assert.All(At(new(PictureFile.Jpeg) { Quality = 100 }, 10, 10).Zip([227.0, 177, 152]), p => Assert.Equal(p.Second, p.First, 2.0));
    }

    [Fact]
    public void A_drawing_is_drawn_at_the_size_that_is_made_and_sharp_at_any()
    {
        var svg = Samples.Svg("<rect x='0' y='0' width='50%' height='100%' fill='#000'/>");
        var (made, file) = Make(svg, Of(new PictureRecipe(PictureFile.Png) { Size = new(3000, 3000, "px"), Background = "#ffffff" }));
        using var image = Image.NewFromBuffer(file);
        Assert.Equal((made.Frame!.Width, made.Frame.Height), (image.Width, image.Height));
        Assert.Equal(3000, Math.Max(image.Width, image.Height));
        var middle = image.Height / 2;
        // From black to white within two pixels: nothing was enlarged.
        Assert.Equal(0, image.Getpoint(image.Width / 2 - 2, middle)[0]);
        Assert.Equal(255, image.Getpoint(image.Width / 2 + 2, middle)[0]);
    }

    [Fact]
    public void Pictures_are_those_that_vips_makes_in_the_same_steps()
    {
        File.WriteAllBytes(Path.Combine(folder, "in.png"), Samples.Png(640, 480));
        Tools.Run(folder, "vips", "resize", "in.png", "out.png", "0.25", "--kernel", "lanczos3");
        var (_, file) = Make(
            File.ReadAllBytes(Path.Combine(folder, "in.png")),
            Of(new PictureRecipe(PictureFile.Png) { Size = new(160, 120, "px") })
        );
        using var ours = Image.NewFromBuffer(file);
        using var theirs = Image.NewFromFile(Path.Combine(folder, "out.png"));
        Assert.Equal((theirs.Width, theirs.Height), (ours.Width, ours.Height));
        Assert.InRange((ours[0] - theirs[0]).Abs().Max(), 0, 1);
    }

    private static byte[] Programme(int rate, double seconds, double level = 0.2, short channels = 2, double noise = 0.1)
    {
        var frames = (int)(rate * seconds);
        var data = new byte[frames * channels * 2];
        var samples = MemoryMarshal.Cast<byte, short>(data.AsSpan());
        var random = new Random(3);
        for (var i = 0; i < frames; i++)
        {
            for (var c = 0; c < channels; c++)
                samples[i * channels + c] = (short)(
                    32_000
                    * level
                    * (
                        Math.Sin(2 * Math.PI * (440 + 110 * c) * i / rate) * (0.6 + 0.4 * Math.Sin(i / 9000.0))
                        + noise * random.NextDouble()
                    )
                );
        }
        return Samples.WaveOf(data, rate, channels);
    }

    private static float[] Decoded(byte[] file)
    {
        using var sound = FormatList.Of(new MemoryStream(file))!.OpenSound(new MemoryStream(file))!;
        var all = new List<float>();
        var buffer = new float[4000 * sound.Facts.Channels];
        for (int read; (read = sound.Read(buffer)) > 0; )
            all.AddRange(buffer.AsSpan(0, read));
        return [.. all];
    }

    [Fact]
    public void A_sound_that_is_as_the_recipe_wants_it_is_the_same_to_the_sample()
    {
        var wave = Programme(48_000, 2);
        Assert.Equal(Decoded(wave), Decoded(Make(wave, Of(new SoundRecipe(SoundFile.Wave))).File));
        // And in more bits, or from mono in stereo.
        Assert.Equal(Decoded(wave), Decoded(Make(wave, OurRecipes.Find("wav-48-24")!).File));
        var mono = Programme(44_100, 1, channels: 1);
        Assert.Equal(
            Decoded(mono),
            Decoded(Make(mono, Of(new SoundRecipe(SoundFile.Wave) { Channels = 2 })).File).Where((_, i) => i % 2 == 1)
        );
    }

    [Fact]
    public void Other_programs_read_what_is_made_and_at_another_rate_it_is_the_sound_that_sox_makes()
    {
        File.WriteAllBytes(Path.Combine(folder, "in.wav"), Programme(48_000, 3, noise: 0));
        var (made, file) = Make(File.ReadAllBytes(Path.Combine(folder, "in.wav")), OurRecipes.Find("wav-44.1-16")!);
        File.WriteAllBytes(Path.Combine(folder, "made.wav"), file);
        Assert.Equal((44_100, 16, 2, 132_300L), (made.Sound!.SampleRate, made.Sound.Bits, made.Sound.Channels, made.Sound.Frames));
        var told = Encoding.UTF8.GetString(
            Tools
                .Run(
                    folder,
                    "ffprobe",
                    "-v",
                    "error",
                    "-show_entries",
                    "stream=codec_name,sample_rate,channels,duration_ts",
                    "-of",
                    "csv=p=0",
                    "made.wav"
                )
                .Output
        );
        Assert.Equal("pcm_s16le,44100,2,132300", told.Trim());
        Tools.Run(folder, "flac", "-s", "made.wav", "-o", "made.flac");
        Tools.Run(folder, "flac", "-s", "-t", "made.flac");

        Tools.Run(folder, "sox", "in.wav", "-b", "24", "sox.wav", "rate", "-v", "44100");
        var (ours, theirs) = (Decoded(file), Decoded(File.ReadAllBytes(Path.Combine(folder, "sox.wav"))));
        Assert.Equal(theirs.Length, ours.Length);
        // All but the dither, two steps of 16 bits at most, and the ends, which each filter begins in its own way.
        var apart = ours.Zip(theirs).Skip(2000).SkipLast(2000).Max(p => Math.Abs(p.First - p.Second));
        Assert.InRange(apart, 0, 2.1 / 32768);
    }

    [Theory]
    [InlineData(-23.0, 0.2)]
    [InlineData(-16.0, 0.02)]
    public void The_level_is_that_which_ffmpeg_measures(double target, double level)
    {
        var (made, file) = Make(Programme(48_000, 12, level), Of(new SoundRecipe(SoundFile.Wave) { Loudness = target, Bits = 24 }));
        File.WriteAllBytes(Path.Combine(folder, "made.wav"), file);
        Assert.False(made.IsHeldBack);
        var said = Tools.Run(folder, "ffmpeg", "-hide_banner", "-nostats", "-i", "made.wav", "-af", "ebur128", "-f", "null", "-").Said;
        var measured = double.Parse(Regex.Matches(said, @"I:\s+(-?[\d.]+) LUFS")[^1].Groups[1].Value, CultureInfo.InvariantCulture);
        Assert.InRange(measured, target - 0.1, target + 0.1);
    }

    [Fact]
    public void A_sound_with_high_peaks_is_made_less_loud_than_asked_and_says_so()
    {
        var (made, file) = Make(Programme(48_000, 4), Of(new SoundRecipe(SoundFile.Wave) { Loudness = -6, PeakCeiling = -2 }));
        Assert.True(made.IsHeldBack);
        Assert.InRange(Read(file).Level!.TruePeak!.Value, -2.1, -1.9);
    }

    [Fact]
    public void A_stretch_is_cut_to_the_sample_mixed_to_one_channel_and_faded()
    {
        var wave = Programme(48_000, 3);
        var recipe = new SoundRecipe(SoundFile.Wave)
        {
            From = 0.5,
            Seconds = 1.25,
            Channels = 1,
            Bits = 24,
        };
        var (whole, cut) = (Decoded(wave), Decoded(Make(wave, Of(recipe)).File));
        Assert.Equal(60_000, cut.Length);
        Assert.All(
            Enumerable.Range(0, 60_000),
            i => Assert.Equal((whole[2 * (24_000 + i)] + whole[2 * (24_000 + i) + 1]) / 2, cut[i], 3.0 / 8_388_608)
        );
        var faded = Decoded(Make(wave, Of(recipe with { FadeIn = 0.1, FadeOut = 0.2 })).File);
        Assert.InRange(Math.Abs(faded[0]), 0, 1e-4f);
        Assert.InRange(Math.Abs(faded[^1]), 0, 1e-4f);
        Assert.Equal(cut[30_000], faded[30_000], 3.0 / 8_388_608);
        Assert.Throws<UnreadableFileException>(() => Make(wave, Of(recipe with { From = 60 })));
    }

    [Fact]
    public void What_cannot_be_made_is_said_and_a_stop_stops_it()
    {
        Assert.Throws<UnreadableFileException>(() => Make(Programme(48_000, 1), OurRecipes.Find("screen-1080")!));
        Assert.Throws<UnreadableFileException>(() => Make(Layered(20, 20), OurRecipes.Find("wav-48-24")!));
        Assert.Throws<UnreadableFileException>(() => Make(Samples.Png(90, 90)[..400], OurRecipes.Find("screen-1080")!));
        Assert.Throws<ArgumentException>(() => Make(Samples.Png(9, 9), Of(new PictureRecipe(PictureFile.Png) { Size = new(0, 1, "px") })));
        Assert.ThrowsAny<OperationCanceledException>(() =>
            OutputMaker.Make(
                new MemoryStream(Programme(48_000, 9)),
                OurRecipes.Find("wav-44.1-16")!,
                new MemoryStream(),
                cancel: new CancellationToken(true)
            )
        );
    }
}
