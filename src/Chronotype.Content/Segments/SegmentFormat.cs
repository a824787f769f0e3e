using System.Buffers.Binary;
using System.IO.Hashing;

namespace Chronotype.Content.Segments;

/// <summary>What a record of a segment is. The numbers stand in files.</summary>
internal enum RecordKind : byte
{
    /// <summary>Some bytes of content.</summary>
    Chunk = 1,

    /// <summary>The names of chunks or lists, in order, with their lengths.</summary>
    List = 2,

    /// <summary>A content as a whole; what makes it visible.</summary>
    Content = 3,

    /// <summary>Takes a content back.</summary>
    Drop = 4,

    /// <summary>Ends a full segment.</summary>
    End = 5,

    /// <summary>What the studio wants to know of contents when it has nothing else; the newest of a name counts.</summary>
    Note = 6,
}

/// <summary>How a record's payload is stored.</summary>
internal enum Codec : byte
{
    Plain = 0,

    /// <summary>Zstandard (RFC 8878).</summary>
    Zstd = 1,
}

/// <param name="Number">From 1, never used twice.</param>
/// <param name="Nonce">Drawn for each segment, so that a record is valid nowhere but where it was written.</param>
internal readonly record struct SegmentHeader(uint Number, ulong Nonce);

/// <param name="Kind">What the record is.</param>
/// <param name="Codec">How the payload was compressed.</param>
/// <param name="Stored">Bytes of the payload as stored.</param>
/// <param name="Raw">Bytes of the payload before compression.</param>
/// <param name="PayloadCheck">XXH3 with 64 bits over the stored payload.</param>
/// <param name="Id">SHA-256 of what it holds; of the content for a content's record.</param>
internal readonly record struct RecordHeader(RecordKind Kind, Codec Codec, uint Stored, uint Raw, ulong PayloadCheck, Digest Id)
{
    public RecordKey Key => new(Kind, Id);
}

/// <summary>The bytes of a segment, as docs/storage.md tells them. All numbers are little-endian.</summary>
internal static class SegmentFormat
{
    public const int SegmentHeaderBytes = 64,
        RecordHeaderBytes = 56,
        EndRecordBytes = RecordHeaderBytes + 16;

    /// <summary>About as long as a segment becomes, in bytes.</summary>
    public const int FullBytes = 64 << 20;

    /// <summary>No payload is longer, in bytes, so that a damaged length leads nowhere.</summary>
    public const int MaxPayload = 1 << 20;

    private const ushort Version = 1,
        RecordMagic = 0xC7E5;

    private static ReadOnlySpan<byte> SegmentMagic => "CHRONSEG"u8;

    public static void WriteSegmentHeader(Span<byte> bytes, SegmentHeader header)
    {
        bytes[..SegmentHeaderBytes].Clear();
        SegmentMagic.CopyTo(bytes);
        BinaryPrimitives.WriteUInt16LittleEndian(bytes[8..], Version);
        BinaryPrimitives.WriteUInt32LittleEndian(bytes[12..], header.Number);
        BinaryPrimitives.WriteUInt64LittleEndian(bytes[16..], header.Nonce);
        BinaryPrimitives.WriteUInt64LittleEndian(bytes[56..], XxHash3.HashToUInt64(bytes[..56]));
    }

    public static bool TryReadSegmentHeader(ReadOnlySpan<byte> bytes, out SegmentHeader header)
    {
        header = default;
        if (
            bytes.Length < SegmentHeaderBytes
            || !bytes.StartsWith(SegmentMagic)
            || BinaryPrimitives.ReadUInt64LittleEndian(bytes[56..]) != XxHash3.HashToUInt64(bytes[..56])
        )
            return false;
        header = new SegmentHeader(
            BinaryPrimitives.ReadUInt32LittleEndian(bytes[12..]),
            BinaryPrimitives.ReadUInt64LittleEndian(bytes[16..])
        );
        var version = BinaryPrimitives.ReadUInt16LittleEndian(bytes[8..]);
        return version == Version
            ? true
            : throw new StoreVersionException(
                $"The segment {header.Number} is of version {version}, and this program knows version {Version}."
            );
    }

    /// <summary>Writes what does not depend on the place; <see cref="Seal"/> does the rest.</summary>
    public static void WriteRecordHeader(Span<byte> bytes, RecordHeader header)
    {
        BinaryPrimitives.WriteUInt16LittleEndian(bytes, RecordMagic);
        bytes[2] = (byte)header.Kind;
        bytes[3] = (byte)header.Codec;
        BinaryPrimitives.WriteUInt32LittleEndian(bytes[4..], header.Stored);
        BinaryPrimitives.WriteUInt32LittleEndian(bytes[8..], header.Raw);
        BinaryPrimitives.WriteUInt64LittleEndian(bytes[12..], header.PayloadCheck);
        header.Id.Write(bytes[20..]);
    }

    /// <summary>Binds a record's header to its place.</summary>
    public static void Seal(Span<byte> recordHeader, ulong nonce, long offset) =>
        BinaryPrimitives.WriteUInt32LittleEndian(recordHeader[52..], HeaderCheck(recordHeader, nonce, offset));

    public static bool TryReadRecordHeader(ReadOnlySpan<byte> bytes, ulong nonce, long offset, out RecordHeader header)
    {
        header = default;
        if (
            bytes.Length < RecordHeaderBytes
            || BinaryPrimitives.ReadUInt16LittleEndian(bytes) != RecordMagic
            || BinaryPrimitives.ReadUInt32LittleEndian(bytes[52..]) != HeaderCheck(bytes, nonce, offset)
        )
            return false;
        header = new RecordHeader(
            (RecordKind)bytes[2],
            (Codec)bytes[3],
            BinaryPrimitives.ReadUInt32LittleEndian(bytes[4..]),
            BinaryPrimitives.ReadUInt32LittleEndian(bytes[8..]),
            BinaryPrimitives.ReadUInt64LittleEndian(bytes[12..]),
            Digest.Read(bytes[20..])
        );
        return header.Kind is >= RecordKind.Chunk and <= RecordKind.Note
            && header.Codec <= Codec.Zstd
            && header.Stored <= MaxPayload
            && header.Raw <= MaxPayload;
    }

    /// <summary>Up to where, says an end record's payload, a segment holds records; the rest before the end is what a crash left.</summary>
    public static long WholeUpTo(ReadOnlySpan<byte> endPayload) =>
        endPayload.Length < 16 ? 0 : BinaryPrimitives.ReadInt64LittleEndian(endPayload[8..]);

    public static ulong PayloadCheck(ReadOnlySpan<byte> payload) => XxHash3.HashToUInt64(payload);

    // The offset is spread over all bits, so that no two places of a segment share a seed.
    private static uint HeaderCheck(ReadOnlySpan<byte> header, ulong nonce, long offset) =>
        (uint)XxHash3.HashToUInt64(header[..52], (long)(nonce ^ ((ulong)offset * 0x9E3779B97F4A7C15)));
}
