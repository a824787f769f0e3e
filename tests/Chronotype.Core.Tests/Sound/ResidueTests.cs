using Chronotype.Core.Sound;

namespace Chronotype.Core.Tests.Sound;

/// <summary>What is left of one sound when another is taken from it.</summary>
public class ResidueTests
{
    private static float[] Left(Recording before, Recording after, IReadOnlyList<SoundMatch>? matches = null)
    {
        using var residue = SoundResidue.Of(before.Open, after.Open, matches ?? before.ComparedTo(after).Matches);
        var left = new List<float>();
        var buffer = new float[5000 * residue.Facts.Channels];
        for (int read; (read = residue.Read(buffer)) > 0; )
            left.AddRange(buffer.AsSpan(0, read).ToArray());
        return [.. left];
    }

    private static double Rms(IEnumerable<float> samples) => Math.Sqrt(samples.Average(s => (double)s * s));

    // A little inside, where both are sure to be.
    private static IEnumerable<float> Within(float[] samples, Recording of, double from, double to) =>
        samples[(int)((from + 0.05) * of.Rate)..(int)((to - 0.05) * of.Rate)];

    [Fact]
    public void What_is_the_same_is_silent_and_what_was_put_in_is_heard_as_it_is()
    {
        var before = Recording.Of(12, 1);
        var after = before.PutIn(5, Recording.Of(2, 2));
        var left = Left(before, after);
        Assert.Equal(after.Samples.Length, left.Length);
        Assert.All(Within(left, after, 0, 5), s => Assert.Equal(0, s));
        Assert.All(Within(left, after, 7, 14), s => Assert.Equal(0, s));
        Assert.Equal(Within(after.Samples, after, 5, 7), Within(left, after, 5, 7));
    }

    [Fact]
    public void Of_noise_that_was_parted_nothing_is_left_on_either_side()
    {
        float[] Noise(int frames, int seed)
        {
            var random = new Random(seed);
            return [.. Enumerable.Range(0, frames).Select(_ => (float)(random.NextDouble() * 2 - 1))];
        }
        var before = new Recording(48_000, Noise(384_000, 1), 2);
        var after = before with { Samples = [.. before.Samples[..200_000], .. Noise(96_000, 2), .. before.Samples[200_000..]] };
        var left = Left(before, after);
        Assert.True(Rms(left[..198_000]) < 1e-6);
        Assert.True(Rms(left[298_000..478_000]) < 1e-6);
    }

    [Fact]
    public void What_was_moved_is_found_where_it_was()
    {
        var before = Recording.Of(20, 3);
        var moved = before.Part(3, 4);
        var after = before.Without(3, 4).PutIn(10, moved);
        var left = Left(before, after);
        Assert.True(Rms(Within(left, after, 10, 14)) < 1e-6);
        Assert.True(Rms(Within(left, after, 0, 3)) < 1e-6);
    }

    [Fact]
    public void A_match_that_is_off_by_some_milliseconds_is_found_to_the_sample()
    {
        var before = Recording.Of(8, 4);
        var left = Left(before, before, [new SoundMatch(0.006, 0, 7.9)]);
        Assert.True(Rms(Within(left, before, 0, 7.9)) < 1e-6);
    }

    [Fact]
    public void Of_a_stretch_that_is_twice_as_strong_half_is_left()
    {
        var before = Recording.Of(10, 5);
        var after = before.Changed(4, 3, (s, _) => s * 2);
        var left = Left(before, after);
        Assert.Equal(0.5, Rms(Within(left, after, 4, 7)) / Rms(Within(after.Samples, after, 4, 7)), 0.01);
        Assert.True(Rms(Within(left, after, 0, 4)) < 1e-6);
    }

    [Theory]
    [InlineData(44_100, 48_000)]
    [InlineData(48_000, 44_100)]
    public void Of_the_same_at_another_rate_next_to_nothing_is_left(int from, int to)
    {
        static float[] Tones(int rate) =>
            [
                .. Enumerable
                    .Range(0, rate * 4)
                    .Select(i => (double)i / rate)
                    .Select(t => (float)(0.3 * Math.Sin(2 * Math.PI * (300 + 200 * t) * t) + 0.2 * Math.Sin(2 * Math.PI * 1234.5 * t))),
            ];
        var (before, after) = (new Recording(from, Tones(from)), new Recording(to, Tones(to)));
        var left = Left(before, after, [new SoundMatch(0, 0, 4)]);
        var decibels = 20 * Math.Log10(Rms(Within(left, after, 0.2, 3.8)) / Rms(after.Samples));
        Assert.True(decibels < -50, $"{decibels:0.0} dB are left");
    }

    [Fact]
    public void Of_other_channels_the_two_are_heard_as_one()
    {
        var mono = Recording.Of(5, 6);
        var left = Left(mono, mono.Stereo());
        Assert.Equal(mono.Samples.Length, left.Length);
        Assert.True(Rms(Within(left, mono, 0, 5)) < 1e-6);
    }
}

/// <summary>What only one ear hears.</summary>
public class SidesTests
{
    private static Recording Panned(Recording mono, double from, double to, float by)
    {
        var stereo = mono.Stereo();
        var samples = stereo.Samples.ToArray();
        for (var i = (int)(from * mono.Rate); i < (int)(to * mono.Rate); i++)
        {
            samples[2 * i] *= 1 + by;
            samples[2 * i + 1] *= 1 - by;
        }
        return stereo with { Samples = samples };
    }

    [Fact]
    public void What_was_moved_to_one_side_is_found_though_the_middle_is_the_same()
    {
        var mono = Recording.Of(12, 8);
        var (before, after) = (mono.Stereo(), Panned(mono, 4, 7, 0.5f));
        var heard = before.ComparedTo(after);
        Assert.Empty(heard.Differences);
        var found = Assert.Single(SoundSides.Find(before.Open, after.Open, heard));
        Assert.Equal(SoundDifferenceKind.Filtered, found.Kind);
        Assert.Equal((4, 3), (Math.Round(found.After, 1), Math.Round(found.AfterLength, 1)));
        Assert.Equal(0.25, heard.With([found]).Change, 0.02);
    }

    [Fact]
    public void What_is_told_already_and_what_is_the_same_is_not_told_again()
    {
        var mono = Recording.Of(12, 9);
        var before = mono.Stereo();
        Assert.Empty(SoundSides.Find(before.Open, before.Open, before.ComparedTo(before)));
        var louder = before.Changed(3, 3, (s, _) => s * 2);
        Assert.Empty(SoundSides.Find(before.Open, louder.Open, before.ComparedTo(louder)));
        var longer = mono.PutIn(5, Recording.Of(2, 10)).Stereo();
        Assert.Empty(SoundSides.Find(before.Open, longer.Open, before.ComparedTo(longer)));
    }
}
