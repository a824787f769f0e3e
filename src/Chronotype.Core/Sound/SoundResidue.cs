using System.Numerics;

namespace Chronotype.Core.Sound;

/// <summary>
/// What is left of a sound when another is taken from it, moment for moment, as the two are lined up: silence where they are the same to
/// the sample. Where they have nothing in common the later one is heard as it is.
/// </summary>
public sealed class SoundResidue : SoundStream
{
    // Two that were lined up by what is heard are at one place to within this, in seconds; the rest is found sample by sample.
    private const double Slack = 0.012;
    private const int Probe = 4096,
        Probes = 5,
        Block = 4096;

    private readonly Func<SoundStream> openBefore;
    private readonly SoundStream after;
    private readonly IReadOnlyList<Placed> matches;
    private readonly int channelsRead;
    private Cursor? before;
    private long frame;
    private float[] read = [];

    /// <param name="First">The first frame of the later sound that has a counterpart.</param>
    /// <param name="End">The frame after the last.</param>
    /// <param name="Offset">What is added to a frame of the later for that of the earlier, in frames of the later's rate.</param>
    private sealed record Placed(long First, long End, double Offset);

    private SoundResidue(Func<SoundStream> openBefore, SoundStream after, IReadOnlyList<Placed> matches, int channels)
        : base(after.Facts with { Channels = channels, Bits = 16, IsFloat = false })
    {
        (this.openBefore, this.after, this.matches) = (openBefore, after, matches);
        channelsRead = after.Facts.Channels;
    }

    /// <param name="openBefore">Opens the earlier sound from its beginning; asked more than once.</param>
    /// <param name="openAfter">As <paramref name="openBefore"/>, of the later.</param>
    /// <param name="matches">What the two have in common.</param>
    /// <param name="cancel">Long sounds may be stopped.</param>
    public static SoundResidue Of(
        Func<SoundStream> openBefore,
        Func<SoundStream> openAfter,
        IReadOnlyList<SoundMatch> matches,
        CancellationToken cancel = default
    )
    {
        var placed = Refine(openBefore, openAfter, matches, cancel);
        int channelsBefore;
        using (var before = openBefore())
            channelsBefore = before.Facts.Channels;
        var after = openAfter();
        // Channels that cannot be told one by one are heard as one.
        var channels = channelsBefore == after.Facts.Channels ? channelsBefore : 1;
        return new SoundResidue(openBefore, after, placed, channels);
    }

    /// <inheritdoc/>
    public override int Read(Span<float> samples)
    {
        var channels = Facts.Channels;
        var frames = Math.Min(Block, samples.Length / channels);
        if (read.Length < frames * channelsRead)
            read = new float[frames * channelsRead];
        var got = after.Read(read.AsSpan(0, frames * channelsRead)) / channelsRead;
        if (got == 0)
            return 0;
        Fold(read.AsSpan(0, got * channelsRead), channelsRead, samples[..(got * channels)], channels);
        foreach (var match in matches)
        {
            var (from, to) = (Math.Max(frame, match.First), Math.Min(frame + got, match.End));
            if (from < to)
                Take(samples.Slice((int)(from - frame) * channels, (int)(to - from) * channels), from + match.Offset);
        }
        frame += got;
        return got * channels;
    }

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        if (!disposing)
            return;
        before?.Dispose();
        after.Dispose();
    }

    private void Take(Span<float> samples, double at)
    {
        var channels = Facts.Channels;
        if (before is null || !before.CanReach(at))
        {
            before?.Dispose();
            before = new Cursor(openBefore(), channels, Facts.SampleRate);
        }
        before.Subtract(samples, at);
    }

    private static void Fold(ReadOnlySpan<float> from, int channelsFrom, Span<float> to, int channels)
    {
        if (channels == channelsFrom)
            from.CopyTo(to);
        else
            SoundSketch.Mix(from, channelsFrom, to);
    }

    // To the sample: where the two are most alike around the loudest of a few moments of each stretch.
    private static List<Placed> Refine(
        Func<SoundStream> openBefore,
        Func<SoundStream> openAfter,
        IReadOnlyList<SoundMatch> matches,
        CancellationToken cancel
    )
    {
        using var second = openAfter();
        var rate = second.Facts.SampleRate;
        var slack = (int)(Slack * rate);
        var later = new Cursor(second, 1, rate);
        var placed = new List<Placed>();
        var probes = new List<(int Match, long At, float[] Heard)>();
        foreach (var (match, index) in matches.Select((m, i) => (m, i)).OrderBy(m => m.m.After))
        {
            cancel.ThrowIfCancellationRequested();
            var (first, end) = ((long)Math.Round(match.After * rate), (long)Math.Round((match.After + match.Length) * rate));
            (long At, float[] Heard)? best = null;
            for (var i = 0; i < Probes; i++)
            {
                var at = first + (end - first - Probe) * i / (Probes - 1);
                if (at < first || !later.CanReach(at))
                    continue;
                var heard = new float[Probe];
                later.Subtract(heard, at);
                if (best is null || Energy(heard) > Energy(best.Value.Heard))
                    best = (at, heard);
            }
            placed.Add(new Placed(first, end, (match.Before - match.After) * rate));
            if (best is { } chosen)
                probes.Add((placed.Count - 1, chosen.At, chosen.Heard));
        }
        var isAnotherRate = false;
        Cursor? earlier = null;
        try
        {
            foreach (var (index, at, heard) in probes.OrderBy(p => p.At + placed[p.Match].Offset))
            {
                cancel.ThrowIfCancellationRequested();
                var from = (long)Math.Round(at + placed[index].Offset) - slack;
                if (earlier is null || !earlier.CanReach(from))
                {
                    earlier?.Dispose();
                    earlier = new Cursor(openBefore(), 1, rate);
                    isAnotherRate = earlier.IsAnotherRate;
                }
                var around = new float[Probe + 2 * slack];
                earlier.Subtract(around, from);
                if (Likeliest(heard, around, isAnotherRate) is { } shift)
                    placed[index] = placed[index] with { Offset = from + shift - at };
            }
        }
        finally
        {
            earlier?.Dispose();
        }
        return placed;
    }

    private static double? Likeliest(float[] heard, float[] around, bool isAnotherRate)
    {
        var scores = new double[around.Length - heard.Length + 1];
        var best = 0;
        for (var shift = 0; shift < scores.Length; shift++)
        {
            var stretch = around.AsSpan(shift, heard.Length);
            var energy = Dot(stretch, stretch);
            scores[shift] = energy <= 0 ? 0 : Dot(heard, stretch) / Math.Sqrt(energy);
            if (scores[shift] > scores[best])
                best = shift;
        }
        // Less alike than this, another moment may be as good by chance.
        if (scores[best] < 0.5 * Math.Sqrt(Dot(heard, heard)))
            return null;
        if (!isAnotherRate || best == 0 || best == scores.Length - 1)
            return best;
        // Of another rate it lies between two samples: at the top of the parabola through the three best.
        var (left, top, right) = (scores[best - 1], scores[best], scores[best + 1]);
        var bend = left - 2 * top + right;
        return bend >= 0 ? best : best + Math.Clamp(0.5 * (left - right) / bend, -0.5, 0.5);
    }

    private static double Energy(float[] samples) => Dot(samples, samples);

    private static double Dot(ReadOnlySpan<float> one, ReadOnlySpan<float> other)
    {
        var sum = Vector<float>.Zero;
        var i = 0;
        for (; i + Vector<float>.Count <= one.Length; i += Vector<float>.Count)
            sum = Vector.FusedMultiplyAdd(new Vector<float>(one[i..]), new Vector<float>(other[i..]), sum);
        var total = (double)Vector.Sum(sum);
        for (; i < one.Length; i++)
            total += one[i] * other[i];
        return total;
    }

    /// <summary>A sound read forward, at another rate and with other channels where that is asked for.</summary>
    private sealed class Cursor(SoundStream sound, int channels, int rate) : IDisposable
    {
        private const int Kept = 1 << 16,
            Half = 24,
            Phases = 1024;

        // The last frames that were read, and how many before them were let go.
        private readonly float[] buffer = new float[Kept * 2 * channels];
        private readonly float[] raw = new float[8192 * sound.Facts.Channels];
        private long first;
        private int held;
        private float[][]? filter;
        private readonly double step = (double)sound.Facts.SampleRate / rate;

        public bool IsAnotherRate => sound.Facts.SampleRate != rate;

        /// <summary>Whether a moment, in frames of the asked rate, was not let go yet.</summary>
        public bool CanReach(double at) => at * step - Half >= first || first == 0;

        /// <summary>Takes what is heard from a moment on, in frames of the asked rate, from samples.</summary>
        public void Subtract(Span<float> samples, double at)
        {
            var frames = samples.Length / channels;
            // A stretch longer than is held at a time goes part by part.
            const int part = 8192;
            for (var done = 0; done < frames; done += part)
            {
                var count = Math.Min(part, frames - done);
                var slice = samples.Slice(done * channels, count * channels);
                Reach((long)Math.Ceiling((at + done + count) * step) + Half + 1);
                if (!IsAnotherRate)
                    Plain(slice, (long)Math.Round(at) + done);
                else
                    Resampled(slice, (at + done) * step);
            }
        }

        private void Plain(Span<float> samples, long at)
        {
            for (var i = 0; i < samples.Length / channels; i++)
            {
                var from = at + i - first;
                if (from < 0 || from >= held)
                    continue;
                for (var c = 0; c < channels; c++)
                    samples[i * channels + c] -= buffer[from * channels + c];
            }
        }

        private void Resampled(Span<float> samples, double at)
        {
            filter ??= Filter(Math.Min(1, 1 / step));
            for (var i = 0; i < samples.Length / channels; i++)
            {
                var place = at + i * step - first;
                var whole = (long)Math.Floor(place);
                var phase = (place - whole) * Phases;
                var near = (int)phase;
                var (one, other, part) = (filter[near], filter[near + 1], (float)(phase - near));
                for (var c = 0; c < channels; c++)
                {
                    var sum = 0f;
                    for (var k = 0; k < 2 * Half; k++)
                    {
                        var from = whole - Half + 1 + k;
                        if (from >= 0 && from < held)
                            sum += (one[k] + (other[k] - one[k]) * part) * buffer[from * channels + c];
                    }
                    samples[i * channels + c] -= sum;
                }
            }
        }

        // Going down, what the lower rate cannot hold is left out. Between two phases the filter is next to straight.
        private static float[][] Filter(double cutoff) =>
            [
                .. Enumerable
                    .Range(0, Phases + 1)
                    .Select(p =>
                        Enumerable
                            .Range(0, 2 * Half)
                            .Select(k => (float)WindowedSinc.At(k - Half + 1 - (double)p / Phases, cutoff, Half))
                            .ToArray()
                    ),
            ];

        private void Reach(long end)
        {
            while (first + held < end)
            {
                if (held >= Kept)
                {
                    var drop = held - Kept / 2;
                    buffer.AsSpan(drop * channels, (held - drop) * channels).CopyTo(buffer);
                    first += drop;
                    held -= drop;
                }
                var got = sound.Read(raw) / sound.Facts.Channels;
                if (got == 0)
                    return;
                Fold(
                    raw.AsSpan(0, got * sound.Facts.Channels),
                    sound.Facts.Channels,
                    buffer.AsSpan(held * channels, got * channels),
                    channels
                );
                held += got;
            }
        }

        public void Dispose() => sound.Dispose();
    }
}
