using System.Runtime.InteropServices;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>What a page needs to show and play sounds, written into files of its own.</summary>
public static class SoundForBrowser
{
    // A player takes no longer file; at 48 kHz, 16 bit and in stereo it is three hours.
    private const long MostBytes = 2_000_000_000;

    /// <summary>Writes a <see cref="SoundChart"/>.</summary>
    /// <exception cref="UnreadableFileException">There is no sound in it, or it cannot be decoded.</exception>
    public static ChartedSound Chart(Stream content, string file, CancellationToken cancel = default)
    {
        using var sound = Open(content);
        var chart = SoundChart.Of(sound, cancel);
        using var stream = File.Create(file);
        var levels = new List<ChartedLevel>();
        foreach (var level in chart.Levels)
        {
            levels.Add(new ChartedLevel(stream.Position, level.Length / 2));
            stream.Write(MemoryMarshal.AsBytes(level.AsSpan()));
        }
        var loudnessAt = stream.Position;
        stream.Write(MemoryMarshal.AsBytes(chart.Loudness.AsSpan()));
        var spectrumAt = stream.Position;
        stream.Write(chart.Spectrum);
        var steps = Math.Min(chart.Loudness.Length, chart.Spectrum.Length / SoundChart.Bands);
        return new ChartedSound(sound.Facts.SampleRate, sound.Facts.Channels, chart.Frames, levels, loudnessAt, spectrumAt, steps);
    }

    /// <summary>Writes a block of samples: the first channels interleaved, 16 bits each, little-endian.</summary>
    /// <param name="block">Which, from 0; each has <see cref="ChartedSound.BlockFrames"/> frames, the last one fewer.</param>
    /// <exception cref="UnreadableFileException">There is no sound in it, or it cannot be decoded.</exception>
    public static void Samples(Stream content, int block, string file, CancellationToken cancel = default)
    {
        using var sound = Open(content);
        var channels = sound.Facts.Channels;
        var told = Math.Min(channels, ChartedSound.BlockChannels);
        var skip = (long)block * ChartedSound.BlockFrames;
        var buffer = new float[8192 * channels];
        var samples = new List<short>(ChartedSound.BlockFrames * told);
        for (int read; samples.Count < ChartedSound.BlockFrames * told && (read = sound.Read(buffer)) > 0; )
        {
            cancel.ThrowIfCancellationRequested();
            var frames = read / channels;
            var from = (int)Math.Min(frames, skip);
            skip -= from;
            for (var i = from; i < frames && samples.Count < ChartedSound.BlockFrames * told; i++)
            {
                for (var c = 0; c < told; c++)
                    samples.Add((short)Math.Clamp(MathF.Round(buffer[i * channels + c] * 32767), short.MinValue, short.MaxValue));
            }
        }
        using var stream = File.Create(file);
        stream.Write(MemoryMarshal.AsBytes(CollectionsMarshal.AsSpan(samples)));
    }

    /// <summary>Writes a sound that browsers do not play as one that they do.</summary>
    /// <exception cref="UnreadableFileException">There is no sound in it, or it cannot be decoded.</exception>
    public static void Playable(Stream content, string file, CancellationToken cancel = default)
    {
        using var sound = Open(content);
        Write(sound, sound.Facts.Bits > 16 ? 24 : 16, file, cancel);
    }

    /// <summary>Writes what is left of the later sound when the earlier one is taken from it.</summary>
    /// <param name="matches">Where the two are the same.</param>
    /// <exception cref="UnreadableFileException">There is no sound in one of them, or it cannot be decoded.</exception>
    public static void Residue(
        Stream before,
        Stream after,
        IReadOnlyList<SoundMatch> matches,
        string file,
        CancellationToken cancel = default
    )
    {
        using var residue = SoundResidue.Of(() => Open(before), () => Open(after), matches, cancel);
        Write(residue, 16, file, cancel);
    }

    private static void Write(SoundStream sound, int bits, string file, CancellationToken cancel)
    {
        using var output = new FileStream(file, FileMode.Create, FileAccess.Write, FileShare.None, 1 << 16);
        // As near as the steps allow, without noise: it is to be heard as it is.
        WaveWriter.Write(sound, bits, new Dither(bits, isDithered: false), output, cancel, MostBytes);
    }

    private static SoundStream Open(Stream content)
    {
        content.Position = 0;
        return FormatList.Of(content)?.OpenSound(content) ?? throw new UnreadableFileException(FileFaultCode.NoSamples);
    }
}
