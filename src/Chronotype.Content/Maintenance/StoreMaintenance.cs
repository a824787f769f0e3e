using Chronotype.Content.Ingest;
using Chronotype.Content.Segments;
using Chronotype.Core.Content;

namespace Chronotype.Content.Maintenance;

/// <summary>What keeps a store in order, all of it while the store is in use.</summary>
public sealed class StoreMaintenance
{
    private readonly RecordLog records;
    private readonly StagingPins pins;
    private readonly SemaphoreSlim compacting = new(1);

    internal StoreMaintenance(RecordLog records, StagingPins pins) => (this.records, this.pins) = (records, pins);

    /// <summary>All contents, from the oldest; those whose own record is damaged are left out, and verifying lists them.</summary>
    public IEnumerable<ContentEntry> Contents()
    {
        foreach (var (content, _) in ContentWalk.ContentsOf(records))
        {
            ContentRecord record;
            try
            {
                record = ContentRecord.Read(records.Load(new RecordKey(RecordKind.Content, content)));
            }
            catch (RecordUnreadableException)
            {
                continue;
            }
            yield return new ContentEntry(content.ToContentHash(), record.Size, record.NewBytes, record.KeptAt);
        }
    }

    /// <summary>Reads everything, or a sample, and holds it against what it was when it was written.</summary>
    /// <param name="share">The share of the segments that is read, above 0 and up to 1; they are drawn by chance.</param>
    /// <param name="progress">Told of the bytes that were read.</param>
    /// <param name="cancel">What was found up to then is not returned.</param>
    /// <param name="atOnce">How many segments are read beside one another; each keeps a processor busy.</param>
    public Verified Verify(
        double share = 1,
        IProgress<StoreProgress>? progress = null,
        CancellationToken cancel = default,
        int atOnce = 2
    ) => new Verification(records, atOnce).Run(share, progress, cancel);

    /// <summary>Frees on disk what no content needs any more. While the store is copied, it waits.</summary>
    /// <param name="damage">Segments where damage was found are cleared away too, once nothing that is damaged there is needed.</param>
    /// <param name="progress">Told of the bytes that were gone through.</param>
    /// <param name="cancel">What was freed up to then stays freed.</param>
    /// <exception cref="StoreDamagedException">What is needed cannot be told; nothing was freed.</exception>
    /// <exception cref="InvalidOperationException">It is running already.</exception>
    public CompactionResult Compact(Verified? damage = null, IProgress<StoreProgress>? progress = null, CancellationToken cancel = default)
    {
        if (!compacting.Wait(0, CancellationToken.None))
            throw new InvalidOperationException("The store is being compacted already.");
        try
        {
            var damaged = (damage?.Places ?? []).Select(p => p.Segment).ToHashSet();
            // Whoever asks for it has seen that nothing is damaged that is needed; then a segment that is missing is missed no more.
            if (damage is { Share: >= 1, Damaged.Count: 0 })
                GiveUpMissing();
            using var still = records.HoldStill(cancel);
            return new Compaction(records, pins, damaged).Run(progress, cancel);
        }
        finally
        {
            compacting.Release();
        }
    }

    /// <summary>Misses segments that are not there no more, once it is known that nothing that was in them is needed.</summary>
    public void GiveUpMissing() => records.Segments.GiveUpMissing();

    /// <summary>Makes the index anew from the segments alone.</summary>
    public void RebuildIndex(IProgress<StoreProgress>? progress = null) => records.Rebuild(progress);

    /// <summary>
    /// Bytes on disk that would be needed by nothing any more if these contents were dropped. Hashes that are not there count for
    /// nothing.
    /// </summary>
    public long OnlyHeldBy(IReadOnlySet<ContentHash> contents) => new Accounting(records).OnlyHeldBy(contents);

    /// <summary>What each of several groups of contents holds alone, and what it shares with other groups or contents in none.</summary>
    public IReadOnlyList<Holding> Account(IReadOnlyList<IReadOnlySet<ContentHash>> groups) => new Accounting(records).Of(groups);

    /// <summary>Bytes of all segment files.</summary>
    public long SegmentBytes => records.Segments.TotalBytes;

    /// <summary>What the store holds and how much room it takes, by walking all of it.</summary>
    public StoreStat Stat()
    {
        long needed = 0,
            contents = 0,
            bytes = 0;
        var walk = new ContentWalk(records) { OnMet = at => needed += at.RecordBytes, OnUnreadable = _ => { } };
        foreach (var (content, _) in ContentWalk.ContentsOf(records))
            walk.Visit(content);
        var notes = records.AllOf(RecordKind.Note).Values.Sum(at => at.RecordBytes);
        foreach (var content in Contents())
            (contents, bytes) = (contents + 1, bytes + content.Size);
        var segments = records.Segments.Numbers;
        return new StoreStat(
            contents,
            bytes,
            walk.Met.Count,
            segments.Length,
            records.Segments.TotalBytes,
            needed,
            notes,
            records.Index.Bytes,
            records.Tier?.Name
        );
    }
}

/// <param name="Contents">How many contents are kept.</param>
/// <param name="ContentBytes">Bytes of all of them, each for itself.</param>
/// <param name="Records">How many records they need: chunks, lists of chunks, and one for each content.</param>
/// <param name="Segments">How many segment files there are.</param>
/// <param name="SegmentBytes">Bytes of all segment files.</param>
/// <param name="NeededBytes">Bytes of the records that the contents need.</param>
/// <param name="NoteBytes">Bytes of notes. What is neither can be freed, but for headers.</param>
/// <param name="IndexBytes">Bytes of the index.</param>
/// <param name="Tier">Where full segments are kept beyond this disk; null for nowhere.</param>
public sealed record StoreStat(
    long Contents,
    long ContentBytes,
    long Records,
    int Segments,
    long SegmentBytes,
    long NeededBytes,
    long NoteBytes,
    long IndexBytes,
    string? Tier
)
{
    /// <summary>Bytes that may be freed.</summary>
    public long FreeBytes => SegmentBytes - NeededBytes - NoteBytes;
}
