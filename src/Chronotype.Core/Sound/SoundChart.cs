namespace Chronotype.Core.Sound;

/// <summary>
/// What a sound looks like over its time, from every sample: its span at scales from 64 frames to a bin on, each scale four times as
/// coarse as the one before; how loud it is; and how strong each band of frequencies.
/// </summary>
public sealed class SoundChart
{
    /// <summary>Frames of a bin of the finest scale.</summary>
    public const int BinFrames = 64;

    /// <summary>How many bins become one of the next scale.</summary>
    public const int Factor = 4;

    /// <summary>Loudness and bands are told so often a second.</summary>
    public const int StepsPerSecond = 10;

    /// <summary>Bands of frequencies, six to an octave, the lowest around <see cref="LowestHertz"/>.</summary>
    public const int Bands = 60;

    /// <summary>The middle of the lowest band, in hertz.</summary>
    public const double LowestHertz = 20;

    private const int BandsPerOctave = 6,
        Transformed = 8192,
        CoarsestBins = 512;

    // Half decibels under full scale that a band's byte counts down from.
    private const double BandFloor = 120,
        BandStep = 0.5;

    private SoundChart(long frames, IReadOnlyList<short[]> levels, short[] loudness, byte[] spectrum) =>
        (Frames, Levels, Loudness, Spectrum) = (frames, levels, loudness, spectrum);

    /// <summary>Frames that were read.</summary>
    public long Frames { get; }

    /// <summary>By scale, the finest first: of each bin its lowest and its highest sample of all channels, 32767 at full scale.</summary>
    public IReadOnlyList<short[]> Levels { get; }

    /// <summary>
    /// A tenth of a second each: the loudness of the last 3 s (EBU Tech 3341, short-term) in hundredths of LUFS; -32768 for silence.
    /// </summary>
    public short[] Loudness { get; }

    /// <summary>
    /// A tenth of a second each, <see cref="Bands"/> bytes from the lowest band up: the band's level over full scale, 240 for 0 dB and
    /// half a decibel a step; 0 for nothing. A sine at full scale is 0 dB in its band, within 1.6 dB from 100 Hz on.
    /// </summary>
    public byte[] Spectrum { get; }

    /// <summary>Reads a sound to its end.</summary>
    public static SoundChart Of(SoundStream sound, CancellationToken cancel = default)
    {
        var (rate, channels) = (sound.Facts.SampleRate, sound.Facts.Channels);
        var meter = new LoudnessMeter(rate, channels);
        var bins = new Bins();
        var bands = new BandLevels(rate);
        var buffer = new float[8192 * channels];
        var mono = new float[8192];
        for (int read; (read = sound.Read(buffer)) > 0; )
        {
            cancel.ThrowIfCancellationRequested();
            var samples = buffer.AsSpan(0, read);
            var frames = read / channels;
            meter.Add(samples);
            bins.Add(samples, channels);
            SoundSketch.Mix(samples, channels, mono.AsSpan(0, frames));
            bands.Add(mono.AsSpan(0, frames));
        }
        return new SoundChart(bins.Frames, bins.Scales(), [.. meter.ShortTerm().Select(Hundredths)], bands.Finish());
    }

    private static short Hundredths(double lufs) =>
        double.IsFinite(lufs) ? (short)Math.Clamp(Math.Round(lufs * 100), short.MinValue + 1, short.MaxValue) : short.MinValue;

    private sealed class Bins
    {
        private readonly List<short> finest = [];
        private float low,
            high;
        private int inBin;

        public long Frames { get; private set; }

        public void Add(ReadOnlySpan<float> samples, int channels)
        {
            for (var at = 0; at < samples.Length; )
            {
                var frames = Math.Min(BinFrames - inBin, (samples.Length - at) / channels);
                foreach (var sample in samples.Slice(at, frames * channels))
                {
                    low = Math.Min(low, sample);
                    high = Math.Max(high, sample);
                }
                at += frames * channels;
                inBin += frames;
                Frames += frames;
                if (inBin == BinFrames)
                    End();
            }
        }

        private void End()
        {
            finest.Add(Of(low));
            finest.Add(Of(high));
            (low, high, inBin) = (0, 0, 0);
        }

        public IReadOnlyList<short[]> Scales()
        {
            if (inBin > 0)
                End();
            var scales = new List<short[]> { finest.ToArray() };
            while (scales[^1].Length / 2 > CoarsestBins)
            {
                var before = scales[^1];
                var next = new short[(before.Length / 2 + Factor - 1) / Factor * 2];
                for (var bin = 0; bin < before.Length / 2; bin++)
                {
                    var to = bin / Factor * 2;
                    next[to] = Math.Min(next[to], before[bin * 2]);
                    next[to + 1] = Math.Max(next[to + 1], before[bin * 2 + 1]);
                }
                scales.Add(next);
            }
            return scales;
        }

        private static short Of(float sample) => (short)Math.Clamp(MathF.Round(sample * short.MaxValue), -short.MaxValue, short.MaxValue);
    }

    private sealed class BandLevels
    {
        private readonly int rate;
        private readonly FourierTransform transform = new(Transformed);
        private readonly short[] window = new short[Transformed];
        private readonly float[] power = new float[Transformed / 2];
        private readonly (int From, int To)[] bins;
        private readonly List<byte> levels = [];
        private long frame,
            next;

        public BandLevels(int rate)
        {
            this.rate = rate;
            bins =
            [
                .. Enumerable
                    .Range(0, Bands)
                    .Select(band =>
                    {
                        var middle = LowestHertz * Math.Pow(2, (double)band / BandsPerOctave);
                        var half = Math.Pow(2, 0.5 / BandsPerOctave);
                        // A band narrower than a bin of the transform is told by the bin that it lies in.
                        var from = (int)Math.Round(middle / half * Transformed / rate);
                        var to = Math.Max(from + 1, (int)Math.Round(middle * half * Transformed / rate));
                        return from >= Transformed / 2 ? (0, 0) : (from, Math.Min(to, Transformed / 2));
                    }),
            ];
            next = End(1);
        }

        private long End(int step) => (long)Math.Round((double)step * rate / StepsPerSecond);

        public void Add(ReadOnlySpan<float> mono)
        {
            while (mono.Length > 0)
            {
                var take = (int)Math.Min(mono.Length, next - frame);
                Shift(mono[..take]);
                frame += take;
                mono = mono[take..];
                if (frame == next)
                {
                    Measure();
                    next = End(levels.Count / Bands + 1);
                }
            }
        }

        public byte[] Finish()
        {
            if (levels.Count == 0 && frame > 0)
                Measure();
            return [.. levels];
        }

        private void Shift(ReadOnlySpan<float> samples)
        {
            if (samples.Length > Transformed)
                samples = samples[^Transformed..];
            window.AsSpan(samples.Length).CopyTo(window);
            var to = window.AsSpan(Transformed - samples.Length);
            for (var i = 0; i < samples.Length; i++)
                to[i] = (short)Math.Clamp(samples[i] * 32767f, short.MinValue, short.MaxValue);
        }

        private void Measure()
        {
            transform.Power(window, power);
            foreach (var (from, to) in bins)
            {
                var sum = 0.0;
                for (var bin = from; bin < to; bin++)
                    sum += power[bin];
                // A sine at full scale gives (32768 * N / 4)^2 at its bin under a Hann window, and half as much again beside it.
                var full = Math.Pow(32768.0 * Transformed / 4, 2) * 1.5;
                var decibels = sum <= 0 ? double.NegativeInfinity : 10 * Math.Log10(sum / full);
                levels.Add((byte)Math.Clamp(Math.Round((decibels + BandFloor) / BandStep), 0, 255));
            }
        }
    }
}
