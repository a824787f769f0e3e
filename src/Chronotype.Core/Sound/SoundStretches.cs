using System.Numerics;

namespace Chronotype.Core.Sound;

/// <summary>The same sound in two recordings.</summary>
/// <param name="Before">Where it begins in the earlier, in samples of <see cref="SoundSketch.Rate"/>.</param>
/// <param name="After">Where it begins in the later.</param>
/// <param name="Length">How long it is, in both.</param>
/// <param name="Fraction">How much later than that sample it begins in the earlier, from -0.5 to 0.5 of a sample.</param>
internal readonly record struct Stretch(int Before, int After, int Length, double Fraction = 0)
{
    public int BeforeEnd => Before + Length;

    public int AfterEnd => After + Length;

    /// <summary>How much later it comes in the later recording.</summary>
    public int Shift => After - Before;
}

/// <summary>
/// Finds what two recordings have in common by their prints: a print that stands in both is a place to begin, and the stretch around it
/// goes on for as long as the prints are alike.
/// </summary>
internal sealed class SoundStretches(SoundSketch before, SoundSketch after)
{
    private const int Hop = SoundSketch.Hop;

    // Half a second must be alike before it is believed: of two that have nothing in common, half of the bits are.
    private const int Sure = 32,
        Running = 16;
    private const double Alike = 0.28,
        Lost = 0.38;

    // Of a sound that comes again and again, the places nearest to where it is expected are enough.
    private const int MostPlaces = 48;
    private const int MostStretches = 2000;

    // A shift is found to a hop, and then to a sample by the samples around it.
    private const int Around = 192,
        Window = 2048,
        Windows = 7;

    private readonly uint[] was = before.Prints,
        now = after.Prints;

    /// <summary>In the order of the later recording, where none lies over another; to the sample in their shift, to some hops at their ends.</summary>
    public IReadOnlyList<Stretch> Find(CancellationToken cancel)
    {
        var places = Places();
        var found = new List<Stretch>();
        var (expected, covered) = (0, 0);
        for (var j = 0; j < now.Length; )
        {
            if (j % 4096 == 0)
                cancel.ThrowIfCancellationRequested();
            if (Best(places, j, expected + j - covered) is not { } i)
            {
                j++;
                continue;
            }
            var (first, last) = (0, Sure);
            while (i - first > 0 && j - first > covered && IsAlike(i - first - Running, j - first - Running))
                first++;
            while (i + last < was.Length && j + last < now.Length && IsAlike(i + last, j + last))
                last++;
            var length = Math.Min(first + last, Math.Min(was.Length - i + first, now.Length - j + first));
            found.Add(new Stretch((i - first) * Hop, (j - first) * Hop, length * Hop));
            (expected, covered) = (i + last, j + last);
            j += Math.Max(1, last);
        }
        return
        [
            .. found
                .OrderByDescending(s => s.Length)
                .Take(MostStretches)
                .OrderBy(s => s.After)
                .AsParallel()
                .AsOrdered()
                .WithCancellation(cancel)
                .Select(Shifted),
        ];
    }

    private ulong[] Places()
    {
        var places = new List<ulong>(was.Length);
        for (var i = 0; i < was.Length; i++)
        {
            if (was[i] != 0)
                places.Add((ulong)was[i] << 32 | (uint)i);
        }
        places.Sort();
        return [.. places];
    }

    private int? Best(ulong[] places, int j, int expected)
    {
        var print = now[j];
        if (print == 0)
            return null;
        var (from, to) = (At(places, (ulong)print << 32), At(places, (ulong)print << 32 | uint.MaxValue));
        var middle = Math.Clamp(At(places, (ulong)print << 32 | (uint)Math.Max(0, expected)), from, to);
        int? best = null;
        var least = Alike;
        for (var p = Math.Max(from, middle - MostPlaces / 2); p < Math.Min(to, middle + MostPlaces / 2); p++)
        {
            var i = (int)(uint)places[p];
            // Of two that fit as well, the one that goes on from where the last ended.
            var distance = Distance(i, j, Sure) + (i == expected ? -0.02 : 0);
            if (distance < least)
                (best, least) = (i, distance);
        }
        return best;
    }

    private static int At(ulong[] places, ulong key)
    {
        var at = Array.BinarySearch(places, key);
        return at < 0 ? ~at : at;
    }

    // Alike in the run that begins at the first place; where the run would begin before a sound does, what there is of it.
    private bool IsAlike(int i, int j)
    {
        var skip = Math.Max(0, Math.Max(-i, -j));
        return Distance(i + skip, j + skip, Running - Math.Min(skip, Running - 1)) < Lost;
    }

    // The share of bits that differ over so many moments; moments that are quiet in one alone differ.
    private double Distance(int i, int j, int count)
    {
        count = Math.Min(count, Math.Min(was.Length - i, now.Length - j));
        if (count <= 0)
            return 1;
        int bits = 0,
            loud = 0,
            one = 0;
        for (var k = 0; k < count; k++)
        {
            var (a, b) = (was[i + k], now[j + k]);
            if (a == 0 && b == 0)
                continue;
            if (a == 0 || b == 0)
                one++;
            else
            {
                loud++;
                bits += BitOperations.PopCount(a ^ b);
            }
        }
        return loud + one == 0 ? 0 : (bits / 32.0 + one * 0.5) / (loud + one);
    }

    // The shift at which the samples themselves agree best, over windows all along the stretch.
    private Stretch Shifted(Stretch stretch)
    {
        var scores = new double[2 * Around + 1];
        foreach (var at in WindowsOf(stretch))
        {
            for (var lag = -Around; lag <= Around; lag++)
                scores[lag + Around] += Correlation(before.Samples, stretch.Before + at + lag, after.Samples, stretch.After + at);
        }
        var best = Around;
        for (var lag = 0; lag < scores.Length; lag++)
        {
            if (scores[lag] > scores[best] + 1e-9)
                best = lag;
        }
        // The earlier one is what is looked up at another place, so that the later one's places stand.
        var (before1, fraction) = Exactly(stretch with { Before = stretch.Before + best - Around });
        var start = Math.Max(0, -before1);
        return new Stretch(before1 + start, stretch.After + start, stretch.Length - start, fraction);
    }

    // Two recordings of one rate are apart by whole samples of that rate; between two rates there may be any part of one.
    private (int Before, double Fraction) Exactly(Stretch stretch)
    {
        var step = before.SourceRate == after.SourceRate ? (double)SoundSketch.Rate / before.SourceRate : 1.0 / 16;
        if (before.SourceRate == after.SourceRate && step >= 1)
            return (stretch.Before, 0);
        var middle = Math.Round(stretch.Shift / step);
        var (best, most) = ((double)stretch.Before, 0.0);
        var moved = new short[Window];
        var values = new float[Window];
        for (var m = middle - Math.Ceiling(1 / step); m <= middle + Math.Ceiling(1 / step); m++)
        {
            var at = stretch.After - m * step;
            var whole = (int)Math.Round(at);
            var filter = Interpolation.At(at - whole);
            double score = 0;
            foreach (var from in WindowsOf(stretch))
            {
                filter.Fill(before.Samples, whole + from, values);
                for (var k = 0; k < Window; k++)
                    moved[k] = (short)Math.Clamp(values[k], short.MinValue, short.MaxValue);
                score += Correlation(moved, 0, after.Samples, stretch.After + from);
            }
            if (score > most + 1e-9)
                (best, most) = (at, score);
        }
        var near = (int)Math.Round(best);
        var fraction = best - near;
        return (near, Math.Abs(fraction) < 1e-6 ? 0 : fraction);
    }

    // All along it; a short one has windows that reach past its ends.
    private static IEnumerable<int> WindowsOf(Stretch stretch) =>
        Enumerable.Range(0, Windows).Select(w => (int)((w + 0.5) * stretch.Length / Windows) - Window / 2);

    private static double Correlation(short[] a, int aAt, short[] b, int bAt)
    {
        var first = Math.Max(0, Math.Max(-aAt, -bAt));
        var last = Math.Min(Window, Math.Min(a.Length - aAt, b.Length - bAt));
        long ab = 0,
            aa = 0,
            bb = 0;
        for (var k = first; k < last; k++)
        {
            int x = a[aAt + k],
                y = b[bAt + k];
            (ab, aa, bb) = (ab + x * y, aa + x * x, bb + y * y);
        }
        // What is left of a window at the end of a sound says little.
        return aa == 0 || bb == 0 ? 0 : ab / Math.Sqrt((double)aa * bb) * (last - first) / Window;
    }
}
