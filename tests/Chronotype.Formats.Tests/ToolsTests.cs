using System.Globalization;
using System.Runtime.InteropServices;
using System.Text.RegularExpressions;
using Chronotype.Core.Content;
using NetVips;

namespace Chronotype.Formats.Tests;

/// <summary>What is read here is what other programs read in the same files.</summary>
public sealed partial class ToolsTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("tools-").FullName;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    private string At(string name) => Path.Combine(folder, name);

    // Tones that come and go over a little noise, with loud and quiet stretches: a programme, not a test signal.
    private string Programme(string name, int rate = 48_000, int channels = 2, double seconds = 12)
    {
        var (random, frames) = (new Random(7), (int)(rate * seconds));
        var data = new byte[frames * channels * 2];
        var samples = MemoryMarshal.Cast<byte, short>(data.AsSpan());
        for (var i = 0; i < frames; i++)
        {
            var t = (double)i / rate;
            var level = 0.08 + 0.5 * Math.Pow(Math.Sin(Math.PI * t / 5), 2);
            for (var c = 0; c < channels; c++)
            {
                var tone = Math.Sin(2 * Math.PI * (220 + 110 * c) * t) + 0.4 * Math.Sin(2 * Math.PI * 1870 * t);
                samples[i * channels + c] = (short)(20_000 * level * (0.6 * tone + 0.1 * (random.NextDouble() - 0.5)));
            }
        }
        File.WriteAllBytes(At(name), Samples.WaveOf(data, rate, (short)channels));
        return name;
    }

    private float[] Decoded(string name)
    {
        using var content = File.OpenRead(At(name));
        using var sound = FormatList.Of(content)!.OpenSound(content)!;
        var all = new List<float>();
        var buffer = new float[5000 * sound.Facts.Channels];
        for (int read; (read = sound.Read(buffer)) > 0; )
            all.AddRange(buffer.AsSpan(0, read));
        return [.. all];
    }

    private float[] DecodedByFfmpeg(string name) =>
        MemoryMarshal.Cast<byte, float>(Tools.Run(folder, "ffmpeg", "-v", "error", "-i", name, "-f", "f32le", "-").Output).ToArray();

    private FileFacts Facts(string name)
    {
        using var content = File.OpenRead(At(name));
        return FormatReader.Read(content);
    }

    [Theory]
    [InlineData(48_000, 2, "0")]
    [InlineData(44_100, 1, "5")]
    [InlineData(96_000, 2, "8")]
    public void A_flac_is_decoded_to_the_last_bit(int rate, int channels, string level)
    {
        Programme("mix.wav", rate, channels, 5);
        Tools.Run(folder, "flac", "--silent", $"-{level}", "-T", "TITLE=Night tide", "mix.wav", "-o", "mix.flac");
        var facts = Facts("mix.flac");
        Assert.Equal((FileFormat.Flac, null), (facts.Format, facts.Fault));
        Assert.Equal(new SoundFacts(rate, 16, channels, 5 * rate, false), facts.Sound);
        Assert.Contains(new TagFacts("title", "Night tide"), facts.Tags);
        Assert.Equal(Decoded("mix.wav"), Decoded("mix.flac"));
    }

    [Theory]
    [InlineData("s24", 24)]
    [InlineData("s32", 24)]
    public void A_flac_of_24_bits_is_decoded_to_the_last_bit(string from, int bits)
    {
        Programme("mix.wav", seconds: 3);
        var format = from == "s24" ? "pcm_s24le" : "pcm_s32le";
        Tools.Run(folder, "ffmpeg", "-v", "error", "-i", "mix.wav", "-af", "volume=0.37", "-c:a", format, "deep.wav");
        Tools.Run(
            folder,
            "ffmpeg",
            "-v",
            "error",
            "-i",
            "deep.wav",
            "-c:a",
            "flac",
            "-bits_per_raw_sample",
            "24",
            "-sample_fmt",
            "s32",
            "deep.flac"
        );
        Assert.Equal(bits, Facts("deep.flac").Sound!.Bits);
        var (ours, theirs) = (Decoded("deep.flac"), DecodedByFfmpeg("deep.flac"));
        Assert.Equal(theirs.Length, ours.Length);
        Assert.All(Enumerable.Range(0, ours.Length).Where(i => i % 997 == 0), i => Assert.Equal(theirs[i], ours[i], 6));
    }

    [Theory]
    [InlineData("ogg", "libvorbis", FileFormat.Vorbis, 0.01)]
    [InlineData("opus", "libopus", FileFormat.Opus, 0.02)]
    [InlineData("mp3", "libmp3lame", FileFormat.Mpeg, 0.02)]
    public void A_coded_sound_is_decoded_as_ffmpeg_decodes_it(string extension, string coder, FileFormat format, double most)
    {
        Programme("mix.wav", seconds: 6);
        var name = $"mix.{extension}";
        Tools.Run(folder, "ffmpeg", "-v", "error", "-i", "mix.wav", "-c:a", coder, "-b:a", "160k", "-metadata", "title=Night tide", name);
        var facts = Facts(name);
        Assert.Equal((format, null), (facts.Format, facts.Fault));
        Assert.Equal((48_000, 0, 2), (facts.Sound!.SampleRate, facts.Sound.Bits, facts.Sound.Channels));
        Assert.Equal(6, facts.Sound.Duration.TotalSeconds, 0.15);
        if (format != FileFormat.Mpeg)
            Assert.Contains(new TagFacts("title", "Night tide"), facts.Tags);
        var (ours, theirs) = (Decoded(name), DecodedByFfmpeg(name));
        // What a coder puts before the first sample may be left in; the rest is the same.
        var best = Enumerable.Range(0, 3000).Select(shift => Error(ours, theirs, shift * 2)).Min();
        Assert.InRange(best, 0, most);

        static double Error(float[] a, float[] b, int shift)
        {
            double difference = 0,
                power = 0;
            for (var i = 48_000; i < 120_000; i += 7)
            {
                difference += Math.Pow(a[i + shift] - b[i], 2);
                power += Math.Pow(b[i], 2);
            }
            return Math.Sqrt(difference / power);
        }
    }

    [Theory]
    [InlineData("flac")]
    [InlineData("ogg")]
    [InlineData("opus")]
    [InlineData("mp3")]
    public void A_coded_sound_that_is_cut_off_says_how_much_of_it_is_there(string extension)
    {
        Programme("mix.wav", seconds: 6);
        Tools.Run(folder, "ffmpeg", "-v", "error", "-i", "mix.wav", $"mix.{extension}");
        var whole = File.ReadAllBytes(At($"mix.{extension}"));
        using var cut = new MemoryStream(whole[..(whole.Length / 2)]);
        var facts = FormatReader.Read(cut);
        // A format that does not say at its beginning how long it is is only shorter.
        if (extension is "ogg" or "opus")
            Assert.InRange(facts.Sound!.Duration.TotalSeconds, 1, 5);
        else
            Assert.InRange(Assert.IsType<FileFault>(facts.Fault).Number, 2, 4);
    }

    [Theory]
    [InlineData("mix.wav")]
    [InlineData("mix.flac")]
    [InlineData("mix.mp3")]
    public void Loudness_and_true_peak_are_those_that_ffmpeg_measures(string name)
    {
        Programme("mix.wav", seconds: 20);
        if (name != "mix.wav")
            Tools.Run(folder, "ffmpeg", "-v", "error", "-i", "mix.wav", name);
        var said = Tools.Run(folder, "ffmpeg", "-nostats", "-i", name, "-af", "ebur128=peak=true", "-f", "null", "-").Said;
        var summary = said[said.LastIndexOf("Summary:", StringComparison.Ordinal)..];
        double Number(Regex what) => double.Parse(what.Match(summary).Groups[1].Value, CultureInfo.InvariantCulture);
        var level = Facts(name).Level!;
        Assert.Equal(Number(Loudness()), level.Loudness!.Value, 0.1);
        Assert.Equal(Number(TruePeak()), level.TruePeak!.Value, 0.2);
    }

    [Fact]
    public void A_waves_shape_is_what_sox_says()
    {
        Programme("mix.wav", 44_100, 1, 3.5);
        string Say(string what) => System.Text.Encoding.ASCII.GetString(Tools.Run(folder, "soxi", what, "mix.wav").Output).Trim();
        var sound = Facts("mix.wav").Sound!;
        Assert.Equal(
            (Say("-r"), Say("-c"), Say("-b"), Say("-s")),
            ($"{sound.SampleRate}", $"{sound.Channels}", $"{sound.Bits}", $"{sound.Frames}")
        );
    }

    [Fact]
    public void A_difference_is_what_vips_reckons()
    {
        foreach (var (name, seed) in new[] { ("a.png", 1), ("b.png", 2) })
        {
            using var noise = Image.Gaussnoise(333, 222, sigma: 50, mean: 128, seed: seed).Cast(Enums.BandFormat.Uchar);
            using var picture = noise.Bandjoin(new double[] { 60, 190 + seed }).Copy(interpretation: Enums.Interpretation.Srgb);
            picture.WriteToFile(At(name));
        }
        PictureSource Source(string name) => new(File.OpenRead(At(name)), Facts(name));
        TileCutter.WriteDifference(Source("a.png"), Source("b.png"), At("ours.png"));
        Tools.Run(folder, "vips", "subtract", "a.png", "b.png", "less.v");
        Tools.Run(folder, "vips", "abs", "less.v", "theirs.tif");
        using var ours = Image.NewFromFile(At("ours.png"));
        using var theirs = Image.NewFromFile(At("theirs.tif"));
        Assert.Equal(0, (ours.ExtractBand(0, n: 3) - theirs).Abs().Max());
        Assert.Equal(0, ours[3].Max());
    }

    [GeneratedRegex(@"I:\s+(-?[\d.]+) LUFS")]
    private static partial Regex Loudness();

    [GeneratedRegex(@"Peak:\s+(-?[\d.]+) dBFS")]
    private static partial Regex TruePeak();
}
