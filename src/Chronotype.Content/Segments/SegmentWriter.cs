using Chronotype.Content.Files;

namespace Chronotype.Content.Segments;

/// <param name="Done">Whether the records were appended.</param>
/// <param name="Ended">Whether a segment became full on the way.</param>
/// <param name="First">The number of the segment where the first record stands.</param>
/// <param name="From">Bytes from that segment's beginning to the first record.</param>
/// <param name="Last">The number of the segment where the last record stands.</param>
/// <param name="To">Bytes from that segment's beginning to the last record's end.</param>
internal readonly record struct Appended(bool Done, bool Ended, uint First, long From, uint Last, long To);

/// <summary>
/// Appends records to the newest segment. What could not be written or flushed is taken back, and what was not flushed is not
/// trusted any more once a flush has failed, since a later one says nothing about it.
/// </summary>
internal sealed partial class SegmentWriter(IStoreFiles files, string folder, SegmentSet segments, long fullBytes) : IDisposable
{
    // From here on writing to the disk is worth beginning before it is asked for.
    private const int LargeBytes = 256 << 10;

    private readonly Lock flushing = new();
    private Active? active;

    // Used up also where a segment could not be begun, since its file may still be there.
    private uint lastNumber;

    // Ended by nothing yet, and not to be gone on with: what a crash or a disk that failed left.
    private (uint Number, long WholeUpTo, uint Records)? leftOpen;

    private sealed class Active(uint number, ulong nonce, IStoreFile file, long end, uint records)
    {
        public readonly uint Number = number;
        public readonly ulong Nonce = nonce;
        public readonly IStoreFile File = file;
        public long End = end,
            Durable = end,
            Allocated = end;
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

    /// <summary>Goes on in a segment that is not full yet.</summary>
    public void Resume(uint number, long end, uint records) =>
        active = new Active(number, segments.NonceOf(number), files.Open(segments.PathOf(number), forWriting: true), end, records);

    /// <summary>Gives no segment a number up to this one: the index knows, or knew, places in one of that number.</summary>
    public void NeverAgain(uint number) => lastNumber = Math.Max(lastNumber, number);

    /// <summary>Does not go on in the last segment, but ends it before another is begun.</summary>
    /// <param name="number">The segment's.</param>
    /// <param name="wholeUpTo">What stands behind is no record.</param>
    /// <param name="records">How many it has.</param>
    public void Leave(uint number, long wholeUpTo, uint records) => leftOpen = (number, wholeUpTo, records);

    /// <summary>Appends all records of a batch. They are readable when this returns, and durable after <see cref="Flush"/>.</summary>
    /// <param name="batch">Appended as a whole or not at all.</param>
    /// <param name="unless">Asked under the gate, just before; where it answers true nothing is appended.</param>
    /// <exception cref="IOException">
    /// Nothing of what had not been flushed in this segment can be relied on; the generation says so.
    /// </exception>
    public Appended Append(RecordBatch batch, Func<bool>? unless = null)
    {
        lock (Gate)
        {
            // A segment that ends is flushed, and flushes stand in line: of two at once, only one would be told of an error.
            var mayEnd = leftOpen is not null || (active?.End ?? SegmentFormat.SegmentHeaderBytes) + batch.Bytes >= fullBytes;
            if (!mayEnd || flushing.IsHeldByCurrentThread)
            {
                EndLeftOpen();
                return unless?.Invoke() == true ? default : AppendHeld(batch);
            }
        }
        lock (flushing)
            return Append(batch, unless);
    }

    /// <summary>Makes all that was appended before this call durable.</summary>
    public void Flush()
    {
        lock (flushing)
        {
            Active? flushed;
            long end,
                before;
            lock (Gate)
            {
                EndLeftOpen();
                flushed = active;
                if (flushed is null || flushed.Durable >= flushed.End)
                    return;
                (before, end) = (flushed.Durable, flushed.End);
            }
            try
            {
                flushed.File.Flush();
            }
            catch (ObjectDisposedException)
            {
                // Given up by a write that failed.
                throw new IOException("The segment could not be written to its end.");
            }
            catch
            {
                lock (Gate)
                    Abandon(flushed, before);
                throw;
            }
            lock (Gate)
                flushed.Durable = Math.Max(flushed.Durable, end);
        }
    }

    /// <summary>Makes everything durable and, before anything else can be appended, does something that relies on it.</summary>
    /// <param name="act">Gets the place where the next record will stand.</param>
    /// <param name="inNewSegment">Whether the segment is ended first, and a new one begun.</param>
    public void WhenDurable(Action<uint, long> act, bool inNewSegment = false)
    {
        lock (flushing)
        {
            lock (Gate)
            {
                EndLeftOpen();
                if (inNewSegment && active is { Records: > 0 })
                    EndSegment(active);
                if (inNewSegment)
                    active ??= Begin();
                if (active is { } a && a.Durable < a.End)
                {
                    try
                    {
                        a.File.Flush();
                    }
                    catch
                    {
                        Abandon(a, a.Durable);
                        throw;
                    }
                    a.Durable = a.End;
                }
                if (active is { } now)
                    act(now.Number, now.End);
                else
                    act(segments.Numbers.LastOrDefault() + 1, 0);
            }
        }
    }

    /// <summary>Takes back the newest records, which nobody relies on, so that their room is free at once.</summary>
    /// <param name="number">The segment's.</param>
    /// <param name="from">Where the first of them stands.</param>
    /// <param name="to">
    /// Where the last of them ends. Where anything stands behind it, or the index on disk knows them, they stay for compaction.
    /// </param>
    /// <param name="covered">Up to where the index on disk knows the segments.</param>
    public void TakeBack(uint number, long from, long to, (uint Segment, uint Offset) covered)
    {
        lock (flushing)
        {
            lock (Gate)
            {
                if (
                    active is not { } a
                    || a.Number != number
                    || a.End != to
                    || covered.Segment > number
                    || (covered.Segment == number && covered.Offset > from)
                )
                    return;
                if (!TryTruncate(a, from))
                    return;
                (a.End, a.Durable) = (from, Math.Min(a.Durable, from));
                segments.SetLength(number, from);
                Lost(number, from);
            }
        }
    }

    public void Dispose()
    {
        lock (Gate)
        {
            if (active is { } a && a.Allocated > a.End)
                TryTruncate(a, a.End);
            active?.File.Dispose();
            active = null;
        }
    }

    private Appended AppendHeld(RecordBatch batch)
    {
        var (ended, first, from, last, end) = (false, 0u, 0L, 0u, 0L);
        for (var done = 0; done < batch.Records.Count; )
        {
            var to = active ??= Begin();
            if (first == 0)
                (first, from) = (to.Number, to.End);
            var begun = done;
            var length = 0;
            for (; done < batch.Records.Count && (length == 0 || to.End + length + batch.Records[done].Length <= fullBytes); done++)
            {
                var (_, start, recordLength) = batch.Records[done];
                SegmentFormat.Seal(batch.Slice(start, recordLength), to.Nonce, to.End + length);
                length += recordLength;
            }
            var at = to.End;
            Write(to, batch.Slice(batch.Records[begun].Start, length), (uint)(done - begun));
            for (var i = begun; i < done; i++)
            {
                var (key, start, recordLength) = batch.Records[i];
                var offset = (uint)(at + start - batch.Records[begun].Start);
                Added(
                    key,
                    key.Kind == RecordKind.Drop
                        ? Location.Dropped(to.Number, offset)
                        : new Location(to.Number, offset, (uint)recordLength - SegmentFormat.RecordHeaderBytes)
                );
            }
            (last, end) = (to.Number, to.End);
            if (to.End < fullBytes && done == batch.Records.Count)
                break;
            EndSegment(to);
            ended = true;
        }
        return new Appended(true, ended, first, from, last, end);
    }

    private void Write(Active to, ReadOnlySpan<byte> bytes, uint records)
    {
        try
        {
            SetAside(to, to.End + bytes.Length);
            to.File.Write(bytes, to.End);
        }
        catch
        {
            // What came before is whole and stays; only this is taken back. Where that fails too, the segment is left as it is.
            if (!TryTruncate(to, to.End))
                Abandon(to, to.Durable);
            throw;
        }
        if (bytes.Length >= LargeBytes)
            to.File.BeginFlush(to.End, bytes.Length);
        to.End += bytes.Length;
        to.Records += records;
        segments.SetLength(to.Number, to.End);
    }

    /// <summary>Has room set aside, in steps, so that a full disk is met before the first byte, and a small store stays small.</summary>
    private void SetAside(Active to, long needed)
    {
        if (needed <= to.Allocated)
            return;
        var step = Math.Max(needed, Math.Min(fullBytes, to.End * 2));
        try
        {
            to.File.Allocate(step);
        }
        catch (StorageFullException) when (step > needed)
        {
            to.File.Allocate(step = needed);
        }
        to.Allocated = step;
    }
}
