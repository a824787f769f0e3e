namespace Chronotype.Core.Sound;

/// <summary>
/// Finds where two stereo recordings differ in their sides alone: what is heard in the middle is the same, and what one ear hears and the
/// other does not is another, as when a voice is moved to the left.
/// </summary>
public static class SoundSides
{
    /// <summary>Longer recordings, in minutes, are not gone over once more for it.</summary>
    public const double MostMinutes = 30;

    // Of the power of what is heard at that moment: what is left of the middle at most, and of the sides at least.
    private const double MiddleShare = 1e-4,
        SidesShare = 1e-3,
        Quiet = 1e-8;
    private const double StepSeconds = 0.05;
    private const int LeastSteps = 4;

    /// <param name="openBefore">Opens the earlier recording from its beginning; asked more than once.</param>
    /// <param name="openAfter">As <paramref name="openBefore"/>, of the later; of the same rate, in stereo as well.</param>
    /// <param name="found">What was told by what both ears hear together.</param>
    /// <param name="cancel">It may be stopped.</param>
    /// <returns>Stretches of the later of 0.2 s and more, told nowhere else, as <see cref="SoundDifferenceKind.Filtered"/>.</returns>
    public static IReadOnlyList<SoundDifference> Find(
        Func<SoundStream> openBefore,
        Func<SoundStream> openAfter,
        SoundComparison found,
        CancellationToken cancel = default
    )
    {
        using var residue = SoundResidue.Of(openBefore, openAfter, found.Matches, cancel);
        using var heard = openAfter();
        var rate = heard.Facts.SampleRate;
        var step = Math.Max(1, (int)(rate * StepSeconds));
        var (left, whole) = (new float[step * 2], new float[step * 2]);
        var stretches = new List<SoundDifference>();
        var (first, count) = (0, 0);
        for (var at = 0; ; at++)
        {
            cancel.ThrowIfCancellationRequested();
            var read = Fill(residue, left);
            Fill(heard, whole);
            if (read > 0 && IsInSides(left.AsSpan(0, read), whole.AsSpan(0, read)))
            {
                first = count++ == 0 ? at : first;
                continue;
            }
            if (count >= LeastSteps)
                Add(first * StepSeconds, count * StepSeconds);
            count = 0;
            if (read == 0)
                return stretches;
        }

        void Add(double from, double length)
        {
            // Inside what is told already, or where the two have nothing in common, it says nothing new.
            var match = found.Matches.FirstOrDefault(m => m.After <= from + 0.01 && from + length <= m.After + m.Length + StepSeconds);
            if (match is null || found.Differences.Any(d => d.After < from + length && from < d.After + d.AfterLength))
                return;
            stretches.Add(new SoundDifference(SoundDifferenceKind.Filtered, match.Before + from - match.After, length, from, length));
        }
    }

    private static bool IsInSides(ReadOnlySpan<float> left, ReadOnlySpan<float> whole)
    {
        double middle = 0,
            sides = 0,
            heard = 0;
        for (var i = 0; i + 1 < left.Length; i += 2)
        {
            var (m, s) = ((left[i] + left[i + 1]) / 2, (left[i] - left[i + 1]) / 2);
            middle += m * m;
            sides += s * s;
            heard += (whole[i] * whole[i] + whole[i + 1] * whole[i + 1]) / 2;
        }
        return heard > Quiet * left.Length / 2 && middle < heard * MiddleShare && sides > heard * SidesShare;
    }

    private static int Fill(SoundStream sound, Span<float> into)
    {
        var filled = 0;
        for (int read; filled < into.Length && (read = sound.Read(into[filled..])) > 0; )
            filled += read;
        return filled;
    }
}
