using Chronotype.Core.Sound;

namespace Chronotype.Core.Tests.Sound;

public class LiningUpTests
{
    private const double Near = 0.010;
    private static readonly Recording Whole = Recording.Of(40, seed: 1);

    private static void IsNear(
        SoundDifference found,
        SoundDifferenceKind kind,
        double before,
        double beforeLength,
        double after,
        double afterLength
    )
    {
        Assert.Equal(kind, found.Kind);
        Assert.InRange(found.Before, before - Near, before + Near);
        Assert.InRange(found.BeforeLength, beforeLength - 2 * Near, beforeLength + 2 * Near);
        Assert.InRange(found.After, after - Near, after + Near);
        Assert.InRange(found.AfterLength, afterLength - 2 * Near, afterLength + 2 * Near);
    }

    [Fact]
    public void The_same_has_no_difference()
    {
        var same = Whole.ComparedTo(Whole);
        Assert.Empty(same.Differences);
        Assert.Equal(0, same.Change);
        Assert.Equal(new SoundMatch(0, 0, 40), Assert.Single(same.Matches));
    }

    [Fact]
    public void A_second_put_in_at_the_front_is_one_insertion()
    {
        var result = Whole.ComparedTo(Whole.PutIn(0, Recording.Of(1, seed: 2)));
        IsNear(Assert.Single(result.Differences), SoundDifferenceKind.Inserted, 0, 0, 0, 1);
        Assert.Equal(1 / 41.0, result.Change, 3);
    }

    [Fact]
    public void A_cut_is_found_where_it_is() =>
        IsNear(
            Assert.Single(Whole.ComparedTo(Whole.Without(12.345, 2.5)).Differences),
            SoundDifferenceKind.Removed,
            12.345,
            2.5,
            12.345,
            0
        );

    [Fact]
    public void What_was_cut_at_either_end_is_found()
    {
        IsNear(Assert.Single(Whole.ComparedTo(Whole.Without(0, 1.7)).Differences), SoundDifferenceKind.Removed, 0, 1.7, 0, 0);
        IsNear(Assert.Single(Whole.ComparedTo(Whole.Without(38, 2)).Differences), SoundDifferenceKind.Removed, 38, 2, 38, 0);
    }

    [Fact]
    public void A_stretch_that_another_stands_in_for_is_replaced()
    {
        var other = Whole.Without(20, 3).PutIn(20, Recording.Of(1.25, seed: 5));
        IsNear(Assert.Single(Whole.ComparedTo(other).Differences), SoundDifferenceKind.Replaced, 20, 3, 20, 1.25);
    }

    [Fact]
    public void A_stretch_that_stands_elsewhere_is_moved()
    {
        var moved = Whole.Without(8, 3).PutIn(25, Whole.Part(8, 3));
        IsNear(Assert.Single(Whole.ComparedTo(moved).Differences), SoundDifferenceKind.Moved, 8, 3, 25, 3);
    }

    [Fact]
    public void A_copy_is_put_in_and_nothing_is_moved()
    {
        var copied = Whole.PutIn(25, Whole.Part(8, 3));
        IsNear(Assert.Single(Whole.ComparedTo(copied).Differences), SoundDifferenceKind.Inserted, 25, 0, 25, 3);
    }

    [Theory]
    [InlineData(3)]
    [InlineData(-6)]
    [InlineData(-0.8)]
    public void A_louder_stretch_is_told_with_its_gain(double decibels)
    {
        var gain = (float)Math.Pow(10, decibels / 20);
        var found = Assert.Single(Whole.ComparedTo(Whole.Changed(10, 6, (s, _) => s * gain)).Differences);
        IsNear(found, SoundDifferenceKind.Louder, 10, 6, 10, 6);
        Assert.Equal(decibels, found.Gain!.Value, 1);
    }

    [Fact]
    public void A_filtered_stretch_is_told_from_a_louder_one()
    {
        var found = Assert.Single(Whole.ComparedTo(Whole.Changed(10, 6, (s, last) => last + 0.3f * (s - last))).Differences);
        Assert.Equal(SoundDifferenceKind.Filtered, found.Kind);
        Assert.InRange(found.After, 9.9, 10.1);
        Assert.InRange(found.AfterLength, 5.8, 6.2);
    }

    [Fact]
    public void A_level_that_breathes_is_one_change()
    {
        var limited = Whole;
        for (var at = 0.0; at < 39; at += 1)
            limited = limited.Changed(at, 0.3, (s, _) => s * 0.92f).Changed(at + 0.3, 0.7, (s, _) => s * 0.8f);
        var found = Assert.Single(Whole.ComparedTo(limited).Differences);
        Assert.Equal(SoundDifferenceKind.Louder, found.Kind);
        Assert.InRange(found.Gain!.Value, -1.94, -0.72);
    }

    [Fact]
    public void A_hole_of_a_moment_is_found()
    {
        IsNear(
            Assert.Single(Whole.ComparedTo(Whole.Changed(17.2, 0.015, (_, _) => 0)).Differences),
            SoundDifferenceKind.Replaced,
            17.2,
            0.015,
            17.2,
            0.015
        );
        IsNear(
            Assert.Single(Whole.ComparedTo(Whole.Changed(17.2, 0.12, (s, _) => -s)).Differences),
            SoundDifferenceKind.Replaced,
            17.2,
            0.12,
            17.2,
            0.12
        );
    }

    [Fact]
    public void Only_what_lies_above_the_voice_is_filtered_and_that_is_found_too()
    {
        // At 48 kHz, so that there is something above what the prints are made of.
        var bright = Recording.Of(12, seed: 9, rate: 48_000);
        var dull = bright.Changed(4, 4, (s, last) => last + 0.5f * (s - last));
        var found = Assert.Single(bright.ComparedTo(dull).Differences);
        Assert.Equal(SoundDifferenceKind.Filtered, found.Kind);
        Assert.InRange(found.After, 3.9, 4.1);
    }

    [Fact]
    public void Rates_and_channels_do_not_matter()
    {
        // The same notes at two rates: without noise, since that cannot be made at both.
        static float[] Notes(int rate) =>
            [
                .. Enumerable
                    .Range(0, 20 * rate)
                    .Select(i => (double)i / rate)
                    .Select(t => (float)(0.3 * Math.Sin(2 * Math.PI * (200 + 37 * (int)(t * 3) % 700 + 11 * (int)(t * 7) % 300) * t))),
            ];
        var at48 = new Recording(48_000, Notes(48_000));
        var at44 = new Recording(44_100, Notes(44_100));
        Assert.Empty(at48.ComparedTo(at44).Differences);
        Assert.Empty(at48.Stereo().ComparedTo(at44).Differences);
        IsNear(Assert.Single(at48.ComparedTo(at44.Without(5, 1.5)).Differences), SoundDifferenceKind.Removed, 5, 1.5, 5, 0);
    }

    [Fact]
    public void Two_that_have_nothing_in_common_are_replaced_as_a_whole()
    {
        var result = Whole.ComparedTo(Recording.Of(30, seed: 77));
        IsNear(Assert.Single(result.Differences), SoundDifferenceKind.Replaced, 0, 40, 0, 30);
        Assert.Equal(1, result.Change);
    }

    [Theory]
    [InlineData(0, 0)]
    [InlineData(0, 5)]
    [InlineData(5, 0)]
    [InlineData(0.01, 0.01)]
    [InlineData(0.2, 0.2)]
    [InlineData(0.2, 3)]
    public void Short_silent_and_empty_sounds_are_compared(double before, double after)
    {
        var (first, second) = (Recording.Of(before, seed: 3), Recording.Of(after, seed: 3));
        var result = first.ComparedTo(second);
        Assert.Equal(before == after, result.Change == 0);
        Assert.Equal(before == after, result.Differences.Count == 0);
        var quiet = (Recording r) => r with { Samples = new float[r.Samples.Length] };
        Assert.InRange(quiet(first).ComparedTo(quiet(second)).Change, 0, 1);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void Twenty_edits_are_each_found(int seed)
    {
        var random = new Random(seed);
        var (before, after) = (Recording.Of(300, seed: 100 + seed), Recording.Of(300, seed: 100 + seed));
        var edits = new List<(SoundDifferenceKind Kind, double Before, double After, double Length)>();
        var shift = 0.0;
        for (var i = 0; i < 20; i++)
        {
            var (at, length) = (5 + i * 14.5 + random.NextDouble() * 5, 0.3 + random.NextDouble() * 3);
            var kind = (SoundDifferenceKind)random.Next(2);
            edits.Add((kind, at, at + shift, length));
            if (kind == SoundDifferenceKind.Inserted)
                after = after.PutIn(at + shift, Recording.Of(length, seed: 1000 * seed + i));
            else
                after = after.Without(at + shift, length);
            shift += kind == SoundDifferenceKind.Inserted ? length : -length;
        }
        var found = before.ComparedTo(after).Differences;
        Assert.Equal(edits.Select(e => e.Kind), found.Select(f => f.Kind));
        foreach (var (edit, difference) in edits.Zip(found))
        {
            var inserted = edit.Kind == SoundDifferenceKind.Inserted;
            IsNear(difference, edit.Kind, edit.Before, inserted ? 0 : edit.Length, edit.After, inserted ? edit.Length : 0);
        }
    }
}
