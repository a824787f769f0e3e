using Chronotype.Core.Sound;

namespace Chronotype.Core.Tests.Sound;

public class ChartTests
{
    private const int Rate = 48_000;

    private static Recording Sine(double hertz, double level, double seconds) =>
        new(Rate, [.. Enumerable.Range(0, (int)(seconds * Rate)).Select(i => (float)(level * Math.Sin(2 * Math.PI * hertz * i / Rate)))]);

    private static SoundChart Chart(Recording recording) => SoundChart.Of(recording.Open());

    [Fact]
    public void One_sample_is_seen_at_every_scale_where_it_is()
    {
        var samples = new float[Rate * 3];
        samples[100_000] = 0.5f;
        samples[100_001] = -0.25f;
        var chart = Chart(new Recording(Rate, samples));
        Assert.Equal(samples.Length, chart.Frames);
        Assert.True(chart.Levels.Count >= 2);
        var size = SoundChart.BinFrames;
        foreach (var level in chart.Levels)
        {
            Assert.Equal((samples.Length + size - 1) / size, level.Length / 2);
            var bin = 100_000 / size;
            Assert.Equal((-8192, 16384), (level[bin * 2], level[bin * 2 + 1]));
            Assert.Equal(2, level.Count(v => v != 0));
            size *= SoundChart.Factor;
        }
    }

    [Theory]
    [InlineData(100, 1.0)]
    [InlineData(1000, 1.0)]
    [InlineData(1000, 0.1)]
    [InlineData(8000, 0.5)]
    public void A_sine_is_as_strong_in_its_band_as_it_is(double hertz, double level)
    {
        var chart = Chart(Sine(hertz, level, 2));
        var step = chart.Spectrum.AsSpan(10 * SoundChart.Bands, SoundChart.Bands).ToArray();
        var loudest = Array.IndexOf(step, step.Max());
        var middle = SoundChart.LowestHertz * Math.Pow(2, loudest / 6.0);
        Assert.InRange(hertz / middle, 0.88, 1.13);
        Assert.Equal(20 * Math.Log10(level), step[loudest] / 2.0 - 120, 1.6);
        // What is not there is far below.
        Assert.True(step[^20] < step[loudest] - 80 || loudest > SoundChart.Bands - 22);
    }

    [Fact]
    public void Loudness_over_time_is_that_of_the_standard()
    {
        // EBU Tech 3341, test signals 1 and 2: a sine of 1 kHz in both channels at -23 and at -33 dB is as loud as that, in LUFS.
        var loud = Sine(1000, Math.Pow(10, -23.0 / 20), 6).Stereo();
        var quiet = Sine(1000, Math.Pow(10, -33.0 / 20), 6).Stereo();
        var chart = Chart(loud with { Samples = [.. loud.Samples, .. quiet.Samples] });
        Assert.Equal(120, chart.Loudness.Length);
        Assert.Equal(-23, chart.Loudness[50] / 100.0, 0.1);
        Assert.Equal(-33, chart.Loudness[110] / 100.0, 0.1);
        Assert.Equal(short.MinValue, Chart(new Recording(Rate, new float[Rate])).Loudness[5]);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(63)]
    [InlineData(4800)]
    public void However_short_it_is_there_is_something_to_see(int frames)
    {
        var chart = Chart(new Recording(Rate, [.. Enumerable.Repeat(0.5f, frames)]));
        Assert.Equal(frames, chart.Frames);
        Assert.Equal((frames + 63) / 64, chart.Levels[0].Length / 2);
        Assert.NotEmpty(chart.Spectrum);
    }
}
