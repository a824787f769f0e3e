using Chronotype.Content;
using Chronotype.Content.Tiers;
using Chronotype.Core.Content;

namespace Chronotype.Content.Tests;

/// <summary>All that holds for a store on the local disk, with its full segments in an object store.</summary>
public sealed class ShelvedContentStoreTests : ContentStoreTests
{
    private readonly PlayedObjectStore objects = PlayedObjectStore.StartAsync().GetAwaiter().GetResult();

    private protected override ISegmentTier? Tier => objects.Tier();

    public override void Dispose()
    {
        base.Dispose();
        objects.DisposeAsync().AsTask().GetAwaiter().GetResult();
    }
}

/// <summary>What only a store with segments elsewhere can meet.</summary>
public sealed class ObjectTierTests : IAsyncLifetime
{
    private readonly StoreFolder folder = new();
    private PlayedObjectStore objects = null!;

    public async Task InitializeAsync() => objects = await PlayedObjectStore.StartAsync();

    public async Task DisposeAsync()
    {
        folder.Dispose();
        await objects.DisposeAsync();
    }

    [Fact]
    public async Task Full_segments_move_away_and_are_read_back_from_there()
    {
        var contents = Enumerable.Range(0, 10).Select(i => Samples.Noise(250_000, i)).ToList();
        using (var store = folder.Open(objects.Tier()))
        {
            foreach (var content in contents)
                await store.PutAsync(content);
            foreach (var content in contents)
                store.Holds(content);
        }
        Assert.True(objects.Objects.Count >= 7);
        Assert.True(folder.Segments.Length <= 1, "Only the segment that is not full yet stays here.");
        // Another machine that has nothing but the bucket, and what was not full yet.
        Directory.Delete(Path.Combine(folder.Path, "index"), recursive: true);
        using var again = folder.Open(objects.Tier());
        foreach (var content in contents)
            again.Holds(content);
        Assert.True(again.Maintenance.Verify().IsSound);
    }

    [Fact]
    public async Task A_range_asks_for_little()
    {
        using var store = folder.Open(objects.Tier());
        var content = Samples.Noise(8_000_000, 1);
        var hash = await store.PutAsync(content);
        var before = objects.Reads;
        using var stream = store.OpenRead(hash);
        stream.Position = 4_000_000;
        var part = new byte[100_000];
        stream.ReadExactly(part);
        Assert.Equal(content[4_000_000..4_100_000], part);
        Assert.InRange(objects.Reads - before, 1, 8);
    }

    [Fact]
    public async Task While_the_object_store_is_away_saves_stay_here_and_move_when_it_is_back()
    {
        var contents = Enumerable.Range(0, 6).Select(i => Samples.Noise(250_000, i)).ToList();
        using (var store = folder.Open(objects.Tier()))
        {
            objects.IsDown = true;
            foreach (var content in contents)
                await store.PutAsync(content);
            foreach (var content in contents)
                store.Holds(content);
            Assert.Empty(objects.Objects);
            objects.IsDown = false;
            await store.PutAsync(Samples.Noise(400_000, 50));
        }
        Assert.True(objects.Objects.Count >= 5);
        objects.IsDown = true;
        Assert.Contains("did not answer", Assert.ThrowsAny<IOException>(() => folder.Open(objects.Tier())).Message);
        objects.IsDown = false;
        objects.Failing = 2;
        using var again = folder.Open(objects.Tier());
        foreach (var content in contents)
            again.Holds(content);
    }

    [Fact]
    public async Task What_is_damaged_there_is_found_and_not_served()
    {
        var content = Samples.Noise(900_000, 1);
        using (var store = folder.Open(objects.Tier()))
            await store.PutAsync(content);
        var name = objects.Objects.Keys.Order(StringComparer.Ordinal).First();
        objects.Objects[name][150_000] ^= 4;
        using var again = folder.Open(objects.Tier());
        Assert.Throws<DamagedContentException>(() => again.Get(ContentHash.Of(content)));
        Assert.Equal(ContentHash.Of(content), Assert.Single(again.Maintenance.Verify().Damaged).Hash);
        await again.RepairAsync(new MemoryStream(content));
        again.Holds(content);
    }

    [Theory]
    [InlineData("""{"segmentMegabytes": 0}""", "from 1 to 1024")]
    [InlineData("""{"shelf": {"endpoint": "https://objects.example"}}""", "bucket")]
    [InlineData("""{"shelf": {"bucket": "a", "endpoint": "somewhere"}}""", "endpoint")]
    [InlineData("""{"shelves": {}}""", "shelves")]
    [InlineData("""{"segmentMegabytes": """, "store.json")]
    public void A_configuration_that_cannot_be_used_is_said_and_nothing_is_opened(string text, string said)
    {
        File.WriteAllText(Path.Combine(folder.Path, "store.json"), text);
        Assert.Contains(said, Assert.Throws<StoreConfigurationException>(() => ContentStore.Open(folder.Path)).Message);
        Assert.False(Directory.Exists(Path.Combine(folder.Path, "segments")));
    }
}
