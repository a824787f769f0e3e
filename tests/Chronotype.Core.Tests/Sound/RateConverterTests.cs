using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Core.Tests.Sound;

/// <summary>A sound at another rate is the same sound: as loud at every pitch that is heard, in its place, and with nothing beside it.</summary>
public class RateConverterTests
{
    private sealed class Made(SoundFacts facts, Func<long, int, double> value, int most = 1000) : SoundStream(facts)
    {
        private long at;

        public override int Read(Span<float> samples)
        {
            var frames = (int)Math.Min(Math.Min(samples.Length / Facts.Channels, most), Facts.Frames - at);
            for (var i = 0; i < frames; i++, at++)
            {
                for (var c = 0; c < Facts.Channels; c++)
                    samples[i * Facts.Channels + c] = (float)value(at, c);
            }
            return frames * Facts.Channels;
        }
    }

    private static float[] Converted(int from, int to, long frames, Func<long, int, double> value, int channels = 1, int most = 1000)
    {
        using var sound = new RateConverter(new Made(new SoundFacts(from, 24, channels, frames, false), value, most), to);
        var all = new List<float>();
        var buffer = new float[777 * channels];
        for (int read; (read = sound.Read(buffer)) > 0; )
            all.AddRange(buffer.AsSpan(0, read));
        Assert.Equal(sound.Facts.Frames * channels, all.Count);
        return [.. all];
    }

    // How loud one pitch is in the middle of a sound, and all else that is in it, in decibels.
    private static (double Tone, double Beside) Heard(float[] samples, double pitch, int rate)
    {
        var middle = samples.AsSpan(samples.Length / 4, samples.Length / 2);
        double sine = 0,
            cosine = 0,
            norm = 0;
        // Under a window (Nuttall, 1981), so that neither end counts.
        for (var i = 0; i < middle.Length; i++)
        {
            var w = Window(i, middle.Length);
            var angle = 2 * Math.PI * pitch * i / rate;
            (sine, cosine, norm) = (sine + w * middle[i] * Math.Sin(angle), cosine + w * middle[i] * Math.Cos(angle), norm + w);
        }
        var (a, b) = (2 * sine / norm, 2 * cosine / norm);
        double rest = 0,
            weight = 0;
        for (var i = 0; i < middle.Length; i++)
        {
            var w = Window(i, middle.Length);
            var angle = 2 * Math.PI * pitch * i / rate;
            var left = middle[i] - a * Math.Sin(angle) - b * Math.Cos(angle);
            (rest, weight) = (rest + w * left * left, weight + w);
        }
        return (10 * Math.Log10(a * a + b * b), 10 * Math.Log10(2 * rest / weight));
    }

    private static double Window(int i, int length)
    {
        var x = 2 * Math.PI * i / (length - 1);
        return 0.355768 - 0.487396 * Math.Cos(x) + 0.144232 * Math.Cos(2 * x) - 0.012604 * Math.Cos(3 * x);
    }

    [Theory]
    [InlineData(48_000, 44_100)]
    [InlineData(44_100, 48_000)]
    [InlineData(96_000, 44_100)]
    [InlineData(44_100, 88_200)]
    [InlineData(192_000, 48_000)]
    public void What_is_heard_stays_as_loud_and_nothing_comes_beside_it(int from, int to)
    {
        foreach (var pitch in (double[])[50, 997, 5_003, 9_973, 15_013, 18_979, 19_997])
        {
            var made = Converted(from, to, from, (i, _) => 0.8 * Math.Sin(2 * Math.PI * pitch * i / from));
            var (tone, rest) = Heard(made, pitch, to);
            Assert.InRange(tone - 20 * Math.Log10(0.8), -0.05, 0.05);
            Assert.True(rest < -110, $"{pitch} Hz from {from} to {to}: {rest:0.0} dB beside it");
        }
    }

    [Theory]
    [InlineData(48_000, 44_100, 22_100)]
    [InlineData(48_000, 44_100, 23_500)]
    [InlineData(96_000, 44_100, 30_000)]
    [InlineData(96_000, 48_000, 47_000)]
    [InlineData(192_000, 44_100, 60_000)]
    public void What_the_lower_rate_cannot_hold_is_not_heard_as_something_else(int from, int to, double pitch)
    {
        var made = Converted(from, to, from, (i, _) => 0.8 * Math.Sin(2 * Math.PI * pitch * i / from));
        var loudest = made.AsSpan(to / 4, to / 2).ToArray().Max(Math.Abs);
        Assert.True(20 * Math.Log10(loudest + 1e-12) < -110, $"{20 * Math.Log10(loudest):0.0} dB");
    }

    [Fact]
    public void A_sound_keeps_its_place_its_level_and_its_channels_however_it_is_read()
    {
        double Value(long i, int c) => c == 0 ? (i == 24_000 ? 1 : 0) : 0.5;
        var made = Converted(48_000, 44_100, 48_000, Value, channels: 2);
        Assert.Equal(2 * 44_100, made.Length);
        var click = Enumerable.Range(0, 44_100).MaxBy(i => Math.Abs(made[2 * i]));
        Assert.Equal(22_050, click);
        Assert.All(Enumerable.Range(1000, 42_000), i => Assert.Equal(0.5, made[2 * i + 1], 1e-6));
        Assert.Equal(made, Converted(48_000, 44_100, 48_000, Value, channels: 2, most: 31));
        // One frame is one frame, and nothing is nothing.
        Assert.Single(Converted(48_000, 44_100, 1, Value));
        Assert.Empty(Converted(48_000, 44_100, 0, Value));
    }

    [Fact]
    public void Odd_rates_are_converted_too()
    {
        var made = Converted(44_056, 48_000, 44_056, (i, _) => 0.5 * Math.Sin(2 * Math.PI * 1000 * i / 44_056), channels: 3);
        var first = Enumerable.Range(0, made.Length / 3).Select(i => made[3 * i + 2]).ToArray();
        Assert.InRange(Heard(first, 1000, 48_000).Tone, 20 * Math.Log10(0.5) - 0.01, 20 * Math.Log10(0.5) + 0.01);
    }

    [Fact]
    public void Dither_keeps_what_is_smaller_than_a_step_and_adds_nothing_where_nothing_is_lost()
    {
        // A quarter of a step: without dither it would be gone.
        var dither = new Dither(16, isDithered: true);
        var mean = Enumerable.Range(0, 200_000).Average(_ => (double)dither.Of(0.25f / 32768));
        Assert.InRange(mean, 0.24, 0.26);
        var again = new Dither(16, isDithered: true);
        var once = new Dither(16, isDithered: true);
        Assert.Equal(Enumerable.Range(0, 100).Select(_ => once.Of(0.1f)), Enumerable.Range(0, 100).Select(_ => again.Of(0.1f)));
        var plain = new Dither(16, isDithered: false);
        Assert.All(Enumerable.Range(-32768, 65536), n => Assert.Equal(n, plain.Of(n / 32768f)));
        Assert.Equal((32767, -32768), (plain.Of(2), plain.Of(-2)));
    }
}
