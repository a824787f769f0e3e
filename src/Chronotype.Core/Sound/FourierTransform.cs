using System.Numerics;

namespace Chronotype.Core.Sound;

/// <summary>The power of the frequencies in a block of samples (Cooley and Tukey, 1965), for one length. Not for two threads at once.</summary>
internal sealed class FourierTransform
{
    private readonly int length;
    private readonly float[] window,
        cos,
        sin,
        re,
        im;
    private readonly int[] reversed;

    // By stage, what each pair is turned by.
    private readonly List<(float[] Cos, float[] Sin)> turns = [];

    /// <param name="length">A power of two.</param>
    public FourierTransform(int length)
    {
        this.length = length;
        window = [.. Enumerable.Range(0, length).Select(i => (float)(0.5 - 0.5 * Math.Cos(2 * Math.PI * i / length)))];
        // A block of real samples is transformed as half as many complex ones.
        var half = length / 2;
        cos = [.. Enumerable.Range(0, half).Select(i => (float)Math.Cos(2 * Math.PI * i / length))];
        sin = [.. Enumerable.Range(0, half).Select(i => (float)-Math.Sin(2 * Math.PI * i / length))];
        for (var size = 2; size <= half; size *= 2)
        {
            float[] Every(float[] table) => [.. Enumerable.Range(0, size / 2).Select(k => table[k * (length / size)])];
            turns.Add((Every(cos), Every(sin)));
        }
        (re, im) = (new float[half], new float[half]);
        reversed = new int[half];
        for (int i = 1, bits = int.Log2(half); i < half; i++)
            reversed[i] = reversed[i >> 1] >> 1 | (i & 1) << (bits - 1);
    }

    /// <summary>Of the samples under a Hann window.</summary>
    /// <param name="samples">As many as the length; 32768 is full scale.</param>
    /// <param name="power">Filled from silence up to half the sample rate; half the length long.</param>
    public void Power(ReadOnlySpan<short> samples, Span<float> power)
    {
        var half = length / 2;
        for (var i = 0; i < half; i++)
        {
            var to = reversed[i];
            re[to] = samples[2 * i] * window[2 * i];
            im[to] = samples[2 * i + 1] * window[2 * i + 1];
        }
        for (int size = 2, stage = 0; size <= half; size *= 2, stage++)
        {
            var (turnCos, turnSin) = turns[stage];
            var width = Vector<float>.Count;
            for (var start = 0; start < half; start += size)
            {
                var k = 0;
                for (; k + width <= size / 2; k += width)
                    Turn(start + k, start + k + size / 2, new Vector<float>(turnCos, k), new Vector<float>(turnSin, k));
                for (; k < size / 2; k++)
                    Turn(start + k, start + k + size / 2, turnCos[k], turnSin[k]);
            }
        }
        power[0] = (re[0] + im[0]) * (re[0] + im[0]);
        for (var k = 1; k < half; k++)
        {
            var (er, ei) = ((re[k] + re[half - k]) / 2, (im[k] - im[half - k]) / 2);
            var (or, oi) = ((im[k] + im[half - k]) / 2, (re[half - k] - re[k]) / 2);
            var r = er + or * cos[k] - oi * sin[k];
            var i = ei + or * sin[k] + oi * cos[k];
            power[k] = r * r + i * i;
        }
    }

    private void Turn(int at, int other, float c, float s)
    {
        var r = re[other] * c - im[other] * s;
        var j = re[other] * s + im[other] * c;
        (re[other], im[other]) = (re[at] - r, im[at] - j);
        (re[at], im[at]) = (re[at] + r, im[at] + j);
    }

    // As many at once as a vector holds.
    private void Turn(int at, int other, Vector<float> c, Vector<float> s)
    {
        var (x, y) = (new Vector<float>(re, at), new Vector<float>(im, at));
        var (p, q) = (new Vector<float>(re, other), new Vector<float>(im, other));
        var r = p * c - q * s;
        var j = p * s + q * c;
        (x - r).CopyTo(re, other);
        (y - j).CopyTo(im, other);
        (x + r).CopyTo(re, at);
        (y + j).CopyTo(im, at);
    }
}
