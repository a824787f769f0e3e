using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>Writes sound as samples of whole numbers, one behind the other.</summary>
internal static class SampleBytes
{
    private const int FramesAtOnce = 8192;

    /// <param name="sound">Read to its end.</param>
    /// <param name="bits">Of a sample: 16 or 24.</param>
    /// <param name="dither">Of as many bits.</param>
    /// <param name="most">Bytes that are written at most; what comes after is left out.</param>
    /// <returns>Bytes that were written.</returns>
    public static long Write(
        SoundStream sound,
        int bits,
        Dither dither,
        Stream output,
        bool isBigEndian,
        CancellationToken cancel,
        long most = long.MaxValue
    )
    {
        var samples = new float[FramesAtOnce * sound.Facts.Channels];
        var size = bits / 8;
        var bytes = new byte[samples.Length * size];
        long written = 0;
        for (int read; (read = sound.Read(samples)) > 0 && written + read * size <= most; written += read * size)
        {
            cancel.ThrowIfCancellationRequested();
            for (int i = 0, at = 0; i < read; i++, at += size)
            {
                var value = dither.Of(samples[i]);
                var (low, high) = isBigEndian ? (at + size - 1, -1) : (at, 1);
                bytes[low] = (byte)value;
                bytes[low + high] = (byte)(value >> 8);
                if (size == 3)
                    bytes[low + 2 * high] = (byte)(value >> 16);
            }
            output.Write(bytes, 0, read * size);
        }
        return written;
    }
}
