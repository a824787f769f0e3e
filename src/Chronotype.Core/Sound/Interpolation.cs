using System.Numerics;

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

    /// <summary>As <see cref="Of"/>, for as many values in a row as there is room for.</summary>
    public void Fill(short[] samples, int at, Span<float> values)
    {
        if (taps is null)
        {
            for (var i = 0; i < values.Length; i++)
                values[i] = Of(samples, at + i);
            return;
        }
        var line = new float[values.Length + 2 * Half];
        for (var i = 0; i < line.Length; i++)
        {
            var from = at - Half + i;
            line[i] = (uint)from < (uint)samples.Length ? samples[from] : 0;
        }
        var done = 0;
        for (; done + Vector<float>.Count <= values.Length; done += Vector<float>.Count)
        {
            var sum = Vector<float>.Zero;
            for (var k = 0; k < taps.Length; k++)
                sum = Vector.FusedMultiplyAdd(new Vector<float>(line, done + k), new Vector<float>(taps[k]), sum);
            sum.CopyTo(values[done..]);
        }
        for (; done < values.Length; done++)
            values[done] = Of(samples, at + done);
    }
}
