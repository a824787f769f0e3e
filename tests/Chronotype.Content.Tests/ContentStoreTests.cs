using Chronotype.Content;
using Chronotype.Content.Segments;
using Chronotype.Content.Tiers;
using Chronotype.Core.Content;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Content.Tests;

public sealed class LocalContentStoreTests : ContentStoreTests
{
    private protected override ISegmentTier? Tier => null;
}

/// <summary>What people rely on, wherever the segments lie.</summary>
public abstract class ContentStoreTests : IDisposable
{
    protected StoreFolder Folder { get; } = new();

    private protected abstract ISegmentTier? Tier { get; }

    public virtual void Dispose() => Folder.Dispose();

    private ContentStore Open() => Folder.Open(Tier);

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(4096)]
    [InlineData(131_072)]
    [InlineData(1 << 20)]
    [InlineData((1 << 20) + 1)]
    [InlineData(5_000_003)]
    public async Task What_is_committed_reads_back_byte_for_byte(int length)
    {
        var bytes = Samples.Noise(length, 1);
        using (var store = Open())
        {
            using var staged = await store.StageAsync(new MemoryStream(bytes));
            await store.CommitAsync(staged);
            Assert.Equal(ContentHash.Of(bytes), staged.Hash);
            Assert.Equal(length, staged.Size);
            store.Holds(bytes);
        }
        using var again = Open();
        again.Holds(bytes);
        Assert.Equal(length, again.EntryOf(ContentHash.Of(bytes)).Size);
    }

    [Fact]
    public async Task Nothing_is_visible_before_it_is_committed_and_it_can_be_looked_into()
    {
        var bytes = Samples.Noise(2_000_000, 2);
        using (var store = Open())
        {
            using var staged = await store.StageAsync(new MemoryStream(bytes));
            Assert.False(store.Has(staged.Hash));
            Assert.Empty(store.Maintenance.Contents());
            Assert.Equal(bytes, StoreUse.ReadAll(staged.OpenRead()));
        }
        using var again = Open();
        Assert.False(again.Has(ContentHash.Of(bytes)));
        Assert.Throws<MissingContentException>(() => again.OpenRead(ContentHash.Of(bytes)));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task An_arrival_that_breaks_or_is_cancelled_leaves_nothing_and_spoils_nothing(bool isCancelled)
    {
        using var store = Open();
        var older = Samples.Noise(900_000, 3);
        await store.PutAsync(older);
        using var cancel = new CancellationTokenSource();
        var breaking = new Breaking(Samples.Noise(4_000_000, 4), after: 3_000_000, isCancelled ? cancel.Cancel : null);
        if (isCancelled)
            await Assert.ThrowsAnyAsync<OperationCanceledException>(() => store.StageAsync(breaking, cancel.Token));
        else
            await Assert.ThrowsAsync<IOException>(() => store.StageAsync(breaking));
        Assert.Equal(ContentHash.Of(older), Assert.Single(store.Maintenance.Contents()).Hash);
        store.Holds(older);
        await store.PutAsync(Samples.Noise(4_000_000, 4));
        store.Holds(Samples.Noise(4_000_000, 4));
    }

    [Fact]
    public async Task What_was_staged_last_and_given_up_takes_no_room_and_nothing_else_with_it()
    {
        if (Tier is not null)
            return;
        using var large = new StoreFolder();
        using (var store = ContentStore.Open(large.Path))
        {
            var kept = Samples.Noise(700_000, 1);
            await store.PutAsync(kept);
            var before = store.Maintenance.SegmentBytes;
            (await store.StageAsync(new MemoryStream([.. kept, .. Samples.Noise(5_000_000, 2)]))).Dispose();
            Assert.Equal(before, store.Maintenance.SegmentBytes);
            store.Holds(kept);
            // What another has found by then stays.
            var first = await store.StageAsync(new MemoryStream(Samples.Noise(5_000_000, 3)));
            using var second = await store.StageAsync(new MemoryStream(Samples.Noise(5_000_000, 3)));
            first.Dispose();
            await store.CommitAsync(second);
            store.Holds(Samples.Noise(5_000_000, 3));
        }
        using var again = ContentStore.Open(large.Path);
        Assert.True(again.Maintenance.Verify().IsSound);
        again.Holds(Samples.Noise(5_000_000, 3));
    }

    [Fact]
    public async Task Equal_content_is_kept_once_however_many_bring_it_at_once()
    {
        using var store = Open();
        var bytes = Samples.Noise(700_000, 5);
        await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => Task.Run(() => store.PutAsync(bytes))));
        Assert.Single(store.Maintenance.Contents());
        store.Holds(bytes);
        using var staged = await store.StageAsync(new MemoryStream(bytes));
        Assert.Equal(0, staged.NewBytes);
    }

    [Fact]
    public async Task Many_at_once_keep_all_that_they_bring()
    {
        using (var store = Open())
        {
            await Task.WhenAll(
                Enumerable
                    .Range(0, 6)
                    .Select(person =>
                        Task.Run(async () =>
                        {
                            for (var i = 0; i < 8; i++)
                                await store.PutAsync(Samples.Noise(30_000 + i * 20_000, person * 100 + i));
                        })
                    )
            );
        }
        using var again = Open();
        for (var person = 0; person < 6; person++)
        {
            for (var i = 0; i < 8; i++)
                again.Holds(Samples.Noise(30_000 + i * 20_000, person * 100 + i));
        }
        Assert.True(again.Maintenance.Verify().IsSound);
    }

    [Fact]
    public async Task A_range_is_read_without_what_comes_before_it()
    {
        using var store = Open();
        var bytes = Samples.Noise(6_000_000, 6);
        using var stream = store.OpenRead(await store.PutAsync(bytes));
        var random = new Random(7);
        var part = new byte[100_000];
        for (var i = 0; i < 60; i++)
        {
            var at = random.Next(bytes.Length);
            stream.Position = at;
            var read = stream.ReadAtLeast(part.AsSpan(0, random.Next(1, part.Length)), 1);
            Assert.True(bytes.AsSpan(at, read).SequenceEqual(part.AsSpan(0, read)));
        }
        stream.Seek(-10, SeekOrigin.End);
        Assert.Equal(bytes[^10..], StoreUse.ReadAll(stream));
    }

    [Property(MaxTest = 40)]
    public void Whatever_edits_are_made_every_version_reads_back_and_costs_little(DoNotSize<int> seed)
    {
        using var store = Open();
        var random = new Random(seed.Item);
        var content = Samples.Noise(random.Next(200_000, 1_200_000), random.Next());
        var versions = new List<byte[]> { content };
        store.PutAsync(content).Wait();
        for (var v = 0; v < 5; v++)
        {
            content = Edited(content, random, out var changed);
            using var staged = store.StageAsync(new MemoryStream(content)).Result;
            store.CommitAsync(staged).Wait();
            versions.Add(content);
            // Two chunks at each edge of an edit, the lists above them, and what was edited.
            Assert.True(staged.NewBytes <= changed + 5 * 65_536 + 30_000, $"{changed} bytes changed, and {staged.NewBytes} were added.");
        }
        foreach (var version in versions)
            store.Holds(version);
    }

    private static byte[] Edited(byte[] content, Random random, out int changed)
    {
        var at = random.Next(content.Length);
        var removed = Math.Min(random.Next(0, 50_000), content.Length - at);
        var added = Samples.Noise(random.Next(0, 50_000), random.Next());
        changed = added.Length;
        return [.. content[..at], .. added, .. content[(at + removed)..]];
    }

    [Fact]
    public async Task What_compresses_is_compressed_and_what_does_not_is_not()
    {
        using var store = Open();
        var text = System.Text.Encoding.UTF8.GetBytes(
            string.Join('\n', Enumerable.Range(0, 60_000).Select(i => $"layer {i} at {i * 7 % 1000}, {i * 13 % 800}"))
        );
        using var staged = await store.StageAsync(new MemoryStream(text));
        Assert.InRange(staged.NewBytes, 1, text.Length / 3);
        using var noise = await store.StageAsync(new MemoryStream(Samples.Noise(1_000_000, 9)));
        Assert.InRange(noise.NewBytes, 1_000_000, 1_012_000);
        await store.CommitAsync(staged);
        store.Holds(text);
    }

    [Fact]
    public async Task What_compresses_is_compressed_also_behind_much_that_does_not()
    {
        using var store = Open();
        var text = System.Text.Encoding.UTF8.GetBytes(
            string.Join('\n', Enumerable.Range(0, 40_000).Select(i => $"layer {i} at {i * 7 % 1000}, {i * 13 % 800}"))
        );
        using var alone = await store.StageAsync(new MemoryStream(text));
        using var behind = await store.StageAsync(new MemoryStream([.. Samples.Noise(2_000_000, 5), .. text.Select(b => (byte)(b ^ 1))]));
        // A few chunks where the one ends and the other begins may be kept as they are.
        Assert.InRange(behind.NewBytes, 2_000_000, 2_024_000 + alone.NewBytes + 6 * 8192);
    }

    [Fact]
    public async Task Dropped_content_is_gone_and_can_be_kept_again()
    {
        var (one, two) = (Samples.Noise(400_000, 10), Samples.Noise(400_000, 11));
        using (var store = Open())
        {
            await store.PutAsync(one);
            await store.PutAsync(two);
            Assert.True(store.Drop(ContentHash.Of(one)));
            Assert.False(store.Drop(ContentHash.Of(one)));
            Assert.False(store.Has(ContentHash.Of(one)));
        }
        using (var store = Open())
        {
            Assert.False(store.Has(ContentHash.Of(one)));
            store.Maintenance.RebuildIndex();
            Assert.False(store.Has(ContentHash.Of(one)));
            await store.PutAsync(one);
        }
        using var again = Open();
        again.Holds(one);
        again.Holds(two);
    }

    [Fact]
    public async Task Compaction_frees_what_nothing_needs_and_keeps_all_else()
    {
        var contents = Enumerable.Range(0, 12).Select(i => Samples.Noise(250_000, i)).ToList();
        var shared = Samples.Noise(200_000, 99);
        using (var store = Open())
        {
            foreach (var content in contents)
                await store.PutAsync([.. shared, .. content]);
            for (var i = 0; i < contents.Count; i += 2)
                store.Drop(ContentHash.Of([.. shared, .. contents[i]]));
            var result = store.Maintenance.Compact();
            Assert.InRange(result.BytesAfter, 6 * 250_000, 6 * 250_000 + 400_000);
            Assert.Empty(result.Skipped);
            for (var i = 1; i < contents.Count; i += 2)
                store.Holds([.. shared, .. contents[i]]);
        }
        using (var again = Open())
        {
            again.Maintenance.RebuildIndex();
            Assert.Equal(6, again.Maintenance.Contents().Count());
            for (var i = 0; i < contents.Count; i++)
            {
                if (i % 2 == 1)
                    again.Holds([.. shared, .. contents[i]]);
                else
                    Assert.False(again.Has(ContentHash.Of([.. shared, .. contents[i]])));
            }
            Assert.True(again.Maintenance.Verify().IsSound);
            foreach (var content in again.Maintenance.Contents().ToList())
                again.Drop(content.Hash);
            Assert.InRange(again.Maintenance.Compact().BytesAfter, 0, 5000);
        }
        using var empty = Open();
        Assert.Empty(empty.Maintenance.Contents());
    }

    [Fact]
    public async Task Compaction_while_people_save_and_read_takes_nothing_from_them()
    {
        using var store = Open();
        var kept = Samples.Noise(1_500_000, 20);
        await store.PutAsync(kept);
        using var stop = new CancellationTokenSource();
        var saved = new List<byte[]>();
        var saving = Task.Run(async () =>
        {
            for (var i = 0; !stop.IsCancellationRequested; i++)
            {
                // Each begins with what the one before, dropped by now, had: the very bytes that compaction is about to free.
                byte[] content = [.. Samples.Noise(300_000, 1000 + i), .. Samples.Noise(300_000, 1000 + i - 1)];
                await store.PutAsync(content);
                if (i % 3 == 0)
                    lock (saved)
                        saved.Add(content);
                else
                    store.Drop(ContentHash.Of(content));
            }
        });
        var reading = Task.Run(() =>
        {
            while (!stop.IsCancellationRequested)
                store.Holds(kept);
        });
        for (var i = 0; i < 12; i++)
            store.Maintenance.Compact();
        stop.Cancel();
        await saving;
        await reading;
        Assert.NotEmpty(saved);
        foreach (var content in saved)
            store.Holds(content);
        Assert.True(store.Maintenance.Verify().IsSound);
    }

    [Fact]
    public async Task What_only_some_contents_hold_is_what_compaction_frees_when_they_are_dropped()
    {
        using var store = Open();
        var shared = Samples.Noise(500_000, 30);
        byte[] a = [.. shared, .. Samples.Noise(300_000, 31)],
            b = [.. shared, .. Samples.Noise(200_000, 32)],
            c = [.. Samples.Noise(150_000, 33)];
        foreach (var content in new[] { a, b, c })
            await store.PutAsync(content);
        HashSet<ContentHash> first = [ContentHash.Of(a)],
            second = [ContentHash.Of(b), ContentHash.Of(c)];
        var only = store.Maintenance.OnlyHeldBy(first);
        Assert.InRange(only, 300_000, 300_000 + 2 * 65_536 + 4000);
        var account = store.Maintenance.Account([first, second]);
        Assert.Equal(only, account[0].Alone);
        Assert.Equal(account[0].Shared, account[1].Shared);
        Assert.Equal(store.Maintenance.OnlyHeldBy(first.Union(second).ToHashSet()), account.Sum(h => h.Alone) + account[0].Shared);
        Assert.Equal(store.Maintenance.Stat().NeededBytes, account.Sum(h => h.Alone) + account[0].Shared);
        store.Drop(ContentHash.Of(a));
        var needed = store.Maintenance.Stat().NeededBytes;
        Assert.Equal(account.Sum(h => h.Alone) + account[0].Shared - only, needed);
    }

    [Fact]
    public async Task Two_processes_cannot_write_to_one_store_and_a_second_one_can_read()
    {
        using var store = Open();
        var bytes = Samples.Noise(800_000, 40);
        await store.PutAsync(bytes);
        Assert.Contains(Folder.Path, Assert.Throws<StoreInUseException>(Open).Message);
        store.Holds(bytes);
        if (Tier is not null)
            return;
        using var reading = Folder.OpenReadOnly();
        reading.Holds(bytes);
        Assert.True(reading.Maintenance.Verify().IsSound);
        await Assert.ThrowsAsync<InvalidOperationException>(() => reading.StageAsync(new MemoryStream(bytes)));
    }

    [Fact]
    public void Content_that_is_not_there_is_missed_by_name()
    {
        using var store = Open();
        var hash = ContentHash.Of("nowhere"u8);
        Assert.Equal(hash, Assert.Throws<MissingContentException>(() => store.OpenRead(hash)).Hash);
        Assert.Equal(hash, Assert.Throws<MissingContentException>(() => store.EntryOf(hash)).Hash);
        Assert.False(store.Drop(hash));
    }

    private sealed class Breaking(byte[] bytes, int after, Action? instead = null) : MemoryStream(bytes)
    {
        public override ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancel = default)
        {
            if (Position < after)
                return base.ReadAsync(buffer[..Math.Min(buffer.Length, 100_000)], cancel);
            instead?.Invoke();
            cancel.ThrowIfCancellationRequested();
            throw new IOException("The other side is gone.");
        }
    }

    [Fact]
    public async Task Several_contents_are_committed_with_two_flushes_and_none_where_somebody_gives_up()
    {
        using var folder = new StoreFolder();
        var files = new FaultyFiles();
        using var store = folder.Open(files: files);
        var staged = new List<StagedContent>();
        for (var i = 0; i < 60; i++)
            staged.Add(await store.StageAsync(new MemoryStream(Samples.Noise(500, i))));
        using var stop = new CancellationTokenSource();
        await stop.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => store.CommitAsync(staged, stop.Token));
        Assert.DoesNotContain(staged, s => store.Has(s.Hash));
        var before = files.Flushes;
        await store.CommitAsync(staged);
        Assert.InRange(files.Flushes - before, 1, 2);
        Assert.All(staged, s => Assert.True(store.Has(s.Hash)));
        // As long as they are held, none of them can be taken back.
        Assert.Equal(0, store.Drop([.. staged.Select(s => s.Hash)]));
        staged.ForEach(s => s.Dispose());
        Assert.Equal(60, store.Drop([.. staged.Select(s => s.Hash)]));
    }

    [Fact]
    public async Task Compaction_waits_while_a_backup_copies()
    {
        using var folder = new StoreFolder();
        var files = new FaultyFiles();
        using var store = folder.Open(files: files);
        await store.PutAsync(Samples.Noise(200_000, 1));
        var copying = new FileStream(Path.Combine(folder.Path, "still"), FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
        var asked = files.Holds;
        var compacting = Task.Run(() => store.Maintenance.Compact());
        // It has asked for the hold three times, and would have gone on after the first if it could.
        while (files.Holds < asked + 3)
            await Task.Delay(20);
        Assert.False(compacting.IsCompleted);
        await copying.DisposeAsync();
        await compacting.WaitAsync(TimeSpan.FromSeconds(10));
    }
}
