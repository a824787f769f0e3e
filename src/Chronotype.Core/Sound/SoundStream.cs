using Chronotype.Core.Content;

namespace Chronotype.Core.Sound;

/// <summary>Decoded sound, read from its beginning to its end.</summary>
public abstract class SoundStream(SoundFacts facts) : IDisposable
{
    /// <summary>Rate, depth, channels and length, as the file says; fewer frames may come where it is cut short.</summary>
    public SoundFacts Facts { get; } = facts;

    /// <summary>Reads the next frames.</summary>
    /// <param name="samples">Filled with interleaved channels, -1 to 1 at full scale; at least one frame long.</param>
    /// <returns>How many samples were read: whole frames, 0 at the end.</returns>
    /// <exception cref="IOException">The content could not be read.</exception>
    public abstract int Read(Span<float> samples);

    /// <inheritdoc/>
    public void Dispose()
    {
        Dispose(true);
        GC.SuppressFinalize(this);
    }

    /// <param name="disposing">As the platform's pattern has it.</param>
    protected virtual void Dispose(bool disposing) { }
}
