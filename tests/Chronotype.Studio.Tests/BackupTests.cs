using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Backup;
using Chronotype.Storage.Mirror;
using Chronotype.Storage.Starting;
using Chronotype.Studio.Deeds;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging.Abstractions;

namespace Chronotype.Studio.Tests;

/// <summary>A backup of a studio that people work in, and the studio that is made of it again.</summary>
public sealed class BackupTests : IDisposable
{
    private readonly StudioFolder folder = new();

    private string Copy => Path.Combine(folder.Path, "copy");

    public void Dispose() => folder.Dispose();

    private static async Task<int> StartAndReadAllAsync(string root)
    {
        using var data = new DataFolder(root);
        using var store = ContentStore.Open(data.Content);
        var mirror = new RecordMirror(data, store);
        await new StudioStart(data, store, mirror, TimeProvider.System, NullLogger<StudioStart>.Instance).RunAsync();
        await using var db = new StudioDb(
            new DbContextOptionsBuilder<StudioDb>().UseSqlite($"Data Source={data.Database};Pooling=False").Options
        )
        {
            Sees = null,
        };
        var files = await db.SaveFiles.ToListAsync();
        foreach (var file in files)
        {
            using var content = store.OpenRead(file.Hash);
            var bytes = new byte[content.Length];
            content.ReadExactly(bytes);
            Assert.Equal(file.Hash, ContentHash.Of(bytes));
        }
        Assert.True(store.Maintenance.Verify().IsSound);
        SqliteConnection.ClearAllPools();
        return await db.Saves.CountAsync();
    }

    [Fact]
    public async Task A_backup_that_is_made_while_people_save_is_a_studio_again_when_it_is_copied_back()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        for (var i = 0; i < 3; i++)
            await studio.VersionAsync(piece, Samples.Noise(300_000, i), "a.lay");
        using var stop = new CancellationTokenSource();
        var saving = Task.Run(async () =>
        {
            for (var i = 100; !stop.IsCancellationRequested; i++)
                await studio.TakeAsync(piece, Samples.Noise(40_000, i), "a.lay");
        });
        var known = 3;
        for (var round = 0; round < 3; round++)
        {
            known = (await studio.SavesAsync(piece)).Count;
            new StudioBackup(studio.DataFolder, Copy, TimeProvider.System).Run();
        }
        await stop.CancelAsync();
        await saving;
        var restored = Path.Combine(folder.Path, "restored");
        Directory.Move(Copy, restored);
        Assert.True(await StartAndReadAllAsync(restored) >= known);
        // Started again, it is a studio like any other.
        Assert.False(File.Exists(Path.Combine(restored, BackupRecord.InCopy)));
        await StartAndReadAllAsync(restored);
    }

    [Fact]
    public async Task What_is_there_from_the_last_time_is_not_copied_again_and_a_stop_half_way_loses_nothing()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        // More than a segment.
        await studio.VersionAsync(piece, Samples.Noise(70_000_000, 1), "a.lay");
        var first = new StudioBackup(studio.DataFolder, Copy, TimeProvider.System).Run();
        Assert.InRange(first.Copied, 70_000_000, 75_000_000);
        Assert.Equal(first, BackupRecord.Read(Path.Combine(studio.DataFolder, BackupRecord.InStudio)));

        await studio.VersionAsync(piece, Samples.Noise(3_000_000, 2), "a.lay", insist: true);
        using var stop = new CancellationTokenSource();
        Assert.ThrowsAny<OperationCanceledException>(() =>
            new StudioBackup(studio.DataFolder, Copy, TimeProvider.System).Run(new StopAt(stop), stop.Token)
        );
        // The copy from before is whole all the same.
        using (var store = ContentStore.OpenReadOnly(Path.Combine(Copy, "content")))
            Assert.Empty(NamedContents.Touched(Path.Combine(Copy, "studio.db"), store, store.Maintenance.Verify()));
        Assert.InRange(new StudioBackup(studio.DataFolder, Copy, TimeProvider.System).Run().Copied, 3_000_000, 15_000_000);
        using (var store = ContentStore.OpenReadOnly(Path.Combine(Copy, "content")))
        {
            Assert.True(store.Has(ContentHash.Of(Samples.Noise(3_000_000, 2))));
            Assert.Empty(NamedContents.Touched(Path.Combine(Copy, "studio.db"), store, store.Maintenance.Verify()));
        }
    }

    [Fact]
    public async Task Another_studios_backup_is_refused_and_one_of_the_same_that_was_moved_goes_on()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await using var other = await StudioInUse.OpenAsync();
        new StudioBackup(studio.DataFolder, Copy, TimeProvider.System).Run();
        Assert.Throws<StudioUnusableException>(() => new StudioBackup(other.DataFolder, Copy, TimeProvider.System).Run());
        var record = BackupRecord.Read(Path.Combine(Copy, BackupRecord.InCopy))!;
        File.WriteAllBytes(Path.Combine(Copy, BackupRecord.InCopy), (record with { From = "/where/it/was" }).Write());
        Assert.Equal(studio.DataFolder, new StudioBackup(studio.DataFolder, Copy, TimeProvider.System).Run().From);
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task What_the_studio_has_lost_since_stays_in_the_copy(bool isGone)
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Samples.Noise(70_000_000, 1), "a.lay");
        new StudioBackup(studio.DataFolder, Copy, TimeProvider.System).Run();
        var segment = Directory.GetFiles(Path.Combine(studio.DataFolder, "content", "segments")).Order().First();
        if (isGone)
            File.Delete(segment);
        else
            using (var cut = new FileStream(segment, FileMode.Open, FileAccess.Write, FileShare.ReadWrite))
                cut.SetLength(1000);
        var backup = new StudioBackup(studio.DataFolder, Copy, TimeProvider.System);
        backup.Run();
        Assert.Equal([Path.GetFileName(segment)], backup.Lost);
        using var store = ContentStore.OpenReadOnly(Path.Combine(Copy, "content"));
        var found = store.Maintenance.Verify();
        Assert.True(found.IsSound);
        Assert.Empty(NamedContents.Touched(Path.Combine(Copy, "studio.db"), store, found));
    }

    private sealed class StopAt(CancellationTokenSource stop) : IProgress<StoreProgress>
    {
        public void Report(StoreProgress value) => stop.Cancel();
    }

    [Fact]
    public async Task A_copy_that_lacks_a_segment_is_said_to_with_the_versions_that_it_touches()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        var kept = await studio.VersionAsync(piece, Samples.Noise(300_000, 1), "a.lay");
        new StudioBackup(studio.DataFolder, Copy, TimeProvider.System).Run();
        File.Delete(Directory.GetFiles(Path.Combine(Copy, "content", "segments")).Single());
        using var store = ContentStore.OpenReadOnly(Path.Combine(Copy, "content"));
        var found = store.Maintenance.Verify();
        Assert.False(found.IsSound);
        Assert.Equal("the segment is missing", Assert.Single(found.Places).What);
        var touched = Assert.Single(NamedContents.Touched(Path.Combine(Copy, "studio.db"), store, found));
        Assert.Equal((kept.ExactName, 1, "TIDES"), (touched.Name, touched.Number, touched.Project));
    }

    [Theory]
    [InlineData("")]
    [InlineData("inner")]
    [InlineData("full of other things")]
    public async Task A_place_that_is_none_for_a_backup_is_refused_and_left_as_it_is(string where)
    {
        await using var studio = await StudioInUse.OpenAsync();
        var target = where.StartsWith("full", StringComparison.Ordinal) ? folder.Path : Path.Combine(studio.DataFolder, where);
        File.WriteAllText(Path.Combine(folder.Path, "letter.txt"), "dear");
        Assert.Throws<StudioUnusableException>(() => new StudioBackup(studio.DataFolder, target, TimeProvider.System).Run());
        Assert.Equal(["letter.txt"], Directory.GetFiles(folder.Path).Select(Path.GetFileName));
    }
}
