using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using Chronotype.Core.Content;

namespace Chronotype.Core.Sound;

/// <summary>
/// A sound at another rate, by a polyphase filter (Crochiere and Rabiner, "Multirate Digital Signal Processing", 1983): a sinc under a Kaiser
/// window of linear phase, whose stop band begins at half of the lower rate and lies 125 dB under its pass band, which reaches to 20 kHz of
/// 44.1 kHz and as far of any other. What is silent before and after stays so; the ends keep their place in time.
/// </summary>
public sealed class RateConverter : SoundStream
{
    // Kaiser and Schafer, 1980: what a stop band of so many dB asks of the window.
    private const double StopBand = 125,
        Beta = 0.1102 * (StopBand - 8.7);

    // 20 kHz of the 22.05 that 44.1 kHz can hold.
    private const double Pass = 20_000 / 22_050.0;

    // Filters are worked out once for each phase, where all of them take no more than this many numbers.
    private const long MostHeld = 16_000_000;

    private readonly SoundStream source;
    private readonly bool ownsSource;
    private readonly int channels;
    private readonly long up;
    private readonly long down;
    private readonly int half;
    private readonly double cutoff;
    private readonly double[]?[] phases;

    // A stretch of every channel's samples; what lies before its beginning is not needed any more.
    private readonly double[][] held;
    private readonly float[] read;
    private long begin;
    private int length;
    private long written;
    private long? end;

    /// <param name="source">Read to its end.</param>
    /// <param name="rate">Frames a second.</param>
    /// <param name="ownsSource">Whether it is disposed of with this.</param>
    public RateConverter(SoundStream source, int rate, bool ownsSource = true)
        : base(Made(source.Facts, rate))
    {
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(rate);
        (this.source, this.ownsSource, channels) = (source, ownsSource, source.Facts.Channels);
        var common = (long)BigInteger.GreatestCommonDivisor(rate, source.Facts.SampleRate);
        (up, down) = (rate / common, source.Facts.SampleRate / common);
        // All in cycles of the source's samples.
        var lower = Math.Min(rate, source.Facts.SampleRate) / 2.0 / source.Facts.SampleRate;
        var width = lower * (1 - Pass);
        half = (int)Math.Ceiling((StopBand - 7.95) / (14.36 * width) / 2) + 1;
        cutoff = lower * (1 + Pass) / 2;
        phases = up * 2 * half <= MostHeld ? new double[up][] : [];
        held = [.. Enumerable.Range(0, channels).Select(_ => new double[Math.Max(1 << 15, 8 * half)])];
        read = new float[8192 * channels];
        // Silence before the first sample.
        (begin, length) = (-half, half);
    }

    /// <inheritdoc/>
    public override int Read(Span<float> samples)
    {
        var frames = samples.Length / channels;
        var done = 0;
        for (; done < frames; done++)
        {
            var middle = written * down / up;
            var first = middle - half + 1;
            while (first + 2 * half > begin + length && end is null)
                Fetch(first);
            if (end is { } last && written * down >= last * up)
                break;
            var taps = Phase(written * down % up);
            for (var c = 0; c < channels; c += 2)
            {
                var other = Math.Min(c + 1, channels - 1);
                var (one, two) = Sum(held[c], held[other], (int)(first - begin), taps);
                (samples[done * channels + c], samples[done * channels + other]) = ((float)one, (float)two);
            }
            written++;
        }
        return done * channels;
    }

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        if (disposing && ownsSource)
            source.Dispose();
    }

    // Takes the next of the source, and lets go of what lies before a sample.
    private void Fetch(long before)
    {
        var room = held[0].Length;
        if (length + read.Length / channels > room - 2 * half)
        {
            var gone = (int)Math.Clamp(before - begin, 0, length);
            foreach (var samples in held)
                Array.Copy(samples, gone, samples, 0, length - gone);
            (begin, length) = (begin + gone, length - gone);
        }
        var got = source.Read(read) / channels;
        for (var c = 0; c < channels; c++)
        {
            for (var i = 0; i < got; i++)
                held[c][length + i] = read[i * channels + c];
        }
        length += got;
        if (got > 0)
            return;
        end = begin + length;
        // Silence after the last sample.
        foreach (var samples in held)
            Array.Clear(samples, length, 2 * half);
        length += 2 * half;
    }

    private double[] Phase(long phase)
    {
        if (phases.Length == 0)
            return Taps(phase);
        return phases[phase] ??= Taps(phase);
    }

    private double[] Taps(long phase)
    {
        var taps = new double[2 * half];
        var fraction = (double)phase / up;
        // At a higher rate each sample stands for as much; at a lower one the filter's own gain is what keeps the level.
        var sum = 0.0;
        for (var k = 0; k < taps.Length; k++)
            sum += taps[k] = WindowedSinc.At(half - 1 + fraction - k, 2 * cutoff, half, Beta);
        // Each phase passes what does not change as it is.
        for (var k = 0; k < taps.Length; k++)
            taps[k] /= sum;
        return taps;
    }

    // Two channels at a time: each number of the filter is fetched once for both.
    private static (double First, double Second) Sum(double[] first, double[] second, int at, double[] taps)
    {
        // Neither stretch ends before the filter does: what is read without a check is there.
        ArgumentOutOfRangeException.ThrowIfNegative(at);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(at, Math.Min(first.Length, second.Length) - taps.Length);
        ref var a = ref Unsafe.Add(ref MemoryMarshal.GetArrayDataReference(first), at);
        ref var b = ref Unsafe.Add(ref MemoryMarshal.GetArrayDataReference(second), at);
        ref var t = ref MemoryMarshal.GetArrayDataReference(taps);
        var lanes = (nuint)Vector<double>.Count;
        var (a1, a2, b1, b2) = (Vector<double>.Zero, Vector<double>.Zero, Vector<double>.Zero, Vector<double>.Zero);
        nuint k = 0;
        for (; k + 2 * lanes <= (nuint)taps.Length; k += 2 * lanes)
        {
            var (low, high) = (Vector.LoadUnsafe(ref t, k), Vector.LoadUnsafe(ref t, k + lanes));
            a1 = Vector.FusedMultiplyAdd(Vector.LoadUnsafe(ref a, k), low, a1);
            a2 = Vector.FusedMultiplyAdd(Vector.LoadUnsafe(ref a, k + lanes), high, a2);
            b1 = Vector.FusedMultiplyAdd(Vector.LoadUnsafe(ref b, k), low, b1);
            b2 = Vector.FusedMultiplyAdd(Vector.LoadUnsafe(ref b, k + lanes), high, b2);
        }
        var (sumA, sumB) = (Vector.Sum(a1 + a2), Vector.Sum(b1 + b2));
        for (; k < (nuint)taps.Length; k++)
        {
            sumA += Unsafe.Add(ref a, k) * Unsafe.Add(ref t, k);
            sumB += Unsafe.Add(ref b, k) * Unsafe.Add(ref t, k);
        }
        return (sumA, sumB);
    }

    private static SoundFacts Made(SoundFacts facts, int rate) =>
        facts with
        {
            SampleRate = rate,
            Frames = (long)(((BigInteger)facts.Frames * rate + facts.SampleRate - 1) / facts.SampleRate),
        };
}
