using System.Buffers.Binary;

namespace Chronotype.Demo.Sound;

/// <summary>What the audio guide's mix sounds like at one moment of its making.</summary>
/// <param name="Parts">In order; a part that is the same in two mixes is the same samples.</param>
internal sealed record GuideScene(IReadOnlyList<GuidePart> Parts);

/// <summary>A stretch of the mix.</summary>
/// <param name="Kind">surf, bell, voice or rest.</param>
/// <param name="Seconds">How long.</param>
/// <param name="Level">0 to 1.</param>
/// <param name="Seed">Two parts of equal kind and seed sound the same.</param>
internal sealed record GuidePart(string Kind, double Seconds, double Level, int Seed);

/// <summary>Synthesises the mix: surf of filtered noise, a buoy's bell, and a voice of three formants that says nothing.</summary>
internal static class GuideMix
{
    public const int SampleRate = 48_000,
        Bits = 24,
        Channels = 2;

    /// <summary>A WAVE file, 24 bit, stereo.</summary>
    /// <param name="rate">Hertz that are written into it; another than its own plays it slower or faster.</param>
    public static byte[] Render(GuideScene scene, int rate = SampleRate)
    {
        var samples = scene.Parts.SelectMany(Part).ToArray();
        var data = samples.Length * Bits / 8;
        var file = new byte[44 + data];
        "RIFF"u8.CopyTo(file);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(4), 36 + data);
        "WAVEfmt "u8.CopyTo(file.AsSpan(8));
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(16), 16);
        BinaryPrimitives.WriteInt16LittleEndian(file.AsSpan(20), 1);
        BinaryPrimitives.WriteInt16LittleEndian(file.AsSpan(22), Channels);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(24), rate);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(28), rate * Channels * Bits / 8);
        BinaryPrimitives.WriteInt16LittleEndian(file.AsSpan(32), Channels * Bits / 8);
        BinaryPrimitives.WriteInt16LittleEndian(file.AsSpan(34), Bits);
        "data"u8.CopyTo(file.AsSpan(36));
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(40), data);
        for (var i = 0; i < samples.Length; i++)
        {
            var value = (int)(Math.Clamp(samples[i], -1, 1) * 8_388_607);
            file[44 + i * 3] = (byte)value;
            file[45 + i * 3] = (byte)(value >> 8);
            file[46 + i * 3] = (byte)(value >> 16);
        }
        return file;
    }

    private static IEnumerable<double> Part(GuidePart part)
    {
        var random = new Random(part.Seed);
        var frames = (int)(part.Seconds * SampleRate);
        double low = 0,
            lower = 0;
        for (var i = 0; i < frames; i++)
        {
            var t = (double)i / SampleRate;
            low += 0.08 * (random.NextDouble() * 2 - 1 - low);
            lower += 0.02 * (low - lower);
            var surf =
                (low * 1.6 + lower * 4)
                * (0.45 + 0.4 * Math.Sin(2 * Math.PI * t / 5.5 + part.Seed) + 0.15 * Math.Sin(2 * Math.PI * t / 1.7));
            var value = part.Kind switch
            {
                "surf" => surf,
                "bell" => surf * 0.4 + Bell(t % 2.5),
                "voice" => surf * 0.25 + Voice(t, part.Seed),
                _ => lower * 0.05,
            };
            var edge = Math.Min(1, Math.Min(i, frames - i) / (0.03 * SampleRate));
            yield return value * part.Level * edge;
            yield return (value * 0.92 + lower * 0.1) * part.Level * edge;
        }
    }

    private static double Bell(double t) =>
        0.5
        * Math.Exp(-t * 1.8)
        * (Math.Sin(2 * Math.PI * 523.25 * t) + 0.5 * Math.Sin(2 * Math.PI * 1318.5 * t) + 0.25 * Math.Sin(2 * Math.PI * 1864.7 * t))
        * 0.6;

    // Syllables come and go a little over three times a second, with a breath every few.
    private static double Voice(double t, int seed)
    {
        var syllable = Math.Pow(Math.Max(0, Math.Sin(2 * Math.PI * 1.6 * t + seed)), 0.6);
        var breath = t % 3.4 < 2.9 ? 1 : 0.05;
        var pitch = 118 + 14 * Math.Sin(2 * Math.PI * 0.43 * t) + 6 * Math.Sin(2 * Math.PI * 2.1 * t);
        var phase = 2 * Math.PI * pitch * t;
        return 0.4 * syllable * breath * (Math.Sin(phase) + 0.6 * Math.Sin(phase * 5 + Math.Sin(t * 9)) + 0.3 * Math.Sin(phase * 11)) / 1.9;
    }
}
