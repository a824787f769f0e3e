namespace Chronotype.Core.Sound;

/// <summary>
/// Samples in fewer bits, with triangular dither of two steps' width, which keeps what is lost free of what is heard (Lipshitz, Wannamaker
/// and Vanderkooy, "Quantization and Dither", 1992). The same sound is made the same each time.
/// </summary>
/// <param name="bits">Of a sample: 16 or 24.</param>
/// <param name="isDithered">Where nothing is lost nothing is added.</param>
public sealed class Dither(int bits, bool isDithered)
{
    private readonly double full = (1L << (bits - 1)) - 0.0;
    private ulong state = 0x9E3779B97F4A7C15;

    /// <summary>The nearest step for a value from -1 to 1; what is beyond full scale is cut to it.</summary>
    public int Of(float value)
    {
        var scaled = value * full;
        if (isDithered)
            scaled += Next() + Next() - 1;
        return (int)Math.Clamp(Math.Round(scaled), -full, full - 1);
    }

    // From 0 to 1 (Marsaglia, "Xorshift RNGs", 2003; with Vigna's multiplier).
    private double Next()
    {
        state ^= state >> 12;
        state ^= state << 25;
        state ^= state >> 27;
        return (state * 0x2545F4914F6CDD1D >> 11) * (1.0 / (1UL << 53));
    }
}
