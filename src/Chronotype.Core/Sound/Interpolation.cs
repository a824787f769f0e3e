namespace Chronotype.Core.Sound;

/// <summary>Values of a sound between its samples.</summary>
internal sealed class Interpolation
{
    private const int Half = 24;
    private readonly float[]? taps;

    private Interpolation(float[]? taps) => this.taps = taps;

    /// <param name="fraction">How much later than a sample, from -0.5 to 0.5 of one.</param>
    public static Interpolation At(double fraction) =>
        new(
            Math.Abs(fraction) < 1e-6
                ? null
                : [.. Enumerable.Range(0, 2 * Half + 1).Select(k => (float)WindowedSinc.At(k - Half - fraction, 1, Half + 0.5))]
        );

    /// <summary>Silence stands before the first sample and after the last.</summary>
    public float Of(short[] samples, int at)
    {
        if (taps is null)
            return (uint)at < (uint)samples.Length ? samples[at] : 0;
        var sum = 0f;
        if (at >= Half && at + Half < samples.Length)
        {
            var stretch = samples.AsSpan(at - Half, taps.Length);
            for (var k = 0; k < taps.Length; k++)
                sum += stretch[k] * taps[k];
            return sum;
        }
        for (var k = 0; k < taps.Length; k++)
        {
            var from = at - Half + k;
            if ((uint)from < (uint)samples.Length)
                sum += samples[from] * taps[k];
        }
        return sum;
    }
}
