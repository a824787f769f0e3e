using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Core.Tests.Sound;

/// <summary>A made-up recording that can be cut about: notes of random pitch and length over a breath of noise, never twice the same.</summary>
internal sealed record Recording(int Rate, float[] Samples, int Channels = 1)
{
    public double Seconds => (double)Samples.Length / Channels / Rate;

    public static Recording Of(double seconds, int seed, int rate = 16_000)
    {
        var random = new Random(seed);
        var samples = new float[(int)(seconds * rate)];
        for (var at = 0; at < samples.Length; )
        {
            var length = Math.Min(samples.Length - at, random.Next(rate / 12, rate / 2));
            var hertz = 110 * Math.Pow(2, random.NextDouble() * 4);
            var (level, breath) = (0.1 + random.NextDouble() * 0.3, random.NextDouble() * 0.05);
            for (var i = 0; i < length; i++, at++)
            {
                var t = (double)i / rate;
                var envelope = Math.Min(1, i / 200.0) * Math.Exp(-3 * t);
                var note =
                    Math.Sin(2 * Math.PI * hertz * t) + 0.5 * Math.Sin(4 * Math.PI * hertz * t) + 0.3 * Math.Sin(6 * Math.PI * hertz * t);
                samples[at] = (float)(level * envelope * note / 1.8 + breath * (random.NextDouble() * 2 - 1));
            }
        }
        return new Recording(rate, samples);
    }

    public Recording Without(double from, double seconds) => With([.. Samples[..At(from)], .. Samples[At(from + seconds)..]]);

    public Recording Part(double from, double seconds) => With(Samples[At(from)..At(from + seconds)]);

    public Recording PutIn(double at, Recording other) => With([.. Samples[..At(at)], .. other.Samples, .. Samples[At(at)..]]);

    /// <summary>With every sample of a stretch made another, from the one before it as it is now.</summary>
    public Recording Changed(double from, double seconds, Func<float, float, float> change)
    {
        var samples = Samples.ToArray();
        var last = 0f;
        for (var i = At(from); i < At(from + seconds); i++)
            samples[i] = last = change(samples[i], last);
        return With(samples);
    }

    public Recording Stereo() => this with { Samples = [.. Samples.SelectMany(s => new[] { s, s })], Channels = 2 };

    public SoundComparison ComparedTo(Recording after) => SoundComparison.Compare(Open(), after.Open());

    public SoundStream Open() => new ArrayStream(this);

    private Recording With(float[] samples) => this with { Samples = samples };

    private int At(double seconds) => (int)Math.Round(seconds * Rate) * Channels;

    private sealed class ArrayStream(Recording recording)
        : SoundStream(new SoundFacts(recording.Rate, 32, recording.Channels, recording.Samples.Length / recording.Channels, true))
    {
        private int at;

        public override int Read(Span<float> samples)
        {
            var count = Math.Min(samples.Length / recording.Channels * recording.Channels, recording.Samples.Length - at);
            recording.Samples.AsSpan(at, count).CopyTo(samples);
            at += count;
            return count;
        }
    }
}
