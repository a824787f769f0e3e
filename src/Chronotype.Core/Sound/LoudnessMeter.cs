using System.Numerics;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using Chronotype.Core.Content;

namespace Chronotype.Core.Sound;

/// <summary>
/// Measures programme loudness, its range and the true peak while a sound is read once (ITU-R BS.1770-5; EBU R 128, EBU Tech 3342).
/// </summary>
public sealed class LoudnessMeter
{
    // BS.1770: gating blocks of 400 ms that overlap by 75 %. Tech 3342: windows of 3 s, here one every 100 ms.
    private const int StepsOfBlock = 4,
        StepsOfWindow = 30;
    private const double AbsoluteGate = -70,
        BlockGate = -10,
        RangeGate = -20;

    private readonly int rate,
        channels;
    private readonly double[] weights;
    private readonly KWeighting[] weightings;
    private readonly TruePeak[] peaks;
    private readonly List<double> steps = [];
    private double energy;
    private long frame,
        stepEnd;
    private float samplePeak;
    private float[] plane = [];

    /// <param name="sampleRate">Hertz.</param>
    /// <param name="channels">Channels of a frame; six are taken for left, right, centre, low, left and right surround.</param>
    public LoudnessMeter(int sampleRate, int channels)
    {
        (rate, this.channels) = (sampleRate, channels);
        // BS.1770-5, table 3: surround channels weigh 1.41, and the low-frequency channel does not count.
        weights = channels == 6 ? [1, 1, 1, 0, 1.41, 1.41] : [.. Enumerable.Repeat(1.0, channels)];
        weightings = [.. Enumerable.Range(0, (channels + 1) / 2).Select(_ => new KWeighting(sampleRate))];
        peaks = [.. Enumerable.Range(0, channels).Select(_ => new TruePeak(sampleRate))];
        stepEnd = StepEnd(1);
    }

    /// <summary>Goes on with these.</summary>
    /// <param name="samples">Whole frames, channels interleaved, -1 to 1 at full scale.</param>
    public void Add(ReadOnlySpan<float> samples)
    {
        while (samples.Length > 0)
        {
            var frames = (int)Math.Min(samples.Length / channels, stepEnd - frame);
            AddWithinStep(samples[..(frames * channels)], frames);
            samples = samples[(frames * channels)..];
            frame += frames;
            if (frame == stepEnd)
            {
                steps.Add(energy);
                energy = 0;
                stepEnd = StepEnd(steps.Count + 1);
            }
        }
    }

    /// <summary>What was measured so far.</summary>
    public LevelFacts Result()
    {
        var peak = Math.Max(samplePeak, peaks.Max(p => p.Highest));
        return new LevelFacts(Loudness(), Range(), Decibels(samplePeak), Decibels(peak));
    }

    /// <summary>
    /// The loudness of the last 3 s, ten times a second, in LUFS (EBU Tech 3341, short-term); at the beginning of what there is of them.
    /// </summary>
    public IReadOnlyList<double> ShortTerm()
    {
        var levels = new double[steps.Count];
        double sum = 0;
        for (var i = 0; i < steps.Count; i++)
        {
            sum += steps[i];
            if (i >= StepsOfWindow)
                sum -= steps[i - StepsOfWindow];
            levels[i] = Lufs(Math.Max(0, sum) / (StepEnd(i + 1) - StepEnd(Math.Max(0, i + 1 - StepsOfWindow))));
        }
        return levels;
    }

    private long StepEnd(int step) => (long)Math.Round((long)step * rate / 10.0);

    private void AddWithinStep(ReadOnlySpan<float> samples, int frames)
    {
        if (plane.Length < frames)
            plane = new float[frames];
        var one = plane.AsSpan(0, frames);
        for (var channel = 0; channel < channels; channel++)
        {
            for (int i = 0, at = channel; i < frames; i++, at += channels)
                one[i] = samples[at];
            samplePeak = Math.Max(samplePeak, TruePeak.Largest(one));
            peaks[channel].Add(one);
        }
        // Two channels at a time are filtered side by side.
        for (var pair = 0; pair < weightings.Length; pair++)
        {
            var sums = weightings[pair].Add(samples, pair * 2, channels);
            energy += weights[pair * 2] * sums[0];
            if (pair * 2 + 1 < channels)
                energy += weights[pair * 2 + 1] * sums[1];
        }
    }

    // The mean square of each run of steps, over all channels.
    private List<double> Windows(int length)
    {
        var windows = new List<double>();
        double sum = 0;
        for (var i = 0; i < steps.Count; i++)
        {
            sum += steps[i];
            if (i >= length)
                sum -= steps[i - length];
            if (i >= length - 1)
                windows.Add(Math.Max(0, sum) / (StepEnd(i + 1) - StepEnd(i + 1 - length)));
        }
        return windows;
    }

    private double? Loudness()
    {
        var blocks = Windows(StepsOfBlock).Where(b => Lufs(b) > AbsoluteGate).ToList();
        if (blocks.Count == 0)
            return null;
        var gate = Lufs(blocks.Average()) + BlockGate;
        return Lufs(blocks.Where(b => Lufs(b) > gate).Average());
    }

    private double? Range()
    {
        var windows = Windows(StepsOfWindow).Where(b => Lufs(b) > AbsoluteGate).ToList();
        if (windows.Count == 0)
            return null;
        var gate = Lufs(windows.Average()) + RangeGate;
        var levels = windows.Select(Lufs).Where(l => l > gate).Order().ToList();
        // Tech 3342: from the 10th to the 95th percentile.
        double At(double part) => levels[(int)Math.Round((levels.Count - 1) * part)];
        return At(0.95) - At(0.10);
    }

    private static double Lufs(double meanSquare) => meanSquare <= 0 ? double.NegativeInfinity : -0.691 + 10 * Math.Log10(meanSquare);

    private static double? Decibels(float peak) => peak <= 0 ? null : 20 * Math.Log10(peak);
}

/// <summary>The two filters of BS.1770-5, annex 1, for any rate, over two channels at once.</summary>
internal sealed class KWeighting
{
    // The analogue prototypes of the standard's tables at 48 kHz.
    private const double ShelfHertz = 1681.974450955533,
        ShelfGain = 3.999843853973347,
        ShelfQ = 0.7071752369554196,
        PassHertz = 38.13547087602444,
        PassQ = 0.5003270373238773;

    private readonly double b0,
        b1,
        b2,
        a1,
        a2,
        c1,
        c2;
    private Vector128<double> s1,
        s2,
        t1,
        t2;

    public KWeighting(int rate)
    {
        // A rate too low for the shelf has it just under its upper end.
        var k = Math.Tan(Math.PI * Math.Min(ShelfHertz / rate, 0.49));
        var high = Math.Pow(10, ShelfGain / 20);
        var band = Math.Pow(high, 0.4996667741545416);
        var a0 = 1 + k / ShelfQ + k * k;
        b0 = (high + band * k / ShelfQ + k * k) / a0;
        b1 = 2 * (k * k - high) / a0;
        b2 = (high - band * k / ShelfQ + k * k) / a0;
        a1 = 2 * (k * k - 1) / a0;
        a2 = (1 - k / ShelfQ + k * k) / a0;
        k = Math.Tan(Math.PI * PassHertz / rate);
        a0 = 1 + k / PassQ + k * k;
        c1 = 2 * (k * k - 1) / a0;
        c2 = (1 - k / PassQ + k * k) / a0;
    }

    /// <summary>Filters on, and sums the squares.</summary>
    /// <param name="samples">Interleaved.</param>
    /// <param name="first">The first of the two channels; the second may be past the last.</param>
    /// <param name="channels">Of a frame.</param>
    public Vector128<double> Add(ReadOnlySpan<float> samples, int first, int channels)
    {
        Vector128<double> sum = Vector128<double>.Zero,
            u1 = s1,
            u2 = s2,
            v1 = t1,
            v2 = t2;
        var second = first + 1 < channels ? 1 : 0;
        for (var at = first; at + second < samples.Length; at += channels)
        {
            var x = Vector128.Create((double)samples[at], samples[at + second]);
            var y = x * b0 + u1;
            u1 = x * b1 - y * a1 + u2;
            u2 = x * b2 - y * a2;
            var z = y + v1;
            v1 = y * -2.0 - z * c1 + v2;
            v2 = y - z * c2;
            sum += z * z;
        }
        // What has sunk under all that can be heard would only make the processor slow.
        (s1, s2, t1, t2) = (Settled(u1), Settled(u2), Settled(v1), Settled(v2));
        return sum;
    }

    private static Vector128<double> Settled(Vector128<double> state) =>
        Vector128.ConditionalSelect(Vector128.LessThan(Vector128.Abs(state), Vector128.Create(1e-30)), Vector128<double>.Zero, state);
}

/// <summary>The highest point of a curve through the samples (BS.1770-5, annex 2), of one channel.</summary>
internal sealed class TruePeak
{
    private const int Taps = 32;
    private readonly float[][] phases;
    private float[] line = new float[Taps - 1];

    public TruePeak(int rate)
    {
        // Four times as many points up to 96 kHz, twice up to 192 kHz; above that the samples are near enough.
        var times =
            rate < 96_000 ? 4
            : rate < 192_000 ? 2
            : 1;
        phases = [.. Enumerable.Range(1, times - 1).Select(p => Phase((double)p / times))];
    }

    /// <summary>Of all points so far.</summary>
    public float Highest { get; private set; }

    public void Add(ReadOnlySpan<float> samples)
    {
        var need = Taps - 1 + samples.Length;
        if (line.Length < need)
            Array.Resize(ref line, need);
        samples.CopyTo(line.AsSpan(Taps - 1));
        // No point is further out than the largest sample times all of the filter: most stretches need not be looked at.
        var largest = Largest(line.AsSpan(0, need));
        foreach (var taps in phases)
        {
            if (largest * taps.Sum(Math.Abs) > Highest)
                Highest = Math.Max(Highest, Largest(taps, line.AsSpan(0, need), samples.Length));
        }
        line.AsSpan(samples.Length, Taps - 1).CopyTo(line);
    }

    /// <summary>The largest distance from silence.</summary>
    public static float Largest(ReadOnlySpan<float> samples)
    {
        var vectors = MemoryMarshal.Cast<float, Vector<float>>(samples);
        var most = Vector<float>.Zero;
        foreach (var vector in vectors)
            most = Vector.Max(most, Vector.Abs(vector));
        var result = 0f;
        for (var i = 0; i < Vector<float>.Count; i++)
            result = Math.Max(result, most[i]);
        foreach (var rest in samples[(vectors.Length * Vector<float>.Count)..])
            result = Math.Max(result, Math.Abs(rest));
        return result;
    }

    // Of every point that the filter makes; four vectors of them at a time, so that none waits for another.
    private static float Largest(float[] taps, ReadOnlySpan<float> line, int count)
    {
        ref var start = ref MemoryMarshal.GetReference(line);
        var (most, width, i) = (Vector<float>.Zero, Vector<float>.Count, 0);
        for (; i + 4 * width <= count; i += 4 * width)
        {
            Vector<float> a = default,
                b = default,
                c = default,
                d = default;
            for (var k = 0; k < taps.Length; k++)
            {
                var tap = new Vector<float>(taps[k]);
                a = Vector.FusedMultiplyAdd(Vector.LoadUnsafe(ref start, (nuint)(i + k)), tap, a);
                b = Vector.FusedMultiplyAdd(Vector.LoadUnsafe(ref start, (nuint)(i + k + width)), tap, b);
                c = Vector.FusedMultiplyAdd(Vector.LoadUnsafe(ref start, (nuint)(i + k + 2 * width)), tap, c);
                d = Vector.FusedMultiplyAdd(Vector.LoadUnsafe(ref start, (nuint)(i + k + 3 * width)), tap, d);
            }
            most = Vector.Max(most, Vector.Max(Vector.Max(Vector.Abs(a), Vector.Abs(b)), Vector.Max(Vector.Abs(c), Vector.Abs(d))));
        }
        var result = 0f;
        for (var v = 0; v < width; v++)
            result = Math.Max(result, most[v]);
        for (; i < count; i++)
        {
            var sum = 0f;
            for (var k = 0; k < Taps; k++)
                sum += line[i + k] * taps[k];
            result = Math.Max(result, Math.Abs(sum));
        }
        return result;
    }

    // A sinc under a Kaiser window, for the point so far between two samples.
    private static float[] Phase(double part) =>
        [.. Enumerable.Range(0, Taps).Select(k => (float)WindowedSinc.At(k - (Taps / 2 - 1) - part, 1, Taps / 2))];
}
