using System.Buffers.Binary;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>
/// Writes a sound as WAVE: in RIFF ("Multimedia Programming Interface and Data Specifications 1.0"), or where that cannot hold its length
/// in BW64 (ITU-R BS.2088-1), for which room is left.
/// </summary>
internal static class WaveWriter
{
    // Of the chunk that a longer file needs.
    private const int RoomBytes = 28;

    /// <param name="sound">Read to its end.</param>
    /// <param name="bits">Of a sample: 16 or 24.</param>
    /// <param name="dither">Of as many bits.</param>
    /// <param name="output">Seekable; written from where it stands.</param>
    /// <param name="most">Bytes that it may take; what comes after is left out.</param>
    /// <param name="broadcast">What it says of itself; null for nothing.</param>
    public static void Write(
        SoundStream sound,
        int bits,
        Dither dither,
        Stream output,
        CancellationToken cancel,
        long most = long.MaxValue,
        BroadcastExtension? broadcast = null
    )
    {
        var channels = sound.Facts.Channels;
        // What is kept short needs no room for a longer one.
        var hasRoom = most > uint.MaxValue;
        var told = broadcast?.Chunk() ?? [];
        var header = HeaderBytes(channels, hasRoom) + told.Length;
        output.Write(new byte[header]);
        var begin = output.Position;
        SampleBytes.Write(sound, bits, dither, output, isBigEndian: false, cancel, most - header);
        var data = output.Position - begin;
        // Chunks begin at even places.
        if (data % 2 == 1)
            output.WriteByte(0);
        var end = output.Position;
        output.Position = begin - header;
        output.Write(Header(data, end - (begin - header), channels, sound.Facts.SampleRate, bits, hasRoom, told));
        output.Position = end;
    }

    private static int HeaderBytes(int channels, bool hasRoom) => 12 + (hasRoom ? 8 + RoomBytes : 0) + 8 + (channels > 2 ? 40 : 16) + 8;

    private static byte[] Header(long data, long whole, int channels, int rate, int bits, bool hasRoom, byte[] told)
    {
        var header = new byte[HeaderBytes(channels, hasRoom) + told.Length];
        var isLong = whole - 8 > uint.MaxValue;
        var frame = channels * bits / 8;
        Put(0, isLong ? "BW64"u8 : "RIFF"u8);
        Number(4, isLong ? uint.MaxValue : (uint)(whole - 8));
        Put(8, "WAVE"u8);
        if (hasRoom)
        {
            Put(12, isLong ? "ds64"u8 : "JUNK"u8);
            Number(16, RoomBytes);
        }
        if (isLong)
        {
            BinaryPrimitives.WriteInt64LittleEndian(header.AsSpan(20), whole - 8);
            BinaryPrimitives.WriteInt64LittleEndian(header.AsSpan(28), data);
            BinaryPrimitives.WriteInt64LittleEndian(header.AsSpan(36), data / frame);
        }
        var at = hasRoom ? 20 + RoomBytes : 12;
        Put(at, told);
        at += told.Length;
        Put(at, "fmt "u8);
        Number(at + 4, channels > 2 ? 40u : 16u);
        Half(at + 8, channels > 2 ? 0xFFFE : 1);
        Half(at + 10, channels);
        Number(at + 12, (uint)rate);
        Number(at + 16, (uint)(rate * frame));
        Half(at + 20, frame);
        Half(at + 22, bits);
        if (channels > 2)
        {
            // WAVE_FORMAT_EXTENSIBLE: no loudspeaker is said for any channel; KSDATAFORMAT_SUBTYPE_PCM.
            Half(at + 24, 22);
            Half(at + 26, bits);
            Put(at + 32, [1, 0, 0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xAA, 0, 0x38, 0x9B, 0x71]);
        }
        Put(header.Length - 8, "data"u8);
        Number(header.Length - 4, isLong ? uint.MaxValue : (uint)data);
        return header;

        void Put(int place, ReadOnlySpan<byte> value) => value.CopyTo(header.AsSpan(place));
        void Number(int place, uint value) => BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(place), value);
        void Half(int place, int value) => BinaryPrimitives.WriteUInt16LittleEndian(header.AsSpan(place), (ushort)value);
    }
}
