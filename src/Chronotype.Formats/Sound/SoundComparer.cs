using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>Says what changed between two sounds, of whatever formats.</summary>
internal static class SoundComparer
{
    public static Comparison Compare(
        (IFormat Format, Stream Content, SoundFacts Facts) before,
        (IFormat Format, Stream Content, SoundFacts Facts) after,
        CancellationToken cancel
    )
    {
        if (Math.Max(before.Facts.Duration.TotalHours, after.Facts.Duration.TotalHours) > SoundComparison.MostHours)
            return Comparison.NotMeasurable(ComparisonBasis.TooHeavy);
        SoundComparison found;
        using (var first = before.Format.OpenSound(before.Content)!)
        using (var second = after.Format.OpenSound(after.Content)!)
            found = SoundComparison.Compare(first, second, cancel);
        if (MayDifferInSides(before.Facts, after.Facts))
            found = found.With(
                SoundSides.Find(() => before.Format.OpenSound(before.Content)!, () => after.Format.OpenSound(after.Content)!, found, cancel)
            );
        return new Comparison(found.Change, ComparisonBasis.Time)
        {
            Parts = [.. found.Differences.Select(Part)],
            GainDecibels = Throughout(found, after.Facts),
            Matches = found.Matches,
            SoundBefore = before.Facts,
            SoundAfter = after.Facts,
        };
    }

    // What was coded with loss differs in its sides by its coding alone.
    private static bool MayDifferInSides(SoundFacts before, SoundFacts after) =>
        before is { Channels: 2, Bits: > 0 }
        && after is { Channels: 2, Bits: > 0 }
        && before.SampleRate == after.SampleRate
        && Math.Max(before.Duration.TotalMinutes, after.Duration.TotalMinutes) <= SoundSides.MostMinutes;

    private static PartChange Part(SoundDifference difference) =>
        new(
            "",
            difference.Kind switch
            {
                SoundDifferenceKind.Inserted => PartChangeKind.Added,
                SoundDifferenceKind.Removed => PartChangeKind.Removed,
                SoundDifferenceKind.Moved => PartChangeKind.Moved,
                SoundDifferenceKind.Louder => PartChangeKind.Louder,
                SoundDifferenceKind.Filtered => PartChangeKind.Filtered,
                _ => PartChangeKind.Replaced,
            }
        )
        {
            Stretch = difference,
        };

    private static double? Throughout(SoundComparison found, SoundFacts after) =>
        found.Differences is [{ Kind: SoundDifferenceKind.Louder, Gain: { } gain } only]
        && only.AfterLength >= after.Duration.TotalSeconds - 0.1
            ? gain
            : null;
}
