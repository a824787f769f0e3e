using System.Buffers;
using Chronotype.Storage.Content.Segments;

namespace Chronotype.Storage.Content.Reading;

/// <summary>Reads several chunks at once, in as few reads of the disk as their places allow.</summary>
internal static class ChunkReader
{
    // Reading over so much that is not wanted costs less than a read of its own.
    private const int Gap = 16_384, MostAtOnce = 1 << 20;

    private readonly record struct Wanted(Part Part, Location At, int Into);

    /// <summary>Reads chunks one behind the other into a buffer, each of them checked.</summary>
    /// <exception cref="RecordUnreadableException">One is missing or damaged.</exception>
    public static void Read(RecordStore records, IReadOnlyList<Part> chunks, Span<byte> into)
    {
        for (var tries = 0; ; tries++)
        {
            try
            {
                ReadOnce(records, chunks, into);
                return;
            }
            catch (SegmentGoneException) when (tries < 4)
            {
                // Compacted away in this very moment; the chunks stand elsewhere by now.
            }
        }
    }

    private static void ReadOnce(RecordStore records, IReadOnlyList<Part> chunks, Span<byte> into)
    {
        var wanted = new Wanted[chunks.Count];
        var at = 0;
        for (var i = 0; i < wanted.Length; i++)
        {
            if (!records.TryFind(chunks[i].Key, out var location)) throw new RecordUnreadableException(chunks[i].Key, null);
            wanted[i] = new Wanted(chunks[i], location, at);
            at += (int)chunks[i].Length;
        }
        Array.Sort(wanted, (a, b) => a.At.Place.CompareTo(b.At.Place));
        for (var first = 0; first < wanted.Length;)
        {
            var (from, end, next) = (wanted[first].At, EndOf(wanted[first].At), first + 1);
            for (; next < wanted.Length; next++)
            {
                var there = wanted[next].At;
                if (there.Segment != from.Segment || there.Offset > end + Gap || EndOf(there) - from.Offset > MostAtOnce) break;
                end = Math.Max(end, EndOf(there));
            }
            ReadRun(records, wanted.AsSpan(first, next - first), from, (int)(end - from.Offset), into);
            first = next;
        }
    }

    private static long EndOf(Location at) => at.Offset + at.RecordBytes;

    private static void ReadRun(RecordStore records, ReadOnlySpan<Wanted> run, Location from, int length, Span<byte> into)
    {
        var buffer = ArrayPool<byte>.Shared.Rent(length);
        try
        {
            var bytes = buffer.AsSpan(0, records.Segments.Read(from.Segment, buffer.AsSpan(0, length), from.Offset));
            var nonce = records.Segments.NonceOf(from.Segment);
            foreach (var (part, at, place) in run)
            {
                var begin = (int)Math.Min(bytes.Length, at.Offset - from.Offset);
                var record = bytes.Slice(begin, (int)Math.Min(at.RecordBytes, bytes.Length - begin));
                var header = Payload.Check(record, nonce, at.Offset, part.Key);
                Payload.Unpack(record.Slice(SegmentFormat.RecordHeaderBytes, (int)header.Stored), header, into.Slice(place, (int)part.Length));
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }
}
