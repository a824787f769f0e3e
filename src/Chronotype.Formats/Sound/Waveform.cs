using System.Globalization;
using System.Text;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>Draws a sound as the span between its lowest and highest samples over time, from every sample.</summary>
internal static class Waveform
{
    /// <summary>One for each pixel of its width.</summary>
    public const int Columns = 1600;

    /// <summary>The span of each of equal stretches of time, over all channels.</summary>
    /// <returns>Each from -1 to 1.</returns>
    public static (float Low, float High)[] Peaks(SoundStream sound, int columns, CancellationToken cancel = default)
    {
        var peaks = new (float Low, float High)[columns];
        var (frames, channels) = (sound.Facts.Frames, sound.Facts.Channels);
        var buffer = new float[8192 * channels];
        long frame = 0;
        for (int read; frame < frames && (read = sound.Read(buffer)) > 0; )
        {
            cancel.ThrowIfCancellationRequested();
            for (var at = 0; at < read && frame < frames; )
            {
                var column = (int)(frame * columns / frames);
                // As many frames as still fall into this column.
                var until = Math.Min(((long)(column + 1) * frames + columns - 1) / columns, frame + (read - at) / channels);
                var (low, high) = peaks[column];
                foreach (var sample in buffer.AsSpan(at, (int)(until - frame) * channels))
                {
                    low = Math.Min(low, sample);
                    high = Math.Max(high, sample);
                }
                peaks[column] = (Math.Max(low, -1), Math.Min(high, 1));
                at += (int)(until - frame) * channels;
                frame = until;
            }
        }
        return peaks;
    }

    /// <summary>The sound is read to its end and let go.</summary>
    public static Preview Draw(SoundStream sound, CancellationToken cancel)
    {
        const int height = 420,
            half = height / 2;
        using var read = sound;
        var peaks = Peaks(read, Columns, cancel);
        var path = new StringBuilder();
        for (var x = 0; x < peaks.Length; x++)
        {
            // Silence is drawn as a hairline, so that it is seen to be there.
            var top = half - Math.Max(peaks[x].High * (half - 6), 0.5);
            var bottom = half - Math.Min(peaks[x].Low * (half - 6), -0.5);
            path.Append(CultureInfo.InvariantCulture, $"M{x}.5 {top:0.#}V{bottom:0.#}");
        }
        return new Preview(
            Encoding.UTF8.GetBytes(
                $"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {Columns} {height}" width="{Columns}" height="{height}" """
                    + $"""preserveAspectRatio="none"><path d="{path}" stroke="#f3f3f1" stroke-width="1" fill="none"/></svg>"""
            ),
            "image/svg+xml"
        );
    }
}
