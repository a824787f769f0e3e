using Chronotype.Core.Content;

namespace Chronotype.Storage.Content;

/// <summary>
/// Keeps content by its hash. Content is first staged (on disk, hashed, not yet visible), may be looked into, and is then
/// either committed, after which it survives the loss of power, or thrown away.
/// </summary>
public interface IContentStore
{
    /// <summary>Reads <paramref name="content"/> to its end, in constant memory, and sets it aside.</summary>
    /// <exception cref="StorageFullException">The disk is full; nothing was kept of it.</exception>
    Task<StagedContent> StageAsync(Stream content, CancellationToken cancel = default);

    /// <summary>Makes staged content visible and durable. Content that is there already is not written again.</summary>
    /// <exception cref="StorageFullException">The disk is full; the content is still staged.</exception>
    Task CommitAsync(StagedContent staged, CancellationToken cancel = default);

    /// <summary>A seekable stream of committed content.</summary>
    /// <exception cref="MissingContentException">Nothing of this hash is there.</exception>
    Stream OpenRead(ContentHash hash);

    bool Has(ContentHash hash);
}

/// <summary>Content that is on disk and not yet visible. Disposing it throws away what was not committed.</summary>
public sealed class StagedContent(string path, ContentHash hash, long size) : IDisposable
{
    internal string Path { get; } = path;

    public ContentHash Hash { get; } = hash;

    /// <summary>Bytes.</summary>
    public long Size { get; } = size;

    /// <summary>A seekable stream of what was staged, before it is committed.</summary>
    public Stream OpenRead() => new FileStream(Path, FileMode.Open, FileAccess.Read, FileShare.Read | FileShare.Delete);

    public void Dispose() => File.Delete(Path);
}

/// <summary>The disk that content is kept on is full.</summary>
public sealed class StorageFullException(Exception inner)
    : IOException("The disk that holds the studio's data is full. Nothing that was stored before is lost; make room and save again.", inner);

/// <summary>Content that a record names is not in the store.</summary>
public sealed class MissingContentException(ContentHash hash)
    : IOException($"The content {hash} is not in the store.")
{
    public ContentHash Hash { get; } = hash;
}
