using Chronotype.Core.Content;

namespace Chronotype.Content;

/// <summary>
/// The layout before segments: one file a content, named by its hash in folders of its first two digits, and a folder
/// <c>incoming</c> of what was on its way.
/// </summary>
public static class FolderLayout
{
    private const string Incoming = "incoming";

    /// <summary>
    /// Takes what lies in a store's folder under the older layout into the store. A file is deleted when its content is kept
    /// durably; one whose bytes are not what its name says stays where it is. It may be stopped at any moment and begun again.
    /// </summary>
    /// <returns>What was taken over, and the paths of what stayed.</returns>
    /// <exception cref="StorageFullException">The disk is full; what was not taken over yet stays as it was.</exception>
    public static async Task<(int Taken, IReadOnlyList<string> Damaged)> TakeOverAsync(
        ContentStore store,
        IProgress<StoreProgress>? progress = null,
        CancellationToken cancel = default
    )
    {
        var files = Files(store).Select(f => new FileInfo(f)).ToList();
        var damaged = new List<string>();
        long done = 0,
            total = files.Sum(f => f.Length);
        foreach (var file in files)
        {
            if (await TryTakeAsync(store, file, cancel))
            {
                file.Delete();
                if (!Directory.EnumerateFileSystemEntries(file.DirectoryName!).Any())
                    Directory.Delete(file.DirectoryName!);
            }
            else
                damaged.Add(file.FullName);
            progress?.Report(new StoreProgress(done += file.Length, total));
        }
        // Nothing there was ever acknowledged, so nobody was told that it is safe.
        var incoming = Path.Combine(store.Folder, Incoming);
        if (Directory.Exists(incoming))
            Directory.Delete(incoming, recursive: true);
        return (files.Count - damaged.Count, damaged);
    }

    /// <summary>Whether anything lies there under the older layout.</summary>
    public static bool IsThere(ContentStore store) => Files(store).Any();

    private static IEnumerable<string> Files(ContentStore store) =>
        Directory
            .EnumerateDirectories(store.Folder)
            .Where(d => Path.GetFileName(d) is { Length: 2 } name && name.All(char.IsAsciiHexDigitLower))
            .SelectMany(d => Directory.EnumerateFiles(d))
            .Where(f => HashOf(f) is not null);

    private static async Task<bool> TryTakeAsync(ContentStore store, FileInfo file, CancellationToken cancel)
    {
        await using var content = file.OpenRead();
        using var staged = await store.StageAsync(content, cancel);
        if (staged.Hash != HashOf(file.FullName))
            return false;
        await store.CommitAsync(staged, cancel);
        return true;
    }

    private static ContentHash? HashOf(string path) =>
        ContentHash.TryParse(Path.GetFileName(Path.GetDirectoryName(path)) + Path.GetFileName(path), out var hash) ? hash : null;
}
