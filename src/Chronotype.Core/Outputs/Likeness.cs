using System.Numerics;

namespace Chronotype.Core.Outputs;

/// <summary>
/// What a picture or a sound is known by, whatever its size, rate and format: small enough to be kept of every version, and near enough to
/// tell which one a copy was made from.
/// </summary>
public sealed record Likeness
{
    /// <summary>Of the square that a picture is drawn into for its hash, and of the small one that is kept.</summary>
    public const int HashSide = 32,
        SmallSide = 16;

    /// <summary>Steps of a second that a sound's level is told by.</summary>
    public const int StepsOfSecond = 10;

    // A copy may be cut out of its version; less of it than this says nothing.
    private const int LeastSteps = 5;
    private const int LowCosines = 8;

    // Steps that are compared at most, to find where a copy lies.
    private const double MostWork = 4_000_000;

    /// <summary>A picture's perceptual hash; null for a sound.</summary>
    public ulong? Hash { get; init; }

    /// <summary>A picture in 16 x 16 pixels of red, green and blue; null for a sound.</summary>
    public byte[]? Small { get; init; }

    /// <summary>A sound's level in each tenth of a second, from 0 for silence to 255 for full scale, in equal steps of dB; null for a picture.</summary>
    public byte[]? Level { get; init; }

    /// <summary>
    /// The perceptual hash of a picture: whether each of its 64 lowest cosines is above their middle (Zauner, "Implementation and
    /// Benchmarking of Perceptual Image Hash Functions", 2010, 3.2.1).
    /// </summary>
    /// <param name="grey">32 x 32 pixels, row by row.</param>
    public static ulong HashOf(ReadOnlySpan<byte> grey)
    {
        var lows = new double[LowCosines * LowCosines];
        for (var v = 0; v < LowCosines; v++)
        {
            for (var u = 0; u < LowCosines; u++)
            {
                var sum = 0.0;
                for (var y = 0; y < HashSide; y++)
                {
                    var down = Math.Cos(Math.PI / HashSide * (y + 0.5) * (v + 1));
                    for (var x = 0; x < HashSide; x++)
                        sum += grey[y * HashSide + x] * down * Math.Cos(Math.PI / HashSide * (x + 0.5) * (u + 1));
                }
                lows[v * LowCosines + u] = sum;
            }
        }
        var sorted = lows.Order().ToArray();
        var middle = (sorted[31] + sorted[32]) / 2;
        ulong hash = 0;
        for (var i = 0; i < lows.Length; i++)
        {
            if (lows[i] > middle)
                hash |= 1UL << i;
        }
        return hash;
    }

    /// <summary>How alike two are: 1 for the same, about 0 for what has nothing to do with one another.</summary>
    /// <param name="copy">What came.</param>
    /// <param name="version">What it may be made from.</param>
    /// <returns>Null for a picture and a sound, and for what is too short to tell. With it, of a sound, at which second of the version it begins.</returns>
    public static (double Alike, double At)? Of(Likeness copy, Likeness version) =>
        copy is { Hash: { } a, Small: { } small } && version is { Hash: { } b, Small: { } other }
            ? (Math.Max(0, 1 - BitOperations.PopCount(a ^ b) / 32.0) * 0.5 + Near(small, other) * 0.5, 0)
        : copy.Level is { } heard && version.Level is { } whole ? Aligned(heard, whole)
        : null;

    // A twentieth of the way from black to white is as far as from like to unlike.
    private static double Near(byte[] a, byte[] b)
    {
        if (a.Length != b.Length)
            return 0;
        var sum = 0.0;
        for (var i = 0; i < a.Length; i++)
            sum += Math.Abs(a[i] - b[i]);
        return Math.Max(0, 1 - sum / a.Length / 255 * 5);
    }

    // The place at which the levels go up and down together most, whatever their height: a copy may be louder, or a stretch of it.
    private static (double, double)? Aligned(byte[] copy, byte[] version)
    {
        if (copy.Length < LeastSteps || version.Length < LeastSteps)
            return null;
        // Nobody cuts more than a step beyond the ends of it. Of long ones the place is found roughly first, and then to the step.
        var (first, last) = (Math.Min(0, version.Length - copy.Length) - 1, Math.Max(0, version.Length - copy.Length) + 1);
        var coarse = (int)Math.Ceiling(Math.Sqrt((double)copy.Length * (last - first) / MostWork));
        if (coarse > 1)
        {
            var rough = Best(Thinned(copy, coarse), Thinned(version, coarse), first / coarse - 1, last / coarse + 1).Lag * coarse;
            (first, last) = (Math.Max(first, rough - 2 * coarse), Math.Min(last, rough + 2 * coarse));
        }
        var (alike, lag) = Best(copy, version, first, last);
        return (alike, Math.Max(0, lag) / (double)StepsOfSecond);
    }

    private static byte[] Thinned(byte[] levels, int every) =>
        [.. levels.Chunk(every).Where(c => c.Length == every).Select(c => (byte)(c.Sum(v => v) / every))];

    private static (double Alike, int Lag) Best(byte[] copy, byte[] version, int first, int last)
    {
        var best = (Alike: 0.0, Lag: 0);
        for (var lag = first; lag <= last; lag++)
        {
            var from = Math.Max(0, -lag);
            var shared = Math.Min(copy.Length, version.Length - lag) - from;
            if (shared < LeastSteps)
                continue;
            var alike = Correlation(copy.AsSpan(from, shared), version.AsSpan(from + lag, shared)) * shared / copy.Length;
            if (alike > best.Alike)
                best = (alike, lag);
        }
        return best;
    }

    private static double Correlation(ReadOnlySpan<byte> a, ReadOnlySpan<byte> b)
    {
        double sumA = 0,
            sumB = 0,
            squareA = 0,
            squareB = 0,
            both = 0;
        for (var i = 0; i < a.Length; i++)
        {
            sumA += a[i];
            sumB += b[i];
            squareA += a[i] * a[i];
            squareB += b[i] * b[i];
            both += a[i] * b[i];
        }
        var n = a.Length;
        var (spreadA, spreadB) = (squareA - sumA * sumA / n, squareB - sumB * sumB / n);
        // What goes neither up nor down tells nothing by that; two of them are alike.
        if (spreadA < n || spreadB < n)
            return spreadA < n && spreadB < n ? 0.5 : 0;
        return Math.Max(0, (both - sumA * sumB / n) / Math.Sqrt(spreadA * spreadB));
    }
}
