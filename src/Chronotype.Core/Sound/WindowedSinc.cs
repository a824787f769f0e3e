namespace Chronotype.Core.Sound;

/// <summary>The filter between one rate and another: a sinc under a Kaiser window (Kaiser and Schafer, 1980).</summary>
internal static class WindowedSinc
{
    // Beta 8: the stop band lies 80 dB under the pass band.
    private const double UsualBeta = 8;

    /// <param name="x">Samples from the filter's middle.</param>
    /// <param name="cutoff">As a share of half the sample rate, above 0 up to 1.</param>
    /// <param name="half">Samples from the middle to either end.</param>
    /// <param name="beta">Of the window: how far the stop band lies below.</param>
    public static double At(double x, double cutoff, double half, double beta = UsualBeta)
    {
        if (Math.Abs(x) >= half)
            return 0;
        var sinc = x == 0 ? 1 : Math.Sin(Math.PI * cutoff * x) / (Math.PI * cutoff * x);
        var edge = x / half;
        return cutoff * sinc * Bessel(beta * Math.Sqrt(1 - edge * edge)) / Bessel(beta);
    }

    // The modified Bessel function of the first kind and order 0, by its series.
    private static double Bessel(double x)
    {
        double sum = 1,
            term = 1;
        for (var k = 1; term > sum * 1e-12; k++)
        {
            term *= x / (2 * k) * (x / (2 * k));
            sum += term;
        }
        return sum;
    }
}
