using ZstdSharp;

namespace Chronotype.Content.Segments;

/// <summary>Opens records: checks that they are what was written, and undoes their compression.</summary>
internal static class Payload
{
    [ThreadStatic]
    private static Decompressor? decompressor;

    /// <summary>Checks a whole record against its place and its key, and gives its payload as it was before it was compressed.</summary>
    /// <exception cref="RecordUnreadableException">It is not what was written there.</exception>
    public static byte[] Open(ReadOnlySpan<byte> record, ulong nonce, long offset, RecordKey key)
    {
        var header = Check(record, nonce, offset, key);
        var raw = new byte[header.Raw];
        Unpack(record.Slice(SegmentFormat.RecordHeaderBytes, (int)header.Stored), header, raw);
        return raw;
    }

    /// <summary>Checks a record's header and the bytes that are stored.</summary>
    /// <exception cref="RecordUnreadableException">It is not what was written there.</exception>
    public static RecordHeader Check(ReadOnlySpan<byte> record, ulong nonce, long offset, RecordKey key)
    {
        if (!SegmentFormat.TryReadRecordHeader(record, nonce, offset, out var header))
            throw new RecordUnreadableException(key, "its header is damaged");
        if (header.Key != key)
            throw new RecordUnreadableException(key, "another record stands in its place");
        if (record.Length < SegmentFormat.RecordHeaderBytes + header.Stored)
            throw new RecordUnreadableException(key, "it is cut short");
        if (SegmentFormat.PayloadCheck(record.Slice(SegmentFormat.RecordHeaderBytes, (int)header.Stored)) != header.PayloadCheck)
            throw new RecordUnreadableException(key, "its bytes are damaged");
        return header;
    }

    /// <summary>Undoes the compression of a record that was checked.</summary>
    /// <param name="stored">The payload as it is stored.</param>
    /// <param name="header">The record's, as it was checked.</param>
    /// <param name="into">As many bytes as the payload had.</param>
    /// <exception cref="RecordUnreadableException">The bytes are no such payload.</exception>
    public static void Unpack(ReadOnlySpan<byte> stored, RecordHeader header, Span<byte> into)
    {
        if (into.Length != header.Raw)
            throw new RecordUnreadableException(header.Key, "it has another length");
        if (header.Codec == Codec.Plain)
        {
            if (stored.Length != into.Length)
                throw new RecordUnreadableException(header.Key, "it has another length");
            stored.CopyTo(into);
            return;
        }
        try
        {
            if ((decompressor ??= new Decompressor()).Unwrap(stored, into) == into.Length)
                return;
        }
        catch (ZstdException)
        {
            // Told below: the bytes are as they were written, so whoever wrote them was wrong.
        }
        throw new RecordUnreadableException(header.Key, "it cannot be decompressed");
    }
}

/// <summary>A record is not there, or not as it was written.</summary>
internal sealed class RecordUnreadableException(RecordKey key, string? why)
    : IOException($"The {key.Kind} {key.Id.ToContentHash()} cannot be read: {why ?? "it is not in the store"}.")
{
    public RecordKey Key { get; } = key;

    public bool IsMissing { get; } = why is null;
}
