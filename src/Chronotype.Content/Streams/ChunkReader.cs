using System.Buffers;
using Chronotype.Content.Segments;

namespace Chronotype.Content.Streams;

/// <summary>
/// Several chunks of a content, read in as few reads of the disk as their places allow, and each of them checked. What is
/// stored plainly is given from where it was read to, without a copy.
/// </summary>
internal sealed class ChunkReader : IDisposable
{
    // Reading over so much that is not wanted costs less than a read of its own.
    private const int Gap = 16_384,
        MostAtOnce = (1 << 20) - 4096;

    private readonly RecordLog records;
    private readonly List<byte[]> rented = [];
    private readonly ReadOnlyMemory<byte>[] pieces;

    private readonly record struct Wanted(Part Part, Location At, int Index) : IComparable<Wanted>
    {
        public int CompareTo(Wanted other) => At.Place.CompareTo(other.At.Place);
    }

    private ChunkReader(RecordLog records, int count) => (this.records, pieces) = (records, new ReadOnlyMemory<byte>[count]);

    /// <summary>The chunks' bytes, in the order asked for; valid until this is disposed of.</summary>
    public IReadOnlyList<ReadOnlyMemory<byte>> Pieces => pieces;

    /// <exception cref="RecordUnreadableException">A chunk is missing or damaged.</exception>
    public static ChunkReader Read(RecordLog records, IReadOnlyList<Part> chunks)
    {
        for (var tries = 0; ; tries++)
        {
            var reader = new ChunkReader(records, chunks.Count);
            try
            {
                reader.ReadAll(chunks);
                return reader;
            }
            catch (SegmentGoneException) when (tries < 4)
            {
                // Compacted away in this very moment; the chunks stand elsewhere by now.
                reader.Dispose();
                records.LookAgain();
            }
            catch
            {
                reader.Dispose();
                throw;
            }
        }
    }

    public void Dispose()
    {
        foreach (var buffer in rented)
            ArrayPool<byte>.Shared.Return(buffer);
        rented.Clear();
    }

    private void ReadAll(IReadOnlyList<Part> chunks)
    {
        var places = ArrayPool<Wanted>.Shared.Rent(chunks.Count);
        try
        {
            ReadAll(chunks, places.AsSpan(0, chunks.Count));
        }
        finally
        {
            ArrayPool<Wanted>.Shared.Return(places);
        }
    }

    private void ReadAll(IReadOnlyList<Part> chunks, Span<Wanted> wanted)
    {
        for (var i = 0; i < wanted.Length; i++)
        {
            if (!records.TryFind(chunks[i].Key, out var location))
                throw new RecordUnreadableException(chunks[i].Key, null);
            wanted[i] = new Wanted(chunks[i], location, i);
        }
        wanted.Sort();
        for (var first = 0; first < wanted.Length; )
        {
            var (from, end, next) = (wanted[first].At, EndOf(wanted[first].At), first + 1);
            for (; next < wanted.Length; next++)
            {
                var there = wanted[next].At;
                if (there.Segment != from.Segment || there.Offset > end + Gap || EndOf(there) - from.Offset > MostAtOnce)
                    break;
                end = Math.Max(end, EndOf(there));
            }
            ReadRun(wanted[first..next], from, (int)(end - from.Offset));
            first = next;
        }
    }

    private static long EndOf(Location at) => at.Offset + at.RecordBytes;

    private void ReadRun(ReadOnlySpan<Wanted> run, Location from, int length)
    {
        var buffer = Rent(length);
        var bytes = buffer.AsMemory(0, records.Segments.Read(from.Segment, buffer.AsSpan(0, length), from.Offset));
        var nonce = records.Segments.NonceOf(from.Segment);
        foreach (var (part, at, index) in run)
        {
            var begin = (int)Math.Min(bytes.Length, at.Offset - from.Offset);
            var record = bytes.Slice(begin, (int)Math.Min(at.RecordBytes, bytes.Length - begin));
            try
            {
                pieces[index] = PieceOf(record, nonce, at, part);
            }
            catch (RecordUnreadableException)
            {
                records.NoteDamage(at);
                throw;
            }
        }
    }

    private ReadOnlyMemory<byte> PieceOf(ReadOnlyMemory<byte> record, ulong nonce, Location at, Part part)
    {
        var header = Payload.Check(record.Span, nonce, at.Offset, part.Key);
        if (header.Raw != part.Length)
            throw new RecordUnreadableException(part.Key, "it has another length");
        var stored = record.Slice(SegmentFormat.RecordHeaderBytes, (int)header.Stored);
        if (header.Codec == Codec.Plain && stored.Length == part.Length)
            return stored;
        var raw = Rent((int)header.Raw).AsMemory(0, (int)header.Raw);
        Payload.Unpack(stored.Span, header, raw.Span);
        return raw;
    }

    private byte[] Rent(int length)
    {
        var buffer = ArrayPool<byte>.Shared.Rent(length);
        rented.Add(buffer);
        return buffer;
    }
}
