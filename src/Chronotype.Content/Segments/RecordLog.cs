using System.Collections.Concurrent;
using Chronotype.Content.Files;
using Chronotype.Content.Index;
using Chronotype.Content.Tiers;
using Chronotype.Core.Content;

namespace Chronotype.Content.Segments;

/// <param name="IsReadOnly">Nothing is written, and another process may be writing.</param>
/// <param name="FullBytes">About as long as a segment becomes, in bytes.</param>
internal sealed record StoreSettings(bool IsReadOnly = false, long FullBytes = SegmentFormat.FullBytes);

/// <summary>The log records of a store, in segments, found by the index. It knows nothing of what they mean.</summary>
internal sealed partial class RecordLog : IDisposable
{
    public const string SegmentFolder = "segments",
        IndexFolder = "index",
        LockFile = "lock";

    private const int ReadOnlyTries = 3;

    private readonly IStoreFiles files;
    private readonly string folder;
    private readonly IDisposable? held;
    private readonly SegmentWriter? writer;
    private readonly Lock gate;
    private readonly ConcurrentDictionary<ulong, byte> damaged = new();
    private readonly CheckedPlaces checkedPlaces = new();

    // Odd while the index is being made anew, or lacks what was forgotten in haste.
    private volatile int changes;
    private bool mustRelearn,
        isOpen;

    /// <summary>Opens the records in a folder, making it where there is none.</summary>
    /// <exception cref="IOException">Another process holds the folder, or it cannot be read.</exception>
    /// <exception cref="StoreVersionException">A later version of the program wrote it.</exception>
    public RecordLog(IStoreFiles files, string folder, ISegmentTier? tier, StoreSettings settings)
    {
        string segmentFolder = Path.Combine(folder, SegmentFolder),
            indexFolder = Path.Combine(folder, IndexFolder);
        (this.files, this.folder, Tier, FullBytes) = (files, folder, tier, settings.FullBytes);
        try
        {
            if (!settings.IsReadOnly)
            {
                files.CreateFolder(segmentFolder);
                files.CreateFolder(indexFolder);
                held = Hold(files, folder);
            }
            Segments = new SegmentSet(files, segmentFolder, tier);
            Segments.Load();
            Index = new StoreIndex(files, indexFolder, Segments);
            if (!settings.IsReadOnly)
            {
                writer = new SegmentWriter(files, segmentFolder, Segments, settings.FullBytes)
                {
                    Added = (key, at) => Index.Add(key, at),
                    Lost = Relearn,
                };
            }
            gate = writer?.Gate ?? new Lock();
            Open();
            isOpen = true;
        }
        catch
        {
            Dispose();
            throw;
        }
    }

    /// <summary>Contents that somebody tried to read and could not, since the store was opened.</summary>
    public ConcurrentDictionary<ContentHash, byte> DamageMet { get; } = new();

    /// <summary>About as long as a segment becomes, in bytes.</summary>
    public long FullBytes { get; }

    public SegmentSet Segments { get; } = null!;
    public StoreIndex Index { get; } = null!;
    public ISegmentTier? Tier { get; }

    /// <exception cref="InvalidOperationException">The store was opened to be read.</exception>
    public SegmentWriter Writer => writer ?? throw new InvalidOperationException("The store was opened to be read only.");

    /// <summary>What was wrong with the index when it was made anew because of it, since the store was opened; null for nothing.</summary>
    public string? IndexFault { get; private set; }

    /// <summary>Waits until nobody copies the segments, and keeps anybody from beginning to.</summary>
    public IDisposable HoldStill(CancellationToken cancel) => KeepStill.Wait(files, folder, cancel);

    /// <returns>Null where the segments are being copied.</returns>
    public IDisposable? TryHoldStill() => KeepStill.Try(files, folder);

    /// <summary>Appends records, and writes the index when a segment became full.</summary>
    /// <param name="batch">Appended as a whole or not at all.</param>
    /// <param name="unless">See <see cref="SegmentWriter.Append"/>. It asks the index itself, since the gate is held.</param>
    public Appended Append(RecordBatch batch, Func<bool>? unless = null)
    {
        for (var tries = 0; ; tries++)
        {
            try
            {
                var appended = Writer.Append(batch, unless);
                if (appended.Ended)
                    TryCheckpoint();
                return appended;
            }
            catch (IndexDamagedException e) when (tries < 2)
            {
                IndexFault = e.Message;
                Rebuild();
            }
        }
    }

    /// <summary>Where the newest record of a key stands.</summary>
    public bool TryFind(RecordKey key, out Location location) => TryFindRaw(key, out location) && !location.IsDropped;

    /// <summary>As <see cref="TryFind"/>, also for a record that drops a content.</summary>
    public bool TryFindRaw(RecordKey key, out Location location)
    {
        for (var tries = 0; ; tries++)
        {
            var before = changes;
            try
            {
                if (Index.TryFindRaw(key, out location))
                    return true;
                if (before % 2 == 0 && before == changes)
                    return false;
                // Not there yet, perhaps: the index is being made anew.
                lock (gate) { }
                if (mustRelearn)
                    Rebuild();
            }
            catch (IndexDamagedException e) when (tries < 2)
            {
                IndexFault = e.Message;
                Rebuild();
            }
        }
    }

    /// <summary>The newest entry of every key of a kind, those of dropped contents included.</summary>
    public Dictionary<Digest, Location> AllOf(RecordKind kind)
    {
        for (var tries = 0; ; tries++)
        {
            try
            {
                return Index.AllOf(kind);
            }
            catch (IndexDamagedException e) when (tries < 2)
            {
                IndexFault = e.Message;
                Rebuild();
            }
        }
    }

    /// <summary>A record's payload, as it was before it was compressed.</summary>
    /// <exception cref="RecordUnreadableException">It is not there, or not as it was written.</exception>
    public byte[] Load(RecordKey key)
    {
        for (var tries = 0; ; tries++)
        {
            if (!TryFind(key, out var at))
                throw new RecordUnreadableException(key, null);
            try
            {
                var bytes = new byte[at.RecordBytes];
                Segments.Read(at.Segment, bytes, at.Offset);
                return Payload.Open(bytes, Segments.NonceOf(at.Segment), at.Offset, key);
            }
            catch (SegmentGoneException) when (tries < 4)
            {
                // Compacted away in this very moment; it stands elsewhere by now.
                LookAgain();
            }
            catch (RecordUnreadableException)
            {
                NoteDamage(at);
                throw;
            }
        }
    }

    /// <summary>
    /// Whether a record can be relied on to hold some bytes: it was written or verified since the store was opened, or it is read
    /// now and holds them. One that does not is noted as damaged, so that what is in hand is written anew.
    /// </summary>
    /// <param name="key">The record's.</param>
    /// <param name="at">Where the record was found.</param>
    /// <param name="payload">The bytes that it should hold.</param>
    /// <param name="mustRead">Whether it is read also where it was checked before.</param>
    public bool Holds(RecordKey key, Location at, ReadOnlySpan<byte> payload, bool mustRead)
    {
        if (!mustRead && checkedPlaces.Has(at))
            return true;
        try
        {
            var bytes = new byte[at.RecordBytes];
            Segments.Read(at.Segment, bytes, at.Offset);
            if (Payload.Open(bytes, Segments.NonceOf(at.Segment), at.Offset, key).AsSpan().SequenceEqual(payload))
            {
                checkedPlaces.Add(at);
                return true;
            }
        }
        catch (Exception e) when (e is RecordUnreadableException or IOException)
        {
            // Whatever it is, the bytes are at hand.
        }
        NoteDamage(at);
        return false;
    }

    /// <summary>Remembers that all of a segment was read and is as it was written.</summary>
    public void NoteWhole(uint segment) => checkedPlaces.AddWhole(segment);

    /// <summary>Reads a record and holds it against its SHA-256. One that is not as it was written is noted as damaged.</summary>
    public bool CheckReadable(RecordKey key)
    {
        if (!TryFind(key, out var at))
            return false;
        try
        {
            // A content's record is named by its content, and has only its own sum.
            if (Digest.Of(Load(key)) == key.Id || key.Kind == RecordKind.Content)
                return true;
        }
        catch (RecordUnreadableException)
        {
            return false;
        }
        NoteDamage(at);
        return false;
    }

    /// <summary>Remembers, until the store is closed, that a place cannot be read, so that what comes again is kept anew.</summary>
    public void NoteDamage(Location at)
    {
        damaged[at.Place] = 0;
        checkedPlaces.Remove(at);
    }

    public bool IsDamaged(Location at) => !damaged.IsEmpty && damaged.ContainsKey(at.Place);

    public void Dispose()
    {
        if (isOpen && writer is not null && Index.RecentCount > 0)
            TryCheckpoint();
        writer?.Dispose();
        Index?.Dispose();
        Segments?.Dispose();
        Tier?.Dispose();
        held?.Dispose();
    }

    private static IDisposable Hold(IStoreFiles files, string folder)
    {
        try
        {
            return files.Hold(Path.Combine(folder, LockFile));
        }
        catch (IOException e)
        {
            throw new StoreInUseException(folder, e);
        }
    }
}
