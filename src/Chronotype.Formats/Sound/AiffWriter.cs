using System.Buffers.Binary;
using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>Writes a sound as AIFF ("Audio Interchange File Format", version 1.3).</summary>
internal static class AiffWriter
{
    private const int HeaderBytes = 12 + 8 + 18 + 8 + 8;

    /// <param name="sound">Read to its end.</param>
    /// <param name="output">Seekable; written from where it stands.</param>
    /// <exception cref="UnreadableFileException">It would pass the 4 GB that the format has room for.</exception>
    public static void Write(SoundStream sound, int bits, Dither dither, Stream output, CancellationToken cancel)
    {
        var begin = output.Position;
        output.Write(new byte[HeaderBytes]);
        var data = SampleBytes.Write(sound, bits, dither, output, isBigEndian: true, cancel);
        if (data > uint.MaxValue - HeaderBytes)
            throw new UnreadableFileException(FileFaultCode.TooLongForFormat);
        // Chunks begin at even places.
        if (data % 2 == 1)
            output.WriteByte(0);
        var end = output.Position;
        var header = new byte[HeaderBytes];
        var channels = sound.Facts.Channels;
        "FORM"u8.CopyTo(header);
        BinaryPrimitives.WriteUInt32BigEndian(header.AsSpan(4), (uint)(end - begin - 8));
        "AIFFCOMM"u8.CopyTo(header.AsSpan(8));
        BinaryPrimitives.WriteUInt32BigEndian(header.AsSpan(16), 18);
        BinaryPrimitives.WriteUInt16BigEndian(header.AsSpan(20), (ushort)channels);
        BinaryPrimitives.WriteUInt32BigEndian(header.AsSpan(22), (uint)(data / (channels * bits / 8)));
        BinaryPrimitives.WriteUInt16BigEndian(header.AsSpan(26), (ushort)bits);
        Extended(header.AsSpan(28), sound.Facts.SampleRate);
        "SSND"u8.CopyTo(header.AsSpan(38));
        BinaryPrimitives.WriteUInt32BigEndian(header.AsSpan(42), (uint)(data + 8));
        output.Position = begin;
        output.Write(header);
        output.Position = end;
    }

    // A number of 80 bits (IEEE 754, extended): a sign, 15 bits of the exponent, and 64 with the leading one.
    private static void Extended(Span<byte> place, int rate)
    {
        var highest = System.Numerics.BitOperations.Log2((uint)rate);
        BinaryPrimitives.WriteUInt16BigEndian(place, (ushort)(16_383 + highest));
        BinaryPrimitives.WriteUInt64BigEndian(place[2..], (ulong)rate << (63 - highest));
    }
}
