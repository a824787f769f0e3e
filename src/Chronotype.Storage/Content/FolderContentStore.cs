using System.Buffers;
using System.Security.Cryptography;
using Chronotype.Core.Content;
using Chronotype.Storage.Content.Files;

namespace Chronotype.Storage.Content;

/// <summary>
/// One file a content, named by its hash in folders of its first two digits. A file is written whole in <c>incoming</c>,
/// flushed to the disk, renamed into place, and its folder flushed, in that order, so that a name is never seen before its bytes.
/// </summary>
public sealed class FolderContentStore : IContentStore
{
    private const int BufferBytes = 1 << 17;
    private readonly string root, incoming;

    /// <summary>Opens a store, making it where there is none, and clears what a crash left in <c>incoming</c>.</summary>
    /// <param name="root">A folder that only one process writes to.</param>
    public FolderContentStore(string root)
    {
        this.root = root;
        incoming = Path.Combine(root, "incoming");
        Directory.CreateDirectory(incoming);
        // Nothing staged was ever acknowledged, so nobody was told that it is safe.
        foreach (var left in Directory.EnumerateFiles(incoming)) File.Delete(left);
    }

    public async Task<StagedContent> StageAsync(Stream content, CancellationToken cancel = default)
    {
        var path = Path.Combine(incoming, Guid.CreateVersion7().ToString("N"));
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        try
        {
            using var sha = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
            long size = 0;
            await using (var file = new FileStream(path, FileMode.CreateNew, FileAccess.Write, FileShare.None, bufferSize: 0))
            {
                for (int read; (read = await content.ReadAsync(buffer.AsMemory(0, BufferBytes), cancel)) > 0; size += read)
                {
                    sha.AppendData(buffer, 0, read);
                    await Writing(() => file.WriteAsync(buffer.AsMemory(0, read), cancel).AsTask());
                }
                await Writing(() =>
                {
                    file.Flush(flushToDisk: true);
                    return Task.CompletedTask;
                });
            }
            return new StagedContent(path, ContentHash.FromDigest(sha.GetHashAndReset()), size);
        }
        catch
        {
            File.Delete(path);
            throw;
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    public Task CommitAsync(StagedContent staged, CancellationToken cancel = default) => Writing(() =>
    {
        var target = PathOf(staged.Hash);
        // Equal length stands for equal content here: the name is its hash, and only whole files get a name.
        if (new FileInfo(target) is { Exists: true } there && there.Length == staged.Size) return Task.CompletedTask;
        var folder = Path.GetDirectoryName(target)!;
        if (!Directory.Exists(folder))
        {
            Directory.CreateDirectory(folder);
            FolderFlush.Flush(root);
        }
        File.Move(staged.Path, target, overwrite: true);
        FolderFlush.Flush(folder);
        return Task.CompletedTask;
    });

    public Stream OpenRead(ContentHash hash)
    {
        try
        {
            return new FileStream(PathOf(hash), FileMode.Open, FileAccess.Read, FileShare.Read | FileShare.Delete, BufferBytes);
        }
        catch (Exception e) when (e is FileNotFoundException or DirectoryNotFoundException)
        {
            throw new MissingContentException(hash);
        }
    }

    public bool Has(ContentHash hash) => File.Exists(PathOf(hash));

    private string PathOf(ContentHash hash) => Path.Combine(root, hash.ToString()[..2], hash.ToString()[2..]);

    private const int NoSpaceUnix = 28, NoSpaceWindows = unchecked((int)0x80070070);

    internal static async Task Writing(Func<Task> write)
    {
        try
        {
            await write();
        }
        catch (IOException e) when (e.HResult is NoSpaceUnix or NoSpaceWindows)
        {
            throw new StorageFullException(e);
        }
    }
}
