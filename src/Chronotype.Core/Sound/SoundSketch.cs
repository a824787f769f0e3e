using System.Numerics;
using System.Runtime.InteropServices;

namespace Chronotype.Core.Sound;

/// <summary>
/// A sound made ready to be lined up with another: one channel at a low rate, whatever it came in, and a print of every moment that stays
/// the same when it is made louder, filtered or sampled otherwise (after Haitsma and Kalker, "A Highly Robust Audio Fingerprinting
/// System", 2002).
/// </summary>
internal sealed class SoundSketch
{
    /// <summary>Hertz.</summary>
    public const int Rate = 8000;

    /// <summary>Samples from one sum of squares to the next: 2 ms.</summary>
    public const int Step = 16;

    /// <summary>Samples from one print to the next: 16 ms.</summary>
    public const int Hop = 128;

    // 128 ms: long against the hop, so that two sounds need not be cut at the same moments.
    private const int Frame = 1024;
    private const int Bands = 33;
    private const double LowHertz = 150,
        HighHertz = 2900;

    // Quieter than this, about 80 dB under full scale, a moment has nothing to be known by.
    private const float QuietPower = 3f;

    // So steep that nothing is left at half the low rate, where values between samples could not be told.
    private const int Crossings = 16;
    private const double Cutoff = 0.77;
    private const int MostPhases = 1000;

    // They are made while the other sound is read.
    private readonly Task<uint[]> prints;

    private SoundSketch(int sourceRate, short[] samples, double[] energy, Task<uint[]> prints) =>
        (SourceRate, Samples, Energy, this.prints) = (sourceRate, samples, energy, prints);

    /// <summary>Hertz, of the sound as it came.</summary>
    public int SourceRate { get; }

    /// <summary>The mean of all channels at <see cref="Rate"/>; 32768 is full scale.</summary>
    public short[] Samples { get; }

    /// <summary>The sum of all squares up to every <see cref="Step"/> samples of the low rate, of what came, full scale 1.</summary>
    public double[] Energy { get; }

    /// <summary>Per hop; 0 where it is too quiet to tell.</summary>
    public uint[] Prints => prints.GetAwaiter().GetResult();

    /// <summary>Reads a sound to its end.</summary>
    public static SoundSketch Of(SoundStream sound, CancellationToken cancel = default)
    {
        var (rate, channels) = (sound.Facts.SampleRate, sound.Facts.Channels);
        var low = new Resampler(rate, sound.Facts.Frames);
        var energy = new List<double> { 0 };
        var buffer = new float[8192 * channels];
        var mono = new float[8192];
        double square = 0;
        long frame = 0,
            stepEnd = StepEnd(1);
        long StepEnd(int step) => ((long)step * Step * rate + Rate - 1) / Rate;
        for (int read; (read = sound.Read(buffer)) > 0; )
        {
            cancel.ThrowIfCancellationRequested();
            var frames = read / channels;
            Mix(buffer.AsSpan(0, read), channels, mono.AsSpan(0, frames));
            low.Add(mono.AsSpan(0, frames));
            for (var i = 0; i < frames; )
            {
                // Up to the end of the step, or of what was read.
                var until = (int)Math.Min(frames, i + stepEnd - frame);
                frame += until - i;
                var stretch = mono.AsSpan(i, until - i);
                square += Resampler.Dot(stretch, stretch);
                i = until;
                if (frame == stepEnd)
                {
                    energy.Add(square * Rate / rate);
                    stepEnd = StepEnd(energy.Count);
                }
            }
        }
        var samples = low.Finish();
        return new SoundSketch(rate, samples, [.. energy], Task.Run(() => Print(samples, cancel), cancel));
    }

    internal static void Mix(ReadOnlySpan<float> from, int channels, Span<float> to)
    {
        if (channels == 1)
            from.CopyTo(to);
        else if (channels == 2)
        {
            for (var i = 0; i < to.Length; i++)
                to[i] = (from[2 * i] + from[2 * i + 1]) / 2;
        }
        else
        {
            for (int i = 0, at = 0; i < to.Length; i++)
            {
                var sum = 0f;
                for (var c = 0; c < channels; c++)
                    sum += from[at++];
                to[i] = sum / channels;
            }
        }
    }

    /// <summary>The squares of what came from one sample of the low rate to another, as many as there would be at the low rate.</summary>
    public double EnergyOf(double from, double to) => UpTo(to) - UpTo(from);

    private double UpTo(double at)
    {
        var step = Math.Clamp(at / Step, 0, Energy.Length - 1);
        var whole = (int)step;
        return whole + 1 < Energy.Length ? Energy[whole] + (Energy[whole + 1] - Energy[whole]) * (step - whole) : Energy[^1];
    }

    private static uint[] Print(short[] samples, CancellationToken cancel)
    {
        if (samples.Length < Frame)
            return [];
        var prints = new uint[(samples.Length - Frame) / Hop + 1];
        var edges = Enumerable
            .Range(0, Bands + 1)
            .Select(b => (int)Math.Round(LowHertz * Math.Pow(HighHertz / LowHertz, (double)b / Bands) * Frame / Rate))
            .ToArray();
        for (var b = 1; b < edges.Length; b++)
            edges[b] = Math.Max(edges[b], edges[b - 1] + 1);
        // Each part of the time on a processor of its own; a part begins with the moment before it, which its first print needs.
        const int part = 4096;
        Parallel.For(
            0,
            (prints.Length + part - 1) / part,
            new ParallelOptions { CancellationToken = cancel },
            index =>
            {
                var fourier = new FourierTransform(Frame);
                var power = new float[Frame / 2];
                var (before, now) = (new float[Bands], new float[Bands]);
                var first = index * part;
                for (var i = Math.Max(0, first - 1); i < Math.Min(prints.Length, first + part); i++)
                {
                    fourier.Power(samples.AsSpan(i * Hop, Frame), power);
                    var loudest = 0f;
                    for (var b = 0; b < Bands; b++)
                    {
                        var sum = 0f;
                        for (var k = edges[b]; k < edges[b + 1]; k++)
                            sum += power[k];
                        now[b] = sum;
                        loudest = Math.Max(loudest, sum);
                    }
                    if (i >= first && loudest > QuietPower * Frame * Frame)
                        prints[i] = Math.Max(1, Bits(before, now));
                    (before, now) = (now, before);
                }
            }
        );
        return prints;
    }

    private static uint Bits(float[] before, float[] now)
    {
        uint bits = 0;
        for (var b = 0; b < Bands - 1; b++)
        {
            if (now[b] - now[b + 1] - (before[b] - before[b + 1]) > 0)
                bits |= 1u << b;
        }
        return bits;
    }

    /// <summary>To the low rate, while it is read.</summary>
    private sealed class Resampler
    {
        private readonly int phases,
            half;
        private readonly double ratio;
        private readonly float[][] filters;
        private readonly short[] samples;
        private float[] line;
        private int made,
            filled;
        private long lineStart;

        public Resampler(int rate, long frames)
        {
            ratio = (double)rate / Rate;
            phases = Math.Min(Rate / (int)BigInteger.GreatestCommonDivisor(rate, Rate), MostPhases);
            var scale = Math.Max(1, ratio);
            half = (int)Math.Ceiling(Crossings * scale);
            filters =
            [
                .. Enumerable
                    .Range(0, phases)
                    .Select(f =>
                        Enumerable
                            .Range(0, 2 * half)
                            .Select(k => (float)WindowedSinc.At(k - (half - 1) - (double)f / phases, Cutoff / scale, half))
                            .ToArray()
                    ),
            ];
            samples = new short[(frames * Rate + rate - 1) / rate];
            line = new float[half - 1 + 16384];
            // Silence stands before the first sample.
            filled = half - 1;
            lineStart = -(half - 1);
        }

        public void Add(ReadOnlySpan<float> more)
        {
            if (filled + more.Length > line.Length)
                Array.Resize(ref line, filled + more.Length);
            more.CopyTo(line.AsSpan(filled));
            filled += more.Length;
            Make();
        }

        public short[] Finish()
        {
            Add(new float[half]);
            return made == samples.Length ? samples : samples[..made];
        }

        private void Make()
        {
            while (made < samples.Length)
            {
                var position = made * ratio;
                var whole = (long)Math.Floor(position);
                var phase = (int)Math.Round((position - whole) * phases);
                if (phase == phases)
                    (phase, whole) = (0, whole + 1);
                var at = (int)(whole - (half - 1) - lineStart);
                if (at + 2 * half > filled)
                    break;
                var value = Dot(line.AsSpan(at, 2 * half), filters[phase]) * 32767f;
                samples[made++] = (short)Math.Clamp(MathF.Round(value), short.MinValue, short.MaxValue);
            }
            // What no later point needs goes.
            var keepFrom = (int)Math.Clamp((long)Math.Floor(made * ratio) - half - lineStart, 0, filled);
            line.AsSpan(keepFrom, filled - keepFrom).CopyTo(line);
            (filled, lineStart) = (filled - keepFrom, lineStart + keepFrom);
        }

        // Four sums side by side, so that none waits for another.
        public static float Dot(ReadOnlySpan<float> a, ReadOnlySpan<float> b)
        {
            ref var left = ref MemoryMarshal.GetReference(a);
            ref var right = ref MemoryMarshal.GetReference(b);
            Vector<float> p = default,
                q = default,
                r = default,
                s = default;
            var (width, i) = (Vector<float>.Count, 0);
            for (; i + 4 * width <= a.Length; i += 4 * width)
            {
                p = Next(ref left, ref right, i, p);
                q = Next(ref left, ref right, i + width, q);
                r = Next(ref left, ref right, i + 2 * width, r);
                s = Next(ref left, ref right, i + 3 * width, s);
            }
            var result = Vector.Sum(p + q + r + s);
            for (; i < a.Length; i++)
                result += a[i] * b[i];
            return result;
        }

        private static Vector<float> Next(ref float left, ref float right, int at, Vector<float> sum) =>
            Vector.FusedMultiplyAdd(Vector.LoadUnsafe(ref left, (nuint)at), Vector.LoadUnsafe(ref right, (nuint)at), sum);
    }
}
