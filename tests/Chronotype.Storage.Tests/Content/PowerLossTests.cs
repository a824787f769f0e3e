using Chronotype.Storage.Content;
using Chronotype.Storage.Content.Segments;

namespace Chronotype.Storage.Tests.Content;

/// <summary>The power goes at any moment, several times, and all that was acknowledged is there when it comes back.</summary>
public sealed class PowerLossTests
{
    private const int Lives = 60, Losses = 5;

    [Fact]
    public async Task What_was_acknowledged_survives_the_loss_of_power_at_any_moment()
    {
        var first = Environment.TickCount & 0xFFFFFF;
        var kept = 0;
        for (var seed = first; seed < first + Lives; seed++)
        {
            var random = new Random(seed);
            var story = new StoreStory(seed);
            var disk = new ForgetfulDisk();
            for (var loss = 0; loss < Losses; loss++)
            {
                using (var store = Open(disk))
                {
                    if (loss > 0) AssertWhole(store, story, seed);
                    var until = disk.Flushes + random.Next(1, 60);
                    await story.PlayAsync(store, 40, () => disk.Flushes >= until);
                    // Something is always on its way when the power goes.
                    _ = await store.StageAsync(new MemoryStream(StoreUse.Noise(random.Next(1, 90_000), random.Next())));
                    disk = disk.AfterPowerLoss(random);
                }
            }
            using var last = Open(disk);
            AssertWhole(last, story, seed);
            last.Care.RebuildIndex();
            AssertWhole(last, story, seed);
            kept += story.Kept;
        }
        Assert.True(kept > Lives * 5, $"Only {kept} contents were acknowledged, too few to say anything.");
    }

    private static ContentStore Open(ForgetfulDisk disk) => ContentStore.Open(disk, "/disk", null, new StoreSettings(FullBytes: StoreFolder.SegmentBytes));

    private static void AssertWhole(ContentStore store, StoreStory story, int seed)
    {
        story.AssertKeptBy(store);
        var found = store.Care.Verify();
        Assert.True(found.Damaged.Count == 0 && found.IndexFault is null, $"Something is damaged after the power was lost (seed {seed}): {found.IndexFault}");
    }
}
