namespace Chronotype.Core.Sound;

/// <summary>Sounds one behind the other, as one.</summary>
public sealed class JoinedSound : SoundStream
{
    private readonly IReadOnlyList<SoundStream> parts;
    private int at;

    /// <param name="parts">At least one, all of one rate and as many channels; disposed of with this.</param>
    /// <exception cref="ArgumentException">Their rates or channels differ.</exception>
    public JoinedSound(IReadOnlyList<SoundStream> parts)
        : base(parts[0].Facts with { Frames = parts.Sum(p => p.Facts.Frames) })
    {
        if (parts.Any(p => p.Facts.SampleRate != Facts.SampleRate || p.Facts.Channels != Facts.Channels))
            throw new ArgumentException("Sounds of different rates or channels are not joined.", nameof(parts));
        this.parts = parts;
    }

    /// <inheritdoc/>
    public override int Read(Span<float> samples)
    {
        for (; at < parts.Count; at++)
        {
            if (parts[at].Read(samples) is > 0 and var read)
                return read;
        }
        return 0;
    }

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        if (!disposing)
            return;
        foreach (var part in parts)
            part.Dispose();
    }
}
