using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Core.Tests.Sound;

/// <summary>The signals of EBU Tech 3341 and 3342 with the readings that these ask for.</summary>
public class LoudnessTests
{
    private static LevelFacts Measure(int rate, params (double Decibels, double Seconds)[] tones)
    {
        var meter = new LoudnessMeter(rate, 2);
        var n = 0;
        foreach (var (decibels, seconds) in tones)
        {
            var block = new float[(int)(seconds * rate) * 2];
            for (var i = 0; i < block.Length; i += 2, n++)
                block[i] = block[i + 1] = (float)(Math.Pow(10, decibels / 20) * Math.Sin(2 * Math.PI * 1000 * n / rate));
            // In pieces that meet no step of the meter.
            for (var at = 0; at < block.Length; at += 3334)
                meter.Add(block.AsSpan(at, Math.Min(3334, block.Length - at)));
        }
        return meter.Result();
    }

    [Theory]
    [InlineData(48_000)]
    [InlineData(44_100)]
    [InlineData(11_025)]
    [InlineData(192_000)]
    public void A_steady_tone_reads_as_its_level(int rate)
    {
        Assert.Equal(-23, Measure(rate, (-23, 20)).Loudness!.Value, 0.1);
        Assert.Equal(-33, Measure(rate, (-33, 20)).Loudness!.Value, 0.1);
    }

    [Fact]
    public void Quiet_stretches_do_not_count()
    {
        Assert.Equal(-23, Measure(48_000, (-36, 10), (-23, 60), (-36, 10)).Loudness!.Value, 0.1);
        Assert.Equal(-23, Measure(48_000, (-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)).Loudness!.Value, 0.1);
        Assert.Equal(-23, Measure(48_000, (-26, 20), (-20, 20.1), (-26, 20)).Loudness!.Value, 0.1);
    }

    [Theory]
    [InlineData(-20, -30, 10)]
    [InlineData(-20, -15, 5)]
    [InlineData(-40, -20, 20)]
    public void The_range_is_between_the_quiet_and_the_loud(double first, double second, double range) =>
        Assert.Equal(range, Measure(48_000, (first, 20), (second, 20)).Range!.Value, 1.0);

    [Theory]
    [InlineData(4, 0)]
    [InlineData(4, 45)]
    [InlineData(6, 60)]
    [InlineData(8, 67.5)]
    public void The_peak_between_the_samples_is_found(int part, double degrees)
    {
        var meter = new LoudnessMeter(48_000, 1);
        var samples = new float[48_000];
        for (var i = 0; i < samples.Length; i++)
        {
            // Faded in and out, as the test signals are.
            var fade = Math.Min(1, Math.Min(i, samples.Length - 1 - i) / 480.0);
            samples[i] = (float)(0.5 * fade * Math.Sin(2 * Math.PI * i / part + degrees * Math.PI / 180));
        }
        meter.Add(samples);
        Assert.InRange(meter.Result().TruePeak!.Value, -6.02 - 0.2, -6.02 + 0.2);
    }

    [Fact]
    public void Silence_and_nothing_have_no_level()
    {
        Assert.Equal(new LevelFacts(null, null, null, null), new LoudnessMeter(48_000, 2).Result());
        var meter = new LoudnessMeter(48_000, 6);
        meter.Add(new float[6 * 48_000 * 5]);
        Assert.Equal(new LevelFacts(null, null, null, null), meter.Result());
    }

    [Fact]
    public void Surround_channels_weigh_more_and_the_lowest_does_not_count()
    {
        static double Only(int channel)
        {
            var meter = new LoudnessMeter(48_000, 6);
            var samples = new float[6 * 48_000 * 4];
            for (var i = 0; i < samples.Length / 6; i++)
                samples[i * 6 + channel] = (float)(0.1 * Math.Sin(2 * Math.PI * 1000 * i / 48_000));
            meter.Add(samples);
            return meter.Result().Loudness ?? double.NegativeInfinity;
        }
        Assert.Equal(1.5, Only(4) - Only(0), 0.02);
        Assert.Equal(double.NegativeInfinity, Only(3));
    }

    [Fact]
    public void A_sound_of_many_hours_is_measured_to_its_end()
    {
        // As many tenths of a second times frames a second as 32 bits do not hold: an hour and a quarter at 48 kHz.
        const int Rate = 4_000_000;
        var meter = new LoudnessMeter(Rate, 1);
        var second = new float[Rate];
        for (var i = 0; i < 56; i++)
            meter.Add(second);
        for (var i = 0; i < Rate; i++)
            second[i] = (float)(0.5 * Math.Sin(2 * Math.PI * 1_000 * i / Rate));
        for (var i = 0; i < 4; i++)
            meter.Add(second);
        var level = meter.Result();
        Assert.InRange(level.Peak!.Value, -6.1, -5.9);
    }
}
