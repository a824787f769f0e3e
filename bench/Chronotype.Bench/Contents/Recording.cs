using System.Buffers.Binary;

namespace Chronotype.Bench.Contents;

/// <summary>A recording of 48 kHz, 24 bit, stereo, from which each version cuts some seconds, and into which it puts others.</summary>
internal sealed class Recording
{
    private const int FrameBytes = 6,
        Rate = 48_000;
    private readonly Random random = new(11);
    private byte[] samples = Sound(1, 695 * Rate);
    private int version;

    /// <summary>Writes the next version.</summary>
    /// <returns>Bytes that were put in, and bytes that were cut out.</returns>
    public (long Inserted, long Removed) WriteNext(string path)
    {
        var (inserted, removed) = (0, 0);
        if (version > 0)
        {
            removed = random.Next(Rate, 4 * Rate) * FrameBytes;
            var from = random.Next((samples.Length - removed) / FrameBytes) * FrameBytes;
            samples = [.. samples[..from], .. samples[(from + removed)..]];
            var sound = Sound(100 + version, random.Next(Rate, 4 * Rate));
            inserted = sound.Length;
            var at = random.Next(samples.Length / FrameBytes) * FrameBytes;
            samples = [.. samples[..at], .. sound, .. samples[at..]];
        }
        version++;
        var header = new byte[44];
        "RIFF"u8.CopyTo(header);
        BinaryPrimitives.WriteInt32LittleEndian(header.AsSpan(4), 36 + samples.Length);
        "WAVEfmt "u8.CopyTo(header.AsSpan(8));
        BinaryPrimitives.WriteInt32LittleEndian(header.AsSpan(16), 16);
        BinaryPrimitives.WriteInt16LittleEndian(header.AsSpan(20), 1);
        BinaryPrimitives.WriteInt16LittleEndian(header.AsSpan(22), 2);
        BinaryPrimitives.WriteInt32LittleEndian(header.AsSpan(24), Rate);
        BinaryPrimitives.WriteInt32LittleEndian(header.AsSpan(28), Rate * FrameBytes);
        BinaryPrimitives.WriteInt16LittleEndian(header.AsSpan(32), FrameBytes);
        BinaryPrimitives.WriteInt16LittleEndian(header.AsSpan(34), 24);
        "data"u8.CopyTo(header.AsSpan(36));
        BinaryPrimitives.WriteInt32LittleEndian(header.AsSpan(40), samples.Length);
        using var file = File.Create(path);
        file.Write(header);
        file.Write(samples);
        return (inserted, removed);
    }

    // A room with two instruments: tones over the noise that every microphone has.
    private static byte[] Sound(int seed, int frames)
    {
        var noise = new Random(seed);
        var bytes = new byte[frames * FrameBytes];
        var pitch = 110 + seed % 50;
        for (var i = 0; i < frames; i++)
        {
            var t = i / (double)Rate;
            for (var channel = 0; channel < 2; channel++)
            {
                var value =
                    0.3 * Math.Sin(2 * Math.PI * pitch * t)
                    + 0.2 * Math.Sin(2 * Math.PI * (pitch * 1.5 + channel) * t)
                    + 0.02 * (noise.NextDouble() - 0.5);
                var sample = (int)(value * 8_388_607);
                var at = i * FrameBytes + channel * 3;
                (bytes[at], bytes[at + 1], bytes[at + 2]) = ((byte)sample, (byte)(sample >> 8), (byte)(sample >> 16));
            }
        }
        return bytes;
    }
}
