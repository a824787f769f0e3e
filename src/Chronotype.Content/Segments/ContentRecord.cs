using System.Buffers.Binary;

namespace Chronotype.Content.Segments;

/// <summary>Names some bytes of content: a chunk, or a list of further names.</summary>
/// <param name="Id">SHA-256 of the bytes, or of the list.</param>
/// <param name="Level">0 for a chunk, n for a list of names of level n - 1.</param>
/// <param name="Length">Bytes of content under it.</param>
internal readonly record struct Part(Digest Id, int Level, long Length)
{
    public RecordKey Key => new(Level == 0 ? RecordKind.Chunk : RecordKind.List, Id);
}

/// <summary>The payload of a <see cref="RecordKind.Content"/> record.</summary>
/// <param name="Size">Bytes of the content.</param>
/// <param name="Root">What holds all of it; not set for content of no bytes.</param>
/// <param name="NewBytes">Bytes that keeping it added to the segments, its own record included.</param>
/// <param name="KeptAt">When it was kept.</param>
internal readonly record struct ContentRecord(long Size, Part Root, long NewBytes, DateTimeOffset KeptAt)
{
    public const int Bytes = 64;

    public void Write(Span<byte> bytes)
    {
        bytes[..Bytes].Clear();
        BinaryPrimitives.WriteInt64LittleEndian(bytes, Size);
        BinaryPrimitives.WriteInt64LittleEndian(bytes[8..], NewBytes);
        BinaryPrimitives.WriteInt64LittleEndian(bytes[16..], KeptAt.ToUnixTimeMilliseconds());
        bytes[24] = (byte)Root.Level;
        Root.Id.Write(bytes[32..]);
    }

    public static ContentRecord Read(ReadOnlySpan<byte> bytes)
    {
        var size = BinaryPrimitives.ReadInt64LittleEndian(bytes);
        return new ContentRecord(
            size,
            new Part(Digest.Read(bytes[32..]), bytes[24], size),
            BinaryPrimitives.ReadInt64LittleEndian(bytes[8..]),
            DateTimeOffset.FromUnixTimeMilliseconds(BinaryPrimitives.ReadInt64LittleEndian(bytes[16..]))
        );
    }
}

/// <summary>The payload of a <see cref="RecordKind.List"/> record.</summary>
internal static class PartList
{
    private const int HeaderBytes = 8,
        EntryBytes = Digest.Length + 8;

    /// <summary>A list is not ended before it has so many parts, and has no more than the second number.</summary>
    public const int Min = 16,
        Max = 256;

    // One part in 32 ends a list.
    private const ulong EndMask = 31;

    /// <summary>Whether a list ends after a part is told by the part alone, so that an insertion changes only the lists near it.</summary>
    public static bool EndsAfter(int count, Digest id) => count >= Max || (count >= Min && (id.A & EndMask) == 0);

    public static byte[] Write(IReadOnlyList<Part> parts)
    {
        var bytes = new byte[HeaderBytes + parts.Count * EntryBytes];
        bytes[0] = (byte)parts[0].Level;
        for (var i = 0; i < parts.Count; i++)
        {
            var entry = bytes.AsSpan(HeaderBytes + i * EntryBytes);
            parts[i].Id.Write(entry);
            BinaryPrimitives.WriteInt64LittleEndian(entry[Digest.Length..], parts[i].Length);
        }
        return bytes;
    }

    /// <summary>Reads a list, and trusts nothing of it that does not fit what names it.</summary>
    /// <exception cref="RecordUnreadableException">The bytes are not this list.</exception>
    public static Part[] Open(ReadOnlySpan<byte> bytes, Part list)
    {
        if (
            bytes.Length <= HeaderBytes
            || (bytes.Length - HeaderBytes) % EntryBytes != 0
            || bytes[0] != list.Level - 1
            || Digest.Of(bytes) != list.Id
        )
            throw new RecordUnreadableException(list.Key, "it is not the list that was written");
        var parts = new Part[(bytes.Length - HeaderBytes) / EntryBytes];
        var total = 0L;
        for (var i = 0; i < parts.Length; i++)
        {
            var entry = bytes[(HeaderBytes + i * EntryBytes)..];
            parts[i] = new Part(Digest.Read(entry), bytes[0], BinaryPrimitives.ReadInt64LittleEndian(entry[Digest.Length..]));
            total += parts[i].Length;
        }
        return total == list.Length ? parts : throw new RecordUnreadableException(list.Key, "its parts have other lengths");
    }
}
