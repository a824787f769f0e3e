using Chronotype.Content;

namespace Chronotype.Content.Tests;

/// <summary>Each thing that the store asks of the disk fails in turn, and nothing that was acknowledged is lost.</summary>
public sealed class FaultTests
{
    private const int Steps = 40,
        Seed = 77;

    public static TheoryData<bool, int> Ways =>
        new()
        {
            { false, 1 },
            { false, 3 },
            { true, 4 },
        };

    [Theory]
    [MemberData(nameof(Ways))]
    public async Task Whichever_request_fails_all_that_was_acknowledged_stays(bool isFull, int failures)
    {
        var count = await CountAsync();
        var failed = new HashSet<string>();
        // Every request of the story fails alone; of several in a row every third begins them.
        for (var at = 1; at <= count; at += failures == 1 ? 1 : 3)
        {
            using var folder = new StoreFolder(isInMemory: true);
            var files = new FaultyFiles
            {
                FailAt = at,
                FailFor = failures,
                IsFull = isFull,
            };
            var story = new StoreStory(Seed);
            if (TryOpen(folder, files) is { } opened)
            {
                using (opened)
                {
                    await story.PlayAsync(opened, Steps);
                    story.AssertKeptBy(opened);
                }
            }
            failed.UnionWith(files.Failed);
            using var again = folder.Open();
            story.AssertKeptBy(again);
            Assert.True(again.Maintenance.Verify().Damaged.Count == 0, $"Request {at} failed, and something is damaged.");
            again.Maintenance.RebuildIndex();
            story.AssertKeptBy(again);
        }
        Assert.Superset(new HashSet<string> { "write", "flush", "allocate", "create", "delete", "flush folder" }, failed);
    }

    /// <summary>How many requests the story makes when nothing fails.</summary>
    private static async Task<int> CountAsync()
    {
        using var folder = new StoreFolder(isInMemory: true);
        var files = new FaultyFiles();
        using (var store = folder.Open(files: files))
        {
            var story = new StoreStory(Seed);
            await story.PlayAsync(store, Steps);
            Assert.Empty(story.Failures);
            Assert.True(story.Kept > 5);
            Assert.True(folder.Segments.Length > 1);
        }
        return files.Asked;
    }

    private static ContentStore? TryOpen(StoreFolder folder, FaultyFiles files)
    {
        try
        {
            return folder.Open(files: files);
        }
        catch (IOException)
        {
            return null;
        }
    }

    [Fact]
    public async Task A_disk_that_is_full_for_good_refuses_saves_and_still_gives_everything_out()
    {
        using var folder = new StoreFolder(isInMemory: true);
        var files = new FaultyFiles { IsFull = true };
        using (var store = folder.Open(files: files))
        {
            var story = new StoreStory(3);
            await story.PlayAsync(store, 20);
            (files.FailAt, files.FailFor) = (files.Asked + 1, int.MaxValue / 2);
            var large = Samples.Noise(3_000_000, 9);
            await Assert.ThrowsAsync<StorageFullException>(() => store.PutAsync(large));
            story.AssertKeptBy(store);
            // Room was made.
            files.FailAt = 0;
            await store.PutAsync(large);
            store.Holds(large);
        }
    }

    [Fact]
    public async Task What_a_save_that_met_a_full_disk_had_filled_is_free_again()
    {
        using var folder = new StoreFolder(isInMemory: true);
        var files = new FaultyFiles { IsFull = true, IsOnlyFull = true };
        using var store = folder.Open(files: files);
        var kept = Samples.Noise(200_000, 1);
        await store.PutAsync(kept);
        // The disk is full from some segments on, and stays full.
        (files.FailAt, files.FailFor) = (files.Asked + 200, int.MaxValue / 2);
        await Assert.ThrowsAnyAsync<IOException>(() => store.PutAsync(Samples.Noise(30_000_000, 2)));
        var filled = store.Maintenance.SegmentBytes;
        Assert.InRange(filled, 1_000_000, 29_000_000);
        // What nothing needs can go where that takes no room.
        Assert.ThrowsAny<IOException>(() => store.Maintenance.Compact());
        Assert.InRange(store.Maintenance.SegmentBytes, 200_000, 800_000);
        store.Holds(kept);
        files.FailAt = 0;
        store.Maintenance.Compact();
        Assert.InRange(store.Maintenance.SegmentBytes, 200_000, 210_000);
        store.Holds(kept);
        Assert.True(store.Maintenance.Verify().IsSound);
    }
}
