using Chronotype.Content.Ingest;
using Chronotype.Content.Segments;
using Chronotype.Core.Content;

namespace Chronotype.Content;

/// <summary>
/// Keeps content by its hash. Content is first staged (on disk, hashed, not yet visible), may be looked into, and is then
/// either committed, after which it survives the loss of power, or thrown away.
/// </summary>
public interface IContentStore
{
    /// <summary>Reads <paramref name="content"/> to its end, in constant memory, and sets it aside.</summary>
    /// <exception cref="StorageFullException">The disk is full; nothing was kept of it.</exception>
    Task<StagedContent> StageAsync(Stream content, CancellationToken cancel = default);

    /// <summary>
    /// Makes staged contents visible and durable, all of them with two flushes of the disk. Content that is there already is not
    /// written again. Until the staged content is disposed of it cannot be dropped, so whoever records it disposes of it afterwards.
    /// </summary>
    /// <exception cref="StorageFullException">The disk is full; nothing became visible, and it may be tried again.</exception>
    /// <exception cref="IOException">What was staged could not be kept; nothing became visible.</exception>
    Task CommitAsync(IReadOnlyList<StagedContent> staged, CancellationToken cancel = default);

    /// <summary>As <see cref="CommitAsync(IReadOnlyList{StagedContent}, CancellationToken)"/>, for one.</summary>
    Task CommitAsync(StagedContent staged, CancellationToken cancel = default) => CommitAsync([staged], cancel);

    /// <summary>A seekable stream of committed content, which reads only what is asked for, and checks what it reads.</summary>
    /// <exception cref="MissingContentException">Nothing of this hash is there.</exception>
    /// <exception cref="DamagedContentException">Met while reading; nothing damaged is ever given.</exception>
    Stream OpenRead(ContentHash hash);

    /// <summary>Whether a content is stored.</summary>
    bool Has(ContentHash hash);
}

/// <summary>Content that is on disk and not yet visible. Disposing it throws away what was not committed.</summary>
public sealed class StagedContent : IDisposable
{
    private readonly ContentStore store;
    private readonly StagingPins.Stage stage;

    internal StagedContent(
        ContentStore store,
        StagingPins.Stage stage,
        ContentHash hash,
        long size,
        long newBytes,
        Part root,
        int generation
    )
    {
        (this.store, this.stage) = (store, stage);
        (Hash, Size, NewBytes, Root, Generation) = (hash, size, newBytes, root, generation);
    }

    /// <summary>The hash of the whole content.</summary>
    public ContentHash Hash { get; }

    /// <summary>Bytes.</summary>
    public long Size { get; }

    /// <summary>Bytes on disk that staging it took, beyond what was there.</summary>
    public long NewBytes { get; }

    internal Part Root { get; }

    /// <summary>The writer's generation when staging began.</summary>
    internal int Generation { get; }

    /// <summary>A seekable stream of what was staged, before it is committed.</summary>
    public Stream OpenRead() => store.OpenRead(this);

    /// <summary>What was appended for it stays when it is disposed of.</summary>
    internal void Keep() => stage.IsKept = true;

    /// <inheritdoc />
    public void Dispose() => stage.Dispose();
}

/// <summary>The disk that content is kept on is full.</summary>
public sealed class StorageFullException(Exception inner)
    : IOException(
        "The disk that holds the studio's data is full. Nothing that was stored before is lost; make room and save again.",
        inner
    );

/// <summary>Content that a record names is not in the store.</summary>
public sealed class MissingContentException(ContentHash hash) : IOException($"The content {hash} is not in the store.")
{
    /// <summary>The content that is not there.</summary>
    public ContentHash Hash { get; } = hash;
}

/// <summary>Content cannot be read as it was written.</summary>
public sealed class DamagedContentException(ContentHash hash, Exception inner)
    : IOException(
        $"The content {hash} is damaged on disk here, so it is not given out. Its other parts and all other content are not touched; "
            + $"hand in any copy of it to repair it.",
        inner
    )
{
    /// <summary>The content that is damaged.</summary>
    public ContentHash Hash { get; } = hash;
}

/// <summary>Another process writes to the store.</summary>
public sealed class StoreInUseException(string folder, Exception inner)
    : IOException(
        $"The store {folder} is in use by another Chronotype. Stop that one first; until then the store can only be read.",
        inner
    );

/// <summary>The store was written by a later version of the program.</summary>
public sealed class StoreVersionException(string message) : IOException($"{message} Nothing was changed; use a newer program.");
