using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Maintenance;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Studio.Tests;

/// <summary>The care of the content store, and what the studio says about it.</summary>
public class MaintenanceTests
{
    private static async Task<StoreCheck> VerifyAsync(StudioInUse studio)
    {
        (await studio.Do((MaintainStorage d) => d.AskAsync(studio.Ilse, JobKind.VerifyStore))).Expect();
        await studio.SettledAsync();
        Assert.Empty(await studio.JobsAsync());
        return await studio.Do((StudioDb db) => db.StoreChecks.Include(c => c.Damaged).OrderByDescending(c => c.Id).FirstAsync());
    }

    [Fact]
    public async Task What_projects_hold_alone_and_together_adds_up_to_what_is_needed()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var shared = Samples.Noise(300_000, 1);
        var first = await studio.PieceAsync();
        await studio.VersionAsync(first, [.. shared, .. Samples.Noise(400_000, 2)]);
        await studio.VersionAsync(first, [.. shared, .. Samples.Noise(400_000, 2), .. Samples.Noise(50_000, 3)]);
        var other = await studio.ProjectAsync("GULLS");
        var second = await studio.PieceAsync("Gull poster", other);
        await studio.VersionAsync(second, [.. shared, .. Samples.Noise(100_000, 4)]);

        var report = await ReportAsync(studio);
        Assert.Equal(["TIDES", "GULLS"], report.Projects.Select(p => p.Code));
        Assert.Equal(700_000 + 750_000 + 400_000, report.Plain);
        Assert.InRange(report.Projects[0].Holding.Alone, 400_000, 560_000);
        Assert.InRange(report.Projects[0].Holding.Shared, 200_000, 310_000);
        Assert.Equal(report.Projects[0].Holding.Shared, report.Projects[1].Holding.Shared);
        Assert.Equal(report.Stat.NeededBytes, report.Projects.Sum(p => p.Holding.Alone) + report.Projects[0].Holding.Shared);
        Assert.Equal(report.Plain, report.Growth[^1].Plain);
        Assert.Equal(report.Stat.NeededBytes, report.Growth[^1].OnDisk);
        Assert.Equal(report.At, (await ReportAsync(studio)).At);
        studio.Time.Advance(TimeSpan.FromMinutes(1));
        await studio.VersionAsync(second, Samples.Noise(10_000, 5), insist: true);
        Assert.Equal(report.Plain + 10_000, (await ReportAsync(studio)).Plain);
    }

    [Fact]
    public async Task Damage_is_recorded_with_the_files_that_it_touches_and_gone_when_a_copy_was_handed_in()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        byte[] content = Samples.Noise(500_000, 1),
            untouched = Samples.Noise(200_000, 2);
        await studio.VersionAsync(piece, content);
        await studio.VersionAsync(piece, untouched);
        Assert.Empty((await VerifyAsync(studio)).Damaged);

        studio.Damage(200_000);
        var check = await VerifyAsync(studio);
        var saves = await studio.SavesAsync(piece);
        var damage = Assert.Single(check.Damaged);
        Assert.Equal(saves[0].MainHash, damage.Hash);
        Assert.InRange(damage.UnreadableBytes!.Value, 1, 65_536);

        var stranger = (await studio.Do((RepairContent d) => d.DoAsync(studio.Ilse, new MemoryStream(Samples.Noise(5000, 9))))).Expect();
        Assert.Null(stranger.Name);
        var repaired = (await studio.Do((RepairContent d) => d.DoAsync(studio.Ilse, new MemoryStream(content)))).Expect();
        Assert.Equal(saves[0].ExactName, repaired.Name);
        Assert.InRange(repaired.Bytes, 1, 70_000);
        Assert.Empty((await VerifyAsync(studio)).Damaged);
        Assert.Equal(0, (await studio.Do((RepairContent d) => d.DoAsync(studio.Ilse, new MemoryStream(content)))).Expect().Bytes);
        // Nobody asked for the stranger's file to be kept.
        await studio.Do(
            (ContentStore store) =>
            {
                Assert.Equal(2, store.Maintenance.Contents().Count());
                return Task.CompletedTask;
            }
        );
    }

    [Fact]
    public async Task A_content_that_records_name_and_the_store_lacks_is_found_missing()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Samples.Noise(5000, 1));
        var hash = (await studio.SavesAsync(piece))[0].MainHash;
        await studio.Do((ContentStore store) => Task.FromResult(store.Drop(hash)));
        var missing = Assert.Single((await VerifyAsync(studio)).Damaged);
        Assert.Equal((hash, null), (missing.Hash, missing.UnreadableBytes));
        Assert.NotNull(
            (await studio.Do((RepairContent d) => d.DoAsync(studio.Ilse, new MemoryStream(Samples.Noise(5000, 1))))).Expect().Name
        );
        Assert.Empty((await VerifyAsync(studio)).Damaged);
    }

    [Fact]
    public async Task What_arrived_and_was_thrown_away_is_freed()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Samples.Noise(100_000, 1));
        await studio.Do(async (IContentStore store) => (await store.StageAsync(new MemoryStream(Samples.Noise(900_000, 2)))).Dispose());
        (await studio.Do((MaintainStorage d) => d.AskAsync(studio.Ilse, JobKind.CompactStore))).Expect();
        await studio.SettledAsync();
        Assert.InRange(RecordJson.Read<Compacted>(Assert.Single(await studio.JobsAsync()).Result!).Freed, 880_000, 940_000);
        Assert.InRange((await ReportAsync(studio)).Stat.SegmentBytes, 100_000, 120_000);
        Assert.Equal(Samples.Noise(100_000, 1), await studio.Do((IContentStore store) => ReadAsync(store, studio, piece)));
    }

    [Fact]
    public async Task A_sample_is_verified_once_a_day_by_itself()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await studio.VersionAsync(await studio.PieceAsync(), Samples.Noise(100_000, 1));
        await studio.Do(
            async (IServiceProvider services) =>
            {
                using var rounds = ActivatorUtilities.CreateInstance<StoreRounds>(services);
                await rounds.StartAsync(default);
                for (var hour = 0; hour < 1000 && await CountAsync(studio) < 3; hour++)
                {
                    studio.Time.Advance(TimeSpan.FromHours(1));
                    await Task.Delay(10);
                    await studio.SettledAsync();
                }
                await rounds.StopAsync(default);
            }
        );
        var checks = (await studio.Do((StudioDb db) => db.StoreChecks.ToListAsync())).OrderBy(c => c.EndedAt).ToList();
        Assert.Equal(3, checks.Count);
        Assert.All(checks, c => Assert.True(c is { Share: VerifyStore.SampleShare, DamagedPlaces: 0, IndexFault: null }));
        for (var i = 1; i < checks.Count; i++)
            Assert.True(checks[i].StartedAt - checks[i - 1].EndedAt >= TimeSpan.FromHours(24));
    }

    private static async Task<StorageReport> ReportAsync(StudioInUse studio)
    {
        var (report, isPresent, _) = await studio.Do((StorageReports r) => r.LatestAsync());
        Assert.True(isPresent);
        return report!;
    }

    private static Task<int> CountAsync(StudioInUse studio) => studio.Do((StudioDb db) => db.StoreChecks.CountAsync());

    private static async Task<byte[]> ReadAsync(IContentStore store, StudioInUse studio, Piece piece)
    {
        using var memory = new MemoryStream();
        await using var stream = store.OpenRead((await studio.SavesAsync(piece))[0].MainHash);
        await stream.CopyToAsync(memory);
        return memory.ToArray();
    }
}
