using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>Measures how loud a decoded sound is.</summary>
internal static class SoundLevel
{
    private const int FramesAtOnce = 8192;

    /// <summary>Reads it to its end.</summary>
    public static LevelFacts Measure(SoundStream sound, CancellationToken cancel)
    {
        var meter = new LoudnessMeter(sound.Facts.SampleRate, sound.Facts.Channels);
        var buffer = new float[FramesAtOnce * sound.Facts.Channels];
        for (int read; (read = sound.Read(buffer)) > 0; )
        {
            cancel.ThrowIfCancellationRequested();
            meter.Add(buffer.AsSpan(0, read));
        }
        return meter.Result();
    }
}
