using System.Buffers.Binary;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>Writes sound as linear samples in RIFF ("Multimedia Programming Interface and Data Specifications 1.0", WAVE).</summary>
internal static class WaveWriter
{
    private const int HeaderBytes = 44;

    /// <param name="sound">Read to its end.</param>
    /// <param name="bits">Of a sample: 16 or 24.</param>
    /// <param name="file">Written anew.</param>
    /// <param name="most">Bytes that the file may take; what comes after is left out.</param>
    /// <param name="cancel">Long sounds may be stopped.</param>
    public static void Write(SoundStream sound, int bits, string file, long most, CancellationToken cancel = default)
    {
        var (channels, rate, sampleBytes) = (sound.Facts.Channels, sound.Facts.SampleRate, bits / 8);
        using var stream = new FileStream(file, FileMode.Create, FileAccess.Write, FileShare.None, 1 << 16);
        stream.Write(new byte[HeaderBytes]);
        var samples = new float[8192 * channels];
        var bytes = new byte[samples.Length * sampleBytes];
        var full = bits == 16 ? 32767f : 8388607f;
        for (int read; (read = sound.Read(samples)) > 0 && stream.Length + read * sampleBytes <= most; )
        {
            cancel.ThrowIfCancellationRequested();
            for (int i = 0, at = 0; i < read; i++, at += sampleBytes)
            {
                var value = (int)Math.Clamp(MathF.Round(samples[i] * full), -full - 1, full);
                bytes[at] = (byte)value;
                bytes[at + 1] = (byte)(value >> 8);
                if (sampleBytes == 3)
                    bytes[at + 2] = (byte)(value >> 16);
            }
            stream.Write(bytes, 0, read * sampleBytes);
        }
        var data = (uint)(stream.Length - HeaderBytes);
        stream.Position = 0;
        stream.Write(Header(data, channels, rate, bits));
    }

    private static byte[] Header(uint data, int channels, int rate, int bits)
    {
        var header = new byte[HeaderBytes];
        "RIFF"u8.CopyTo(header);
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(4), HeaderBytes - 8 + data);
        "WAVEfmt "u8.CopyTo(header.AsSpan(8));
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(16), 16);
        BinaryPrimitives.WriteUInt16LittleEndian(header.AsSpan(20), 1);
        BinaryPrimitives.WriteUInt16LittleEndian(header.AsSpan(22), (ushort)channels);
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(24), (uint)rate);
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(28), (uint)(rate * channels * bits / 8));
        BinaryPrimitives.WriteUInt16LittleEndian(header.AsSpan(32), (ushort)(channels * bits / 8));
        BinaryPrimitives.WriteUInt16LittleEndian(header.AsSpan(34), (ushort)bits);
        "data"u8.CopyTo(header.AsSpan(36));
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(40), data);
        return header;
    }
}
