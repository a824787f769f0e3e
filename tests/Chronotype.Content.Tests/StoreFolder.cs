using Chronotype.Content;
using Chronotype.Content.Files;
using Chronotype.Content.Segments;
using Chronotype.Content.Tiers;
using Chronotype.Core.Content;

namespace Chronotype.Content.Tests;

/// <summary>A content store on a real disk, in a folder of its own, with segments small enough that a test fills many.</summary>
/// <param name="isInMemory">On a disk in memory, where there is one: for tests whose disk is played anyway.</param>
public sealed class StoreFolder(bool isInMemory = false) : IDisposable
{
    private const string MemoryDisk = "/dev/shm";

    public const int SegmentBytes = 300_000;

    public string Path { get; } =
        isInMemory && Directory.Exists(MemoryDisk)
            ? Directory.CreateDirectory(System.IO.Path.Combine(MemoryDisk, $"chronotype-store-{Guid.CreateVersion7():N}")).FullName
            : Directory.CreateTempSubdirectory("chronotype-store-").FullName;

    public string[] Segments => [.. Directory.GetFiles(System.IO.Path.Combine(Path, "segments")).Order()];

    public string[] IndexFiles => [.. Directory.GetFiles(System.IO.Path.Combine(Path, "index")).Order()];

    internal ContentStore Open(ISegmentTier? tier = null, IStoreFiles? files = null, TimeProvider? time = null) =>
        ContentStore.Open(files ?? DiskFiles.Instance, Path, tier, new StoreSettings(FullBytes: SegmentBytes), time);

    internal ContentStore OpenReadOnly() =>
        ContentStore.Open(DiskFiles.Instance, Path, null, new StoreSettings(IsReadOnly: true, SegmentBytes));

    public void Dispose() => Directory.Delete(Path, recursive: true);
}

internal static class StoreUse
{
    public static async Task<ContentHash> PutAsync(this ContentStore store, byte[] content)
    {
        using var staged = await store.StageAsync(new MemoryStream(content));
        await store.CommitAsync(staged);
        return staged.Hash;
    }

    public static byte[] Get(this IContentStore store, ContentHash hash) => ReadAll(store.OpenRead(hash));

    public static byte[] ReadAll(Stream stream)
    {
        using (stream)
        {
            using var memory = new MemoryStream();
            stream.CopyTo(memory);
            return memory.ToArray();
        }
    }

    /// <summary>Where it went and what it holds, for stores of a few contents.</summary>
    public static void Holds(this ContentStore store, byte[] content) => Assert.Equal(content, store.Get(ContentHash.Of(content)));
}
