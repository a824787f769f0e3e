using System.Text;
using Chronotype.Content.Files;
using Chronotype.Content.Ingest;
using Chronotype.Content.Maintenance;
using Chronotype.Content.Segments;
using Chronotype.Content.Streams;
using Chronotype.Content.Tiers;
using Chronotype.Core.Content;

namespace Chronotype.Content;

/// <summary>
/// Content as chunks that are kept once, however many contents hold them, in segment files that are only ever appended to.
/// docs/storage.md tells the bytes and the promises. All members may be called at once.
/// </summary>
public sealed class ContentStore : IContentStore, IDisposable
{
    private readonly TimeProvider time;
    private readonly StagingPins pins;

    private ContentStore(IStoreFiles files, string folder, ISegmentTier? tier, StoreSettings settings, TimeProvider time)
    {
        this.time = time;
        Folder = Path.GetFullPath(folder);
        Log = new RecordLog(files, Folder, tier, settings);
        pins = new StagingPins(Log);
        Maintenance = new StoreMaintenance(Log, pins);
    }

    /// <summary>Opens a store to read and write, making it where there is none. What an older layout left there is taken over.</summary>
    /// <param name="folder">A folder that one process at a time writes to.</param>
    /// <param name="time">The clock of what is recorded; null for the system's.</param>
    /// <exception cref="StoreInUseException">Another process writes to it.</exception>
    /// <exception cref="StoreVersionException">A later version of the program wrote it.</exception>
    /// <exception cref="StoreConfigurationException">The store's own file cannot be used.</exception>
    public static ContentStore Open(string folder, TimeProvider? time = null) => OpenConfigured(folder, isReadOnly: false, time);

    /// <summary>Opens a store to read, also while another process writes to it. It is seen as it was at this moment.</summary>
    /// <exception cref="DirectoryNotFoundException">There is no store.</exception>
    /// <exception cref="StoreVersionException">A later version of the program wrote it.</exception>
    /// <exception cref="StoreConfigurationException">The store's own file cannot be used.</exception>
    public static ContentStore OpenReadOnly(string folder) =>
        Directory.Exists(Path.Combine(folder, RecordLog.SegmentFolder))
            ? OpenConfigured(folder, isReadOnly: true, null)
            : throw new DirectoryNotFoundException($"There is no content store in {Path.GetFullPath(folder)}.");

    internal static ContentStore Open(
        IStoreFiles files,
        string folder,
        ISegmentTier? tier,
        StoreSettings settings,
        TimeProvider? time = null
    ) => new(files, folder, tier, settings, time ?? TimeProvider.System);

    private static ContentStore OpenConfigured(string folder, bool isReadOnly, TimeProvider? time)
    {
        var configuration = StoreConfiguration.Of(folder);
        var tier = configuration.Tier is { } place ? new ObjectTier(place) : null;
        return Open(DiskFiles.Instance, folder, tier, new StoreSettings(isReadOnly, (long)configuration.SegmentMegabytes << 20), time);
    }

    /// <summary>The folder that the store lives in.</summary>
    public string Folder { get; }

    /// <summary>Verifying, compacting, accounting, rebuilding.</summary>
    public StoreMaintenance Maintenance { get; }

    internal RecordLog Log { get; }

    /// <inheritdoc />
    public Task<StagedContent> StageAsync(Stream content, CancellationToken cancel = default) =>
        StageAsync(content, mustBeReadable: false, cancel);

    /// <inheritdoc />
    public Task CommitAsync(StagedContent staged, CancellationToken cancel = default) => CommitAsync([staged], cancel);

    /// <inheritdoc />
    public Task CommitAsync(IReadOnlyList<StagedContent> staged, CancellationToken cancel = default)
    {
        // What contents consist of is durable before anything names them, so that a record which names one is proof of it.
        Log.Writer.Flush();
        foreach (var content in staged)
        {
            cancel.ThrowIfCancellationRequested();
            Name(content);
        }
        Log.Writer.Flush();
        foreach (var content in staged)
        {
            AssertNothingLostSince(content.Generation);
            content.Keep();
            Log.DamageMet.TryRemove(content.Hash, out _);
        }
        return Task.CompletedTask;
    }

    /// <inheritdoc />
    public Stream OpenRead(ContentHash hash)
    {
        var record = RecordOf(hash);
        return new ContentStream(Log, hash, record.Root, record.Size);
    }

    /// <inheritdoc />
    public bool Has(ContentHash hash) => Log.TryFind(new RecordKey(RecordKind.Content, Digest.From(hash)), out _);

    /// <summary>
    /// Whether a content is known to be missing or not readable as a whole, from somebody's having tried since the store was opened.
    /// </summary>
    public bool IsKnownDamaged(ContentHash hash) => Log.DamageMet.ContainsKey(hash) || !Has(hash);

    /// <summary>What is known of a content.</summary>
    /// <exception cref="MissingContentException">Nothing of this hash is there.</exception>
    /// <exception cref="DamagedContentException">Its own record is damaged.</exception>
    public ContentEntry EntryOf(ContentHash hash)
    {
        var record = RecordOf(hash);
        return new ContentEntry(hash, record.Size, record.NewBytes, record.KeptAt);
    }

    /// <summary>As <see cref="Drop(IReadOnlyCollection{ContentHash})"/>, for one.</summary>
    /// <returns>False where nothing of this hash was there, or it is leased.</returns>
    public bool Drop(ContentHash content) => Drop([content]) == 1;

    /// <summary>
    /// Takes contents back, but for those that are leased: staged again, and not disposed of yet. Their bytes are freed by the next
    /// compaction, so far as nothing else needs them.
    /// </summary>
    /// <returns>How many were there and are taken back.</returns>
    /// <exception cref="IOException">The disk failed; it may be tried again.</exception>
    public int Drop(IReadOnlyCollection<ContentHash> contents)
    {
        var generation = Log.Writer.Generation;
        var dropped = 0;
        foreach (var hash in contents)
        {
            var key = new RecordKey(RecordKind.Content, Digest.From(hash));
            var batch = new RecordBatch(128);
            batch.Add(key with { Kind = RecordKind.Drop }, Codec.Plain, 0, []);
            if (Log.Append(batch, unless: () => pins.IsLeased(hash) || !Log.Index.TryFindRaw(key, out var there) || there.IsDropped).Done)
                dropped++;
        }
        Log.Writer.Flush();
        AssertNothingLostSince(generation);
        return dropped;
    }

    /// <summary>
    /// Takes in a copy of a content, and keeps anew whatever of it is missing or damaged here, for whichever contents need it.
    /// </summary>
    /// <param name="copy">Read to its end from where it stands.</param>
    /// <param name="isWanted">Asked whether the content itself is to be kept; null for always.</param>
    /// <param name="cancel">Nothing is recorded of a copy that was stopped.</param>
    /// <returns>The content; its <see cref="StagedContent.NewBytes"/> say how much had to be kept anew.</returns>
    public async Task<StagedContent> RepairAsync(Stream copy, Func<ContentHash, bool>? isWanted = null, CancellationToken cancel = default)
    {
        using var staged = await StageAsync(copy, mustBeReadable: true, cancel);
        if (isWanted?.Invoke(staged.Hash) != false)
        {
            await CommitAsync(staged, cancel);
            return staged;
        }
        Log.Writer.Flush();
        AssertNothingLostSince(staged.Generation);
        // What nothing needs of it goes with the next compaction; what was repaired is relied on from now on.
        staged.Keep();
        return staged;
    }

    /// <summary>Writes notes, durably. One of a name takes the place of the one before.</summary>
    /// <param name="notes">Of what kind each is, its name among its kind, and what it says, at most 1 MiB.</param>
    /// <exception cref="IOException">The disk failed; it may be tried again.</exception>
    public void WriteNotes(IEnumerable<(string Kind, string Name, byte[] Payload)> notes)
    {
        var generation = Log.Writer.Generation;
        var packer = new ChunkCompressor();
        var batch = new RecordBatch(64 << 10);
        foreach (var (kind, name, payload) in notes)
        {
            var stored = packer.Pack(payload, out var codec);
            batch.Add(new RecordKey(RecordKind.Note, NoteId(kind, name)), codec, payload.Length, stored);
            if (batch.Bytes < 1 << 20)
                continue;
            Log.Append(batch);
            batch.Clear();
        }
        if (!batch.IsEmpty)
            Log.Append(batch);
        Log.Writer.Flush();
        AssertNothingLostSince(generation);
    }

    /// <summary>The newest note of a name; null where there is none, or it cannot be read.</summary>
    /// <param name="kind">As it was given to <see cref="WriteNotes"/>.</param>
    /// <param name="name">As it was given to <see cref="WriteNotes"/>.</param>
    public byte[]? ReadNote(string kind, string name) => ReadNotes([NoteId(kind, name)]).FirstOrDefault();

    /// <summary>The newest note of every name. Those that cannot be read are left out, and verifying tells of the damage.</summary>
    public IEnumerable<byte[]> ReadNotes() => ReadNotes(Log.AllOf(RecordKind.Note).OrderBy(n => n.Value.Place).Select(n => n.Key));

    /// <summary>Those notes of a kind whose names are not among some; as <see cref="ReadNotes()"/>.</summary>
    public IEnumerable<byte[]> ReadNotesBeyond(string kind, IEnumerable<string> names)
    {
        var known = names.Select(n => NoteId(kind, n)).ToHashSet();
        var beginning = KindOf(NoteId(kind, ""));
        return ReadNotes(Log.AllOf(RecordKind.Note).Keys.Where(n => KindOf(n) == beginning && !known.Contains(n)));
    }

    /// <summary>Whether any content was ever kept here.</summary>
    public bool HasContents => Log.AllOf(RecordKind.Content).Count > 0;

    /// <inheritdoc />
    public void Dispose()
    {
        Log.Dispose();
        pins.Dispose();
    }

    private void Name(StagedContent staged)
    {
        var key = new RecordKey(RecordKind.Content, Digest.From(staged.Hash));
        // A record of it that cannot be read is of no use, and another is written behind it.
        if (Log.TryFind(key, out _))
            Log.CheckReadable(key);
        RecordBatch batch = new(256);
        Span<byte> payload = stackalloc byte[ContentRecord.Bytes];
        new ContentRecord(
            staged.Size,
            staged.Root,
            staged.NewBytes + SegmentFormat.RecordHeaderBytes + ContentRecord.Bytes,
            time.GetUtcNow()
        ).Write(payload);
        batch.Add(key, Codec.Plain, payload.Length, payload);
        Log.Append(batch, unless: () => Log.Writer.Generation != staged.Generation || IsThere(key));
    }

    internal Stream OpenRead(StagedContent staged) => new ContentStream(Log, staged.Hash, staged.Root, staged.Size);

    private IEnumerable<byte[]> ReadNotes(IEnumerable<Digest> ids)
    {
        foreach (var id in ids)
        {
            byte[] payload;
            try
            {
                payload = Log.Load(new RecordKey(RecordKind.Note, id));
            }
            catch (RecordUnreadableException)
            {
                continue;
            }
            yield return payload;
        }
    }

    // A flush that failed for somebody else may have taken with it what was appended here.
    private void AssertNothingLostSince(int generation)
    {
        if (Log.Writer.Generation != generation)
            throw new IOException(
                "The disk failed while this was being stored, so it is not kept. Nothing that was stored before is lost; save it again."
            );
    }

    // Notes of one kind begin alike, so that they are told from others without being read.
    private static Digest NoteId(string kind, string name)
    {
        var id = Digest.Of(Encoding.UTF8.GetBytes($"{kind}\0{name}"));
        return id with { A = KindOf(Digest.Of(Encoding.UTF8.GetBytes(kind))) << 48 | id.A >> 16 };
    }

    private static ulong KindOf(Digest id) => id.A >> 48;

    // Asked under the writer's gate.
    private bool IsThere(RecordKey key) => Log.Index.TryFindRaw(key, out var there) && !there.IsDropped && !Log.IsDamaged(there);

    private ContentRecord RecordOf(ContentHash hash)
    {
        try
        {
            return ContentRecord.Read(Log.Load(new RecordKey(RecordKind.Content, Digest.From(hash))));
        }
        catch (RecordUnreadableException e)
        {
            throw e.IsMissing ? new MissingContentException(hash) : new DamagedContentException(hash, e);
        }
    }

    private async Task<StagedContent> StageAsync(Stream content, bool mustBeReadable, CancellationToken cancel)
    {
        var generation = Log.Writer.Generation;
        var stage = pins.Begin();
        try
        {
            var writer = new ChunkWriter(Log, stage, mustBeReadable);
            var (hash, size, root) = await new ContentIngest(writer).TakeAsync(content, cancel);
            stage.Lease(hash);
            return new StagedContent(this, stage, hash, size, writer.NewBytes, root, generation);
        }
        catch
        {
            stage.Dispose();
            throw;
        }
    }
}

/// <summary>A content of the store.</summary>
/// <param name="Hash">Of all its bytes.</param>
/// <param name="Size">Bytes.</param>
/// <param name="NewBytes">Bytes on disk that it took when it was kept, beyond what was there.</param>
/// <param name="KeptAt">When it was kept, in UTC.</param>
public sealed record ContentEntry(ContentHash Hash, long Size, long NewBytes, DateTimeOffset KeptAt);
