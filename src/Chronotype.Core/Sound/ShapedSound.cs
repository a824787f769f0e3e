using Chronotype.Core.Content;

namespace Chronotype.Core.Sound;

/// <summary>A stretch of a sound, in one channel or two where that is asked for, at another level, and faded.</summary>
public sealed class ShapedSound : SoundStream
{
    private readonly SoundStream source;
    private readonly int from;
    private readonly long fadeIn;
    private readonly long fadeOut;
    private readonly double gain;
    private readonly float[] read;
    private long skip;
    private long at;

    /// <param name="source">Read from its beginning; disposed of with this.</param>
    /// <param name="skip">Frames before the stretch.</param>
    /// <param name="frames">Of the stretch, as far as the sound has them.</param>
    /// <param name="channels">1 for the mean of all, 2 of one for the same in both, or as many as the source has.</param>
    /// <param name="gain">1 for the level as it is.</param>
    /// <param name="fadeIn">Frames.</param>
    /// <param name="fadeOut">Frames.</param>
    public ShapedSound(SoundStream source, long skip, long frames, int channels, double gain, long fadeIn, long fadeOut)
        : base(source.Facts with { Channels = channels, Frames = Math.Clamp(source.Facts.Frames - skip, 0, frames) })
    {
        (this.source, this.skip, this.gain, this.fadeIn, this.fadeOut) = (source, skip, gain, fadeIn, fadeOut);
        from = source.Facts.Channels;
        read = new float[8192 * from];
    }

    /// <inheritdoc/>
    public override int Read(Span<float> samples)
    {
        var to = Facts.Channels;
        while (true)
        {
            var asked = (int)Math.Min(Math.Min(samples.Length / to, read.Length / from), skip > 0 ? read.Length / from : Facts.Frames - at);
            var got = asked <= 0 ? 0 : source.Read(read.AsSpan(0, asked * from)) / from;
            if (got == 0)
                return 0;
            var first = (int)Math.Min(skip, got);
            skip -= first;
            var frames = (int)Math.Min(got - first, Facts.Frames - at);
            for (var i = 0; i < frames; i++, at++)
            {
                var level = gain * Faded();
                var frame = read.AsSpan((first + i) * from, from);
                for (var c = 0; c < to; c++)
                    samples[i * to + c] = (float)(level * Value(frame, c, to));
            }
            if (frames > 0)
                return frames * to;
        }
    }

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        if (disposing)
            source.Dispose();
    }

    private static double Value(ReadOnlySpan<float> frame, int channel, int channels)
    {
        if (channels == frame.Length)
            return frame[channel];
        if (frame.Length == 1)
            return frame[0];
        var sum = 0.0;
        foreach (var value in frame)
            sum += value;
        return sum / frame.Length;
    }

    // A quarter of a sine's way up: equal power where two such sounds meet.
    private double Faded()
    {
        var level = 1.0;
        if (at < fadeIn)
            level = Math.Sin(Math.PI / 2 * (at + 0.5) / fadeIn);
        var left = Facts.Frames - at;
        if (left <= fadeOut)
            level *= Math.Sin(Math.PI / 2 * (left - 0.5) / fadeOut);
        return level;
    }
}
