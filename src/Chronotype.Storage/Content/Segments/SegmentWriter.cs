using System.Buffers.Binary;
using System.Security.Cryptography;
using Chronotype.Storage.Content.Files;

namespace Chronotype.Storage.Content.Segments;

/// <summary>
/// Appends records to the newest segment. What could not be written or flushed is taken back, and what was not flushed is not
/// trusted any more once a flush has failed, since a later one says nothing about it.
/// </summary>
internal sealed class SegmentWriter(IStoreFiles files, string folder, SegmentSet segments, long fullBytes) : IDisposable
{
    private readonly Lock flushing = new();
    private Active? active;

    private sealed class Active(uint number, ulong nonce, IStoreFile file, long end, uint records)
    {
        public readonly uint Number = number;
        public readonly ulong Nonce = nonce;
        public readonly IStoreFile File = file;
        public long End = end, Durable = end, Allocated = end;
        public uint Records = records;
    }

    /// <summary>Held while records are appended. What must not change between looking and appending is looked at under it.</summary>
    public Lock Gate { get; } = new();

    /// <summary>Tells where a record was put. Called under the gate.</summary>
    public required Action<RecordKey, Location> Added { get; init; }

    /// <summary>Tells that nothing of a segment from a place on is there any more. Called under the gate.</summary>
    public required Action<uint, long> Lost { get; init; }

    /// <summary>Grows when something that was appended was lost again.</summary>
    public int Generation { get; private set; }

    /// <summary>Where the next record will stand.</summary>
    public (uint Segment, long Offset) End
    {
        get
        {
            lock (Gate) return active is { } a ? (a.Number, a.End) : (segments.Numbers.LastOrDefault() + 1, 0);
        }
    }

    /// <summary>Goes on in a segment that is not full yet.</summary>
    public void Resume(uint number, long end, uint records) =>
        active = new Active(number, segments.NonceOf(number), files.Open(segments.PathOf(number), forWriting: true), end, records);

    /// <summary>Appends all records of a batch. They are readable when this returns, and durable after <see cref="Flush"/>.</summary>
    /// <returns>True when a segment became full on the way.</returns>
    /// <exception cref="IOException">Nothing of what had not been flushed in this segment can be relied on; the generation says so.</exception>
    public bool Append(RecordBatch batch)
    {
        lock (Gate)
        {
            var sealedOne = false;
            for (var done = 0; done < batch.Records.Count;)
            {
                var to = active ??= Begin();
                var first = done;
                var length = 0;
                for (; done < batch.Records.Count && (length == 0 || to.End + length + batch.Records[done].Length <= fullBytes); done++)
                {
                    var (_, start, recordLength) = batch.Records[done];
                    SegmentFormat.Seal(batch.Slice(start, recordLength), to.Nonce, to.End + length);
                    length += recordLength;
                }
                var at = to.End;
                Write(to, batch.Slice(batch.Records[first].Start, length), (uint)(done - first));
                for (var i = first; i < done; i++)
                {
                    var (key, start, recordLength) = batch.Records[i];
                    var offset = (uint)(at + start - batch.Records[first].Start);
                    Added(key, key.Kind == RecordKind.Drop ? Location.Dropped(to.Number, offset) : new Location(to.Number, offset, (uint)recordLength - SegmentFormat.RecordHeaderBytes));
                }
                if (to.End < fullBytes && done == batch.Records.Count) break;
                EndSegment(to);
                sealedOne = true;
            }
            return sealedOne;
        }
    }

    /// <summary>Makes all that was appended before this call durable.</summary>
    public void Flush()
    {
        lock (flushing)
        {
            Active? flushed;
            long end, before;
            lock (Gate)
            {
                flushed = active;
                if (flushed is null || flushed.Durable >= flushed.End) return;
                (before, end) = (flushed.Durable, flushed.End);
            }
            try
            {
                flushed.File.Flush();
            }
            catch (ObjectDisposedException)
            {
                // Ended in this very moment, which flushes, or given up by a write that failed.
                lock (Gate) if (flushed.Durable < end) throw new IOException("The segment could not be written to its end.");
            }
            catch
            {
                lock (Gate) Abandon(flushed, before);
                throw;
            }
            lock (Gate) flushed.Durable = Math.Max(flushed.Durable, end);
        }
    }

    public void Dispose()
    {
        lock (Gate)
        {
            if (active is { } a && a.Allocated > a.End) TryTruncate(a, a.End);
            active?.File.Dispose();
            active = null;
        }
    }

    private Active Begin()
    {
        var number = segments.Numbers.LastOrDefault() + 1;
        var nonce = BinaryPrimitives.ReadUInt64LittleEndian(RandomNumberGenerator.GetBytes(8));
        var path = Path.Combine(folder, SegmentSet.NameOf(number, nonce));
        var file = files.Create(path);
        try
        {
            Span<byte> header = stackalloc byte[SegmentFormat.SegmentHeaderBytes];
            SegmentFormat.WriteSegmentHeader(header, new SegmentHeader(number, nonce));
            file.Write(header, 0);
            file.Flush();
            files.FlushFolder(folder);
        }
        catch
        {
            file.Dispose();
            TryDelete(path);
            throw;
        }
        segments.Add(number, nonce);
        segments.SetLength(number, SegmentFormat.SegmentHeaderBytes);
        return new Active(number, nonce, file, SegmentFormat.SegmentHeaderBytes, 0);
    }

    private void Write(Active to, ReadOnlySpan<byte> bytes, uint records)
    {
        try
        {
            if (to.End + bytes.Length > to.Allocated)
            {
                // In steps, so that a full disk is met before the first byte, and a small store stays small.
                var step = Math.Max(to.End + bytes.Length, Math.Min(fullBytes, to.End * 2));
                to.File.Allocate(step);
                to.Allocated = step;
            }
            to.File.Write(bytes, to.End);
        }
        catch
        {
            // What came before is whole and stays; only this is taken back. Where that fails too, the segment is left as it is.
            if (!TryTruncate(to, to.End)) Abandon(to, to.Durable);
            throw;
        }
        to.End += bytes.Length;
        to.Records += records;
        segments.SetLength(to.Number, to.End);
    }

    private void EndSegment(Active full)
    {
        var batch = new RecordBatch(128);
        Span<byte> payload = stackalloc byte[16];
        BinaryPrimitives.WriteUInt32LittleEndian(payload, full.Records);
        BinaryPrimitives.WriteInt64LittleEndian(payload[8..], full.End);
        batch.Add(new RecordKey(RecordKind.End, Digest.Of(payload)), Codec.Plain, payload.Length, payload);
        SegmentFormat.Seal(batch.Slice(0, batch.Bytes), full.Nonce, full.End);
        Write(full, batch.Slice(0, batch.Bytes), 1);
        try
        {
            full.File.Flush();
        }
        catch
        {
            Abandon(full, full.Durable);
            throw;
        }
        full.Durable = full.End;
        TryTruncate(full, full.End);
        full.File.Dispose();
        active = null;
    }

    private void Abandon(Active lost, long from)
    {
        Generation++;
        TryTruncate(lost, from);
        segments.SetLength(lost.Number, from);
        Lost(lost.Number, from);
        if (active == lost) active = null;
        lost.File.Dispose();
    }

    private static bool TryTruncate(Active to, long length)
    {
        try
        {
            to.File.Truncate(length);
            to.Allocated = length;
            return true;
        }
        catch (Exception e) when (e is IOException or ObjectDisposedException)
        {
            return false;
        }
    }

    private void TryDelete(string path)
    {
        try
        {
            files.Delete(path);
        }
        catch (IOException)
        {
            // Empty, and passed over by whoever opens the store.
        }
    }
}
