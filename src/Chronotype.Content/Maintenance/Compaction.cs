using Chronotype.Content.Ingest;
using Chronotype.Content.Segments;

namespace Chronotype.Content.Maintenance;

/// <summary>
/// Frees what no content needs: copies what is needed out of segments that hold much that is not, and deletes them. A segment
/// is deleted only when all that is needed of it stands durably elsewhere, so a crash at any moment leaves at worst two copies.
/// </summary>
/// <param name="records">The log that is compacted.</param>
/// <param name="pins">What is being taken in meanwhile and must stay.</param>
/// <param name="damaged">The names of segments that go whatever they hold, if all that is needed of them can be read.</param>
internal sealed class Compaction(RecordLog records, StagingPins pins, IReadOnlySet<string> damaged)
{
    // Below a tenth it costs more writing than it is worth.
    private const int LeastGarbage = 10;
    private const int BatchBytes = 1 << 20;

    private readonly RecordBatch batch = new(2 * BatchBytes);

    /// <exception cref="StoreDamagedException">What is needed cannot be told.</exception>
    public CompactionResult Run(IProgress<StoreProgress>? progress, CancellationToken cancel)
    {
        var before = records.Segments.TotalBytes;
        var deleted = 0;
        var bound = pins.BeginNoting();
        try
        {
            var (newest, mayCopy) = End();
            var (live, needed) = Mark(cancel);
            var going = records
                .Segments.Numbers.Where(n => n < newest && !bound.Contains(n))
                .Where(n => IsWorthwhile(n, needed.GetValueOrDefault(n)))
                .ToHashSet();
            // On a full disk only what costs no room can go; what it frees makes room for the rest.
            if (!mayCopy)
                going.RemoveWhere(n => needed.ContainsKey(n));
            if (going.Count == 1 && IsWhole(going.Single(), needed) && !IsDamaged(going.Single()))
                going.Clear();
            pins.Freeze(going, live);
            var places = live.Where(p => going.Contains((uint)(p >> 32))).ToLookup(p => (uint)(p >> 32));

            long done = 0,
                total = going.Sum(records.Segments.LengthOf);
            var skipped = new List<string>();
            foreach (var number in going.Order())
            {
                cancel.ThrowIfCancellationRequested();
                var length = records.Segments.LengthOf(number);
                var generation = records.Writer.Generation;
                if (!TryCopy(number, [.. places[number]], cancel))
                    skipped.Add(Path.GetFileName(records.Segments.PathOf(number)));
                else
                {
                    records.Writer.Flush();
                    if (records.Writer.Generation != generation)
                        throw new IOException("The disk failed while segments were compacted. Nothing that was stored is lost.");
                    records.Segments.Delete(number);
                    deleted++;
                }
                progress?.Report(new StoreProgress(done += length, total));
            }
            if (deleted > 0)
                records.TryCheckpoint(mergeAll: true);
            if (deleted == 0 && !mayCopy)
                throw new StorageFullException(new IOException("Nothing could be freed without copying."));
            if (mayCopy)
                return new CompactionResult(before, records.Segments.TotalBytes, deleted, skipped);
        }
        finally
        {
            pins.EndNoting();
        }
        var rest = Run(progress, cancel);
        return rest with { BytesBefore = before, Deleted = deleted + rest.Deleted };
    }

    /// <summary>
    /// Ends the newest segment, so that everything that is there now may go, and what comes from now on stands behind it.
    /// </summary>
    /// <returns>The segment that comes next, and whether there is room to copy anything into it.</returns>
    private (uint Newest, bool MayCopy) End()
    {
        var newest = 0u;
        try
        {
            records.Writer.WhenDurable((segment, _) => newest = segment, inNewSegment: true);
            return (newest, true);
        }
        catch (StorageFullException)
        {
            return (records.Segments.Numbers.LastOrDefault(), false);
        }
    }

    private (HashSet<ulong> Live, Dictionary<uint, long> Needed) Mark(CancellationToken cancel)
    {
        var needed = new Dictionary<uint, long>();
        var walk = new ContentWalk(records)
        {
            OnMet = at => needed[at.Segment] = needed.GetValueOrDefault(at.Segment) + at.RecordBytes,
            // A missing chunk keeps nothing else from being known; an unreadable list does.
            OnUnreadable = e =>
            {
                if (e.Key.Kind != RecordKind.Chunk)
                    throw new StoreDamagedException(e);
            },
        };
        foreach (var (content, at) in records.AllOf(RecordKind.Content))
        {
            cancel.ThrowIfCancellationRequested();
            if (!at.IsDropped)
                walk.Visit(content);
            else if (walk.Met.Add(at.Place))
                needed[at.Segment] = needed.GetValueOrDefault(at.Segment) + at.RecordBytes;
        }
        foreach (var at in records.AllOf(RecordKind.Note).Values)
        {
            if (walk.Met.Add(at.Place))
                needed[at.Segment] = needed.GetValueOrDefault(at.Segment) + at.RecordBytes;
        }
        return (walk.Met, needed);
    }

    private bool IsWorthwhile(uint number, long needed)
    {
        var length = records.Segments.LengthOf(number);
        return Garbage(length, needed) * LeastGarbage >= length || length < records.FullBytes / 2 || IsDamaged(number);
    }

    private bool IsDamaged(uint number) => damaged.Contains(SegmentSet.NameOf(number, records.Segments.NonceOf(number)));

    // A short segment without garbage is worth copying only together with others.
    private bool IsWhole(uint number, Dictionary<uint, long> needed) =>
        Garbage(records.Segments.LengthOf(number), needed.GetValueOrDefault(number)) == 0;

    private static long Garbage(long length, long needed) =>
        Math.Max(0, length - SegmentFormat.SegmentHeaderBytes - SegmentFormat.EndRecordBytes - needed);

    /// <returns>False where something that is needed could not be read; then the segment must stay.</returns>
    private bool TryCopy(uint number, HashSet<ulong> live, CancellationToken cancel)
    {
        var scanner = new SegmentScanner(records.Segments, number);
        while (scanner.Next(out var found))
        {
            if (found.Header is not { } header || !found.IsWhole || !live.Remove(new Location(number, (uint)found.Offset, 0).Place))
                continue;
            if (header.Kind is RecordKind.Content or RecordKind.Drop)
                CopyAlone(header, scanner.Payload, number, found.Offset);
            else if (header.Kind == RecordKind.Note)
                CopyNote(header, scanner.Payload, number, found.Offset);
            else if (IsCurrent(header.Key, number, found.Offset))
                batch.Add(header.Key, header.Codec, (int)header.Raw, scanner.Payload);
            if (batch.Bytes < BatchBytes)
                continue;
            cancel.ThrowIfCancellationRequested();
            Append();
        }
        Append();
        return live.Count == 0;
    }

    /// <summary>Copies what says that a content is there or is not. It counts only if nobody says otherwise meanwhile.</summary>
    private void CopyAlone(RecordHeader header, ReadOnlySpan<byte> payload, uint number, long offset)
    {
        // A drop is needed only while an older segment may hold what it takes back.
        if (header.Kind == RecordKind.Drop && records.Segments.Numbers[0] == number)
            return;
        var alone = new RecordBatch(256);
        alone.Add(header.Key, header.Codec, (int)header.Raw, payload);
        var key = header.Key with { Kind = RecordKind.Content };
        // What a content consists of must be durable before its record is.
        Append();
        records.Writer.Flush();
        records.Append(alone, unless: () => !records.Index.TryFindRaw(key, out var at) || at.Segment != number || at.Offset != offset);
    }

    /// <summary>Copies a note, unless a newer one of its name comes meanwhile.</summary>
    private void CopyNote(RecordHeader header, ReadOnlySpan<byte> payload, uint number, long offset)
    {
        var alone = new RecordBatch(payload.Length + SegmentFormat.RecordHeaderBytes);
        alone.Add(header.Key, header.Codec, (int)header.Raw, payload);
        records.Append(
            alone,
            unless: () => !records.Index.TryFindRaw(header.Key, out var at) || at.Segment != number || at.Offset != offset
        );
    }

    private bool IsCurrent(RecordKey key, uint number, long offset) =>
        records.TryFind(key, out var at) && at.Segment == number && at.Offset == offset;

    private void Append()
    {
        if (batch.IsEmpty)
            return;
        records.Append(batch);
        batch.Clear();
    }
}

/// <summary>What compaction did.</summary>
/// <param name="BytesBefore">Bytes of all segments before it.</param>
/// <param name="BytesAfter">Bytes of all segments after it.</param>
/// <param name="Deleted">How many segments were deleted.</param>
/// <param name="Skipped">The names of segments that hold something needed which cannot be read; verify says what.</param>
public sealed record CompactionResult(long BytesBefore, long BytesAfter, int Deleted, IReadOnlyList<string> Skipped);

/// <summary>Damage keeps it from being known what is needed.</summary>
public sealed class StoreDamagedException(Exception inner)
    : IOException(
        "Part of the store is damaged, so it cannot be told what is still needed, and nothing was freed. Verify the store, and "
            + "repair what it lists or drop it.",
        inner
    );
