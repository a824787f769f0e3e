namespace Chronotype.Content.Segments;

/// <summary>What stands at a place of a segment: a record, or bytes that are none.</summary>
/// <param name="Offset">Bytes from the segment's beginning.</param>
/// <param name="Length">Bytes, header included.</param>
/// <param name="Header">Null for bytes that are no record.</param>
/// <param name="IsWhole">Whether the record's payload is as it was written.</param>
/// <param name="IsLeft">
/// Whether the segment's end says that a crash, or a disk that failed, left these bytes, and that they count for nothing.
/// </param>
internal readonly record struct Scanned(long Offset, long Length, RecordHeader? Header, bool IsWhole, bool IsLeft = false);

/// <summary>
/// Reads a segment from a place to its end, record by record. Where the bytes are no record it looks for the next one, so that
/// damage in one place takes nothing else with it.
/// </summary>
internal sealed class SegmentScanner(SegmentSet segments, uint number, long from = SegmentFormat.SegmentHeaderBytes)
{
    private const int Window = SegmentFormat.MaxPayload + SegmentFormat.RecordHeaderBytes;

    private readonly byte[] buffer = new byte[2 * Window];
    private readonly ulong nonce = segments.NonceOf(number);
    private readonly long end = segments.LengthOf(number);
    private readonly (long From, long To) left = LeftIn(segments, number);
    private long bufferAt = from;
    private int filled,
        payloadAt;
    private RecordHeader current;

    /// <summary>Where the next record begins.</summary>
    public long Position { get; private set; } = from;

    /// <summary>The last record's payload as it is stored, until the next is asked for.</summary>
    public ReadOnlySpan<byte> Payload => buffer.AsSpan(payloadAt, (int)current.Stored);

    public bool Next(out Scanned scanned)
    {
        scanned = default;
        if (Position >= end)
            return false;
        if (Position >= left.From && Position < left.To)
        {
            scanned = new Scanned(Position, left.To - Position, null, false, IsLeft: true);
            Position = left.To;
            return true;
        }
        if (TryRecord(Position, out scanned))
            return true;
        var gap = Position;
        var until = gap < left.From ? Math.Min(left.From, end) : end;
        // A record starts with its magic, and its header's check holds nowhere else.
        while (++Position < until)
        {
            var bytes = Bytes(Position, SegmentFormat.RecordHeaderBytes);
            if (bytes.Length < SegmentFormat.RecordHeaderBytes)
                break;
            if (bytes[0] == 0xE5 && bytes[1] == 0xC7 && TryRecord(Position, out var next) && next.IsWhole)
            {
                Position = next.Offset;
                scanned = new Scanned(gap, next.Offset - gap, null, false);
                return true;
            }
        }
        Position = until;
        scanned = new Scanned(gap, until - gap, null, false);
        return true;
    }

    /// <summary>The bytes before a segment's end that its end says are none of its records.</summary>
    private static (long From, long To) LeftIn(SegmentSet segments, uint number)
    {
        var at = segments.LengthOf(number) - SegmentFormat.EndRecordBytes;
        if (at < SegmentFormat.SegmentHeaderBytes)
            return (long.MaxValue, long.MaxValue);
        Span<byte> record = stackalloc byte[SegmentFormat.EndRecordBytes];
        segments.Read(number, record, at);
        return
            SegmentFormat.TryReadRecordHeader(record, segments.NonceOf(number), at, out var header)
            && header.Kind == RecordKind.End
            && SegmentFormat.PayloadCheck(record[SegmentFormat.RecordHeaderBytes..]) == header.PayloadCheck
            && SegmentFormat.WholeUpTo(record[SegmentFormat.RecordHeaderBytes..]) is var whole
            && whole < at
            ? (whole, at)
            : (long.MaxValue, long.MaxValue);
    }

    private bool TryRecord(long at, out Scanned scanned)
    {
        scanned = default;
        if (!SegmentFormat.TryReadRecordHeader(Bytes(at, SegmentFormat.RecordHeaderBytes), nonce, at, out var header))
            return false;
        var length = SegmentFormat.RecordHeaderBytes + header.Stored;
        var bytes = Bytes(at, (int)length);
        if (bytes.Length < length)
            return false;
        (current, payloadAt) = (header, (int)(at - bufferAt) + SegmentFormat.RecordHeaderBytes);
        scanned = new Scanned(at, length, header, SegmentFormat.PayloadCheck(Payload) == header.PayloadCheck);
        Position = at + length;
        return true;
    }

    private ReadOnlySpan<byte> Bytes(long at, int length)
    {
        if (at < bufferAt || at + length > bufferAt + filled)
        {
            bufferAt = at;
            filled = segments.Read(number, buffer.AsSpan(0, (int)Math.Min(buffer.Length, Math.Max(0, end - at))), at);
        }
        var start = (int)(at - bufferAt);
        return buffer.AsSpan(start, Math.Min(length, filled - start));
    }
}
