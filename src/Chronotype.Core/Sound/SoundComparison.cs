namespace Chronotype.Core.Sound;

/// <summary>How a stretch of one recording differs from another.</summary>
public enum SoundDifferenceKind
{
    /// <summary>Only the later recording has it.</summary>
    Inserted,

    /// <summary>Only the earlier recording has it.</summary>
    Removed,

    /// <summary>It stands at another place among what is around it.</summary>
    Moved,

    /// <summary>Another sound stands in its place.</summary>
    Replaced,

    /// <summary>It is the same but for its level.</summary>
    Louder,

    /// <summary>It is the same with other frequencies brought out, or with something laid over it.</summary>
    Filtered,
}

/// <summary>One difference between two recordings, in seconds of each.</summary>
/// <param name="Kind">What happened to it.</param>
/// <param name="Before">Where it is in the earlier; for what was inserted, where it would be.</param>
/// <param name="BeforeLength">How long it is there; 0 for what was inserted.</param>
/// <param name="After">Where it is in the later; for what was removed, where it would be.</param>
/// <param name="AfterLength">How long it is there; 0 for what was removed.</param>
/// <param name="Gain">How much louder it is now, in decibels, negative for quieter; null but for <see cref="SoundDifferenceKind.Louder"/>.</param>
public sealed record SoundDifference(
    SoundDifferenceKind Kind,
    double Before,
    double BeforeLength,
    double After,
    double AfterLength,
    double? Gain = null
);

/// <summary>A stretch that two recordings have in common, in seconds.</summary>
/// <param name="Before">Where it begins in the earlier.</param>
/// <param name="After">Where it begins in the later.</param>
/// <param name="Length">How long it is, in both.</param>
public sealed record SoundMatch(double Before, double After, double Length);

/// <summary>Two recordings lined up by what is heard in them.</summary>
/// <param name="Matches">What they have in common, in the later's order.</param>
/// <param name="Differences">In the later's order.</param>
/// <param name="Change">The share of time that differs, from 0 to 1.</param>
public sealed record SoundComparison(IReadOnlyList<SoundMatch> Matches, IReadOnlyList<SoundDifference> Differences, double Change)
{
    /// <summary>With differences that were found otherwise, each of a stretch of which nothing was told.</summary>
    public SoundComparison With(IReadOnlyList<SoundDifference> more)
    {
        if (more.Count == 0)
            return this;
        var told = Differences.Sum(d => Math.Max(d.AfterLength, d.AfterLength == 0 ? d.BeforeLength : 0));
        var whole = Change > 0 && told > 0 ? told / Change : Matches.Sum(m => m.Length);
        return this with
        {
            Differences = [.. Differences.Concat(more).OrderBy(d => d.After).ThenBy(d => d.Before)],
            Change = whole == 0 ? Change : Math.Clamp((told + more.Sum(d => d.AfterLength)) / whole, 0, 1),
        };
    }

    /// <summary>The longest recording that is lined up, in hours.</summary>
    public const int MostHours = 6;

    /// <summary>Lines two recordings up, whatever their rates, depths and channels; channels are heard as one.</summary>
    /// <param name="before">Read to its end, at the same time as the other, so that the two may not share a stream.</param>
    /// <param name="after">Read to its end.</param>
    /// <param name="cancel">Comparing long recordings may be stopped.</param>
    public static SoundComparison Compare(SoundStream before, SoundStream after, CancellationToken cancel = default)
    {
        // Beside one another: each is decoded for itself, on whatever processors there are.
        var first = Task.Run(() => SoundSketch.Of(before, cancel), cancel);
        try
        {
            var second = SoundSketch.Of(after, cancel);
            return new SoundAlignment(first.GetAwaiter().GetResult(), second).Compare(cancel);
        }
        finally
        {
            // Whatever happens, nothing reads on in what the caller lets go.
            ((IAsyncResult)first).AsyncWaitHandle.WaitOne();
        }
    }
}
