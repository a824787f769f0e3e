using Chronotype.Content;
using Chronotype.Content.Segments;

namespace Chronotype.Content.Tests;

/// <summary>
/// The power goes, or the process is killed, at any moment and several times, and all that was acknowledged is there afterwards.
/// </summary>
public sealed class PowerLossTests
{
    private const int Lives = 80,
        Losses = 8;

    [Fact]
    public async Task What_was_acknowledged_survives_the_loss_of_power_at_any_moment()
    {
        var first = Environment.TickCount & 0xFFFFFF;
        var (kept, losses) = (0, 0);
        for (var seed = first; seed < first + Lives; seed++)
        {
            var random = new Random(seed);
            var story = new StoreStory(seed);
            var disk = new ForgetfulDisk();
            for (var loss = 0; loss < Losses; loss++)
            {
                // In the middle of anything: opening, keeping, dropping, compacting, writing the index, closing.
                disk.EndAfter(random.Next(1, 160), isPower: random.Next(3) > 0, random);
                try
                {
                    using var store = Open(disk);
                    if (loss > 0 && random.Next(2) == 0)
                        AssertWhole(store, story, seed);
                    await story.PlayAsync(store, 40, () => disk.IsDead);
                }
                catch (IOException) when (disk.IsDead)
                {
                    // It went while the store was being opened or looked at.
                }
                disk = disk.Afterwards(random);
                losses++;
            }
            using var last = Open(disk);
            AssertWhole(last, story, seed);
            last.Maintenance.RebuildIndex();
            AssertWhole(last, story, seed);
            kept += story.Kept;
        }
        Assert.Equal(Lives * Losses, losses);
        Assert.True(kept > Lives * 5, $"Only {kept} contents were acknowledged, too few to say anything.");
    }

    private static ContentStore Open(ForgetfulDisk disk) =>
        ContentStore.Open(disk, "/disk", null, new StoreSettings(FullBytes: StoreFolder.SegmentBytes));

    private static void AssertWhole(ContentStore store, StoreStory story, int seed)
    {
        story.AssertKeptBy(store);
        var found = store.Maintenance.Verify();
        Assert.True(
            found.Damaged.Count == 0 && found.IndexFault is null,
            $"Something is damaged after the power was lost (seed {seed}): {found.IndexFault}"
        );
    }
}
