using System.Buffers.Binary;
using System.Security.Cryptography;
using Chronotype.Core.Content;

namespace Chronotype.Content.Segments;

/// <summary>A SHA-256 (FIPS 180-4) as four big-endian words, so that its order is that of its bytes.</summary>
internal readonly record struct Digest(ulong A, ulong B, ulong C, ulong D) : IComparable<Digest>
{
    public const int Length = 32;

    public static Digest Read(ReadOnlySpan<byte> bytes) =>
        new(
            BinaryPrimitives.ReadUInt64BigEndian(bytes),
            BinaryPrimitives.ReadUInt64BigEndian(bytes[8..]),
            BinaryPrimitives.ReadUInt64BigEndian(bytes[16..]),
            BinaryPrimitives.ReadUInt64BigEndian(bytes[24..])
        );

    public static Digest Of(ReadOnlySpan<byte> content)
    {
        Span<byte> bytes = stackalloc byte[Length];
        SHA256.HashData(content, bytes);
        return Read(bytes);
    }

    public static Digest From(ContentHash hash) => Read(Convert.FromHexString(hash.ToString()));

    public ContentHash ToContentHash()
    {
        Span<byte> bytes = stackalloc byte[Length];
        Write(bytes);
        return ContentHash.FromDigest(bytes);
    }

    public void Write(Span<byte> bytes)
    {
        BinaryPrimitives.WriteUInt64BigEndian(bytes, A);
        BinaryPrimitives.WriteUInt64BigEndian(bytes[8..], B);
        BinaryPrimitives.WriteUInt64BigEndian(bytes[16..], C);
        BinaryPrimitives.WriteUInt64BigEndian(bytes[24..], D);
    }

    public int CompareTo(Digest other) =>
        A != other.A ? A.CompareTo(other.A)
        : B != other.B ? B.CompareTo(other.B)
        : C != other.C ? C.CompareTo(other.C)
        : D.CompareTo(other.D);

    // A digest is as good a hash as there is.
    public override int GetHashCode() => (int)D;
}

/// <summary>What a record is found by.</summary>
internal readonly record struct RecordKey(RecordKind Kind, Digest Id) : IComparable<RecordKey>
{
    public int CompareTo(RecordKey other) => Kind != other.Kind ? Kind.CompareTo(other.Kind) : Id.CompareTo(other.Id);

    public override int GetHashCode() => Id.GetHashCode() ^ (int)Kind;
}

/// <summary>Where a record stands.</summary>
/// <param name="Segment">The segment's number, from 1.</param>
/// <param name="Offset">Bytes from the segment's beginning to the record's.</param>
/// <param name="Stored">Bytes of its payload as it is stored.</param>
internal readonly record struct Location(uint Segment, uint Offset, uint Stored)
{
    private const uint DroppedMark = uint.MaxValue;

    /// <summary>The record says that the content is dropped.</summary>
    public bool IsDropped => Stored == DroppedMark;

    /// <summary>Bytes that the record takes in its segment.</summary>
    public long RecordBytes => SegmentFormat.RecordHeaderBytes + (IsDropped ? 0 : Stored);

    /// <summary>One number a place.</summary>
    public ulong Place => (ulong)Segment << 32 | Offset;

    public static Location Dropped(uint segment, uint offset) => new(segment, offset, DroppedMark);
}
