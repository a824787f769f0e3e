using Chronotype.Core.Content;
using Chronotype.Storage.Content;

namespace Chronotype.Storage.Tests;

public sealed class FolderContentStoreTests : IDisposable
{
    private readonly string root = Directory.CreateTempSubdirectory("chronotype-store-").FullName;

    public void Dispose() => Directory.Delete(root, recursive: true);

    private FolderContentStore Open() => new(root);

    private string[] Visible() => [.. Directory.EnumerateFiles(root, "*", SearchOption.AllDirectories).Where(f => !f.StartsWith(Path.Combine(root, "incoming"), StringComparison.Ordinal))];

    private string[] Incoming() => Directory.GetFiles(Path.Combine(root, "incoming"));

    private static byte[] Bytes(int length, int seed = 1)
    {
        var bytes = new byte[length];
        new Random(seed).NextBytes(bytes);
        return bytes;
    }

    private static byte[] ReadAll(Stream stream)
    {
        using (stream)
        {
            using var memory = new MemoryStream();
            stream.CopyTo(memory);
            return memory.ToArray();
        }
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(131_072)]
    [InlineData(1_000_003)]
    public async Task What_is_committed_reads_back_byte_for_byte(int length)
    {
        var store = Open();
        var bytes = Bytes(length);
        using var staged = await store.StageAsync(new MemoryStream(bytes));
        await store.CommitAsync(staged);
        Assert.Equal(ContentHash.Of(bytes), staged.Hash);
        Assert.Equal(length, staged.Size);
        Assert.Equal(bytes, ReadAll(store.OpenRead(staged.Hash)));
        Assert.Equal(bytes, ReadAll(Open().OpenRead(staged.Hash)));
    }

    [Fact]
    public async Task Nothing_is_visible_before_it_is_committed_and_it_can_be_thrown_away()
    {
        var store = Open();
        using (var staged = await store.StageAsync(new MemoryStream(Bytes(5000))))
        {
            Assert.False(store.Has(staged.Hash));
            Assert.Empty(Visible());
            Assert.Equal(Bytes(5000), ReadAll(staged.OpenRead()));
        }
        Assert.Empty(Incoming());
    }

    [Fact]
    public async Task A_source_that_breaks_in_the_middle_leaves_nothing()
    {
        var store = Open();
        await Assert.ThrowsAsync<IOException>(() => store.StageAsync(new Breaking(Bytes(400_000), after: 300_000)));
        Assert.Empty(Incoming());
        Assert.Empty(Visible());
    }

    [Fact]
    public async Task A_cancelled_arrival_leaves_nothing()
    {
        var store = Open();
        using var cancel = new CancellationTokenSource();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => store.StageAsync(new Breaking(Bytes(400_000), after: 300_000, cancel.Cancel), cancel.Token));
        Assert.Empty(Incoming());
    }

    [Fact]
    public async Task Equal_content_is_kept_once_however_many_bring_it_at_once()
    {
        var store = Open();
        await Task.WhenAll(Enumerable.Range(0, 8).Select(async _ =>
        {
            using var staged = await store.StageAsync(new MemoryStream(Bytes(70_000)));
            await store.CommitAsync(staged);
        }));
        Assert.Single(Visible());
        Assert.Empty(Incoming());
        Assert.Equal(Bytes(70_000), ReadAll(store.OpenRead(ContentHash.Of(Bytes(70_000)))));
    }

    [Fact]
    public async Task What_a_crash_left_half_written_is_cleared_and_what_was_committed_stays()
    {
        var store = Open();
        using (var staged = await store.StageAsync(new MemoryStream(Bytes(100)))) await store.CommitAsync(staged);
        File.WriteAllBytes(Path.Combine(root, "incoming", "left"), Bytes(50));
        var again = Open();
        Assert.Empty(Incoming());
        Assert.Equal(Bytes(100), ReadAll(again.OpenRead(ContentHash.Of(Bytes(100)))));
    }

    [Fact]
    public async Task A_file_that_a_crash_cut_short_is_written_anew()
    {
        var store = Open();
        using (var staged = await store.StageAsync(new MemoryStream(Bytes(100)))) await store.CommitAsync(staged);
        File.WriteAllBytes(Visible()[0], Bytes(40));
        using (var staged = await store.StageAsync(new MemoryStream(Bytes(100)))) await store.CommitAsync(staged);
        Assert.Equal(Bytes(100), ReadAll(store.OpenRead(ContentHash.Of(Bytes(100)))));
    }

    [Fact]
    public void Content_that_is_not_there_is_missed_by_name()
    {
        var hash = ContentHash.Of("nowhere"u8);
        Assert.Equal(hash, Assert.Throws<MissingContentException>(() => Open().OpenRead(hash)).Hash);
    }

    [Fact]
    public async Task A_full_disk_is_said_in_a_sentence_and_touches_nothing_older()
    {
        var store = Open();
        using (var staged = await store.StageAsync(new MemoryStream(Bytes(100)))) await store.CommitAsync(staged);
        await Assert.ThrowsAsync<StorageFullException>(() => FolderContentStore.Writing(() => throw new IOException("No space left on device", 28)));
        Assert.Equal(Bytes(100), ReadAll(store.OpenRead(ContentHash.Of(Bytes(100)))));
    }

    [Fact]
    public void A_data_folder_is_held_by_one_at_a_time()
    {
        using (new DataFolder(root)) Assert.Contains(root, Assert.Throws<IOException>(() => new DataFolder(root)).Message);
        new DataFolder(root).Dispose();
    }

    private sealed class Breaking(byte[] bytes, int after, Action? instead = null) : MemoryStream(bytes)
    {
        public override ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancel = default)
        {
            if (Position < after) return base.ReadAsync(buffer[..Math.Min(buffer.Length, 100_000)], cancel);
            instead?.Invoke();
            cancel.ThrowIfCancellationRequested();
            throw new IOException("The other side is gone.");
        }
    }
}
