using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Share;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>What is put away, deleted and discarded, and how it comes back.</summary>
public class GraceTests
{
    private static byte[] Picture(byte red) =>
        Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20, Red: red), new Samples.OraLayer("More", 3, 2));

    private static Task<List<string>> PathsOfAsync(StudioInUse studio, Piece piece) =>
        studio.Do(
            async (StudioDb db) =>
                (
                    await db
                        .Entries.Where(e => e.PieceId == piece.Id && e.DeletedAt == null)
                        .OrderBy(e => e.PathKey)
                        .Select(e => e.Path)
                        .ToListAsync()
                ).ConvertAll(p => p.Text)
        );

    private static Task<bool> IsThereAsync(StudioInUse studio, Piece piece) =>
        studio.Do(async (FindPiece d) => await d.DoAsync("TIDES", piece.CurrentName) is not null);

    [Fact]
    public async Task A_deleted_piece_is_nowhere_and_comes_back_as_it_was()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.VersionAsync(piece, Picture(9));
        (await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, piece.Id, new VersionNumber(1), "client round"))).Expect();
        var paths = await PathsOfAsync(studio, piece);
        Assert.Equal(4, paths.Count);

        (await studio.Do((Remove d) => d.PieceAsync(studio.Odo, piece.Id))).Expect();
        Assert.False(await IsThereAsync(studio, piece));
        Assert.Empty(await PathsOfAsync(studio, piece));
        Assert.IsType<Refusal.NoSuchPiece>((await studio.Do((KeepSave d) => d.DoAsync(studio.Ilse, piece.Id, null, null))).Refusal);
        Assert.IsType<Refusal.NoSuchPiece>((await studio.Do((Remove d) => d.PieceAsync(studio.Odo, piece.Id))).Refusal);

        // Its files come back with it, and not one by one.
        var entry = await studio.Do((StudioDb db) => db.Entries.FirstAsync(e => e.PieceId == piece.Id));
        Assert.IsType<Refusal.HoldsPieces>((await studio.Do((Tree.TendTree d) => d.RestoreAsync(studio.Ilse, entry.Id))).Refusal);

        (await studio.Do((Remove d) => d.TakeBackPieceAsync(studio.Ilse, piece.Id))).Expect();
        Assert.True(await IsThereAsync(studio, piece));
        Assert.Equal(paths, await PathsOfAsync(studio, piece));
        Assert.Equal(3, (await studio.VersionAsync(piece, Picture(10))).Number.Value);
    }

    [Fact]
    public async Task A_name_is_free_again_once_its_piece_is_deleted_and_the_old_one_does_not_push_in()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var old = await studio.BegunAsync();
        (await studio.Do((Remove d) => d.PieceAsync(studio.Ilse, old.Id))).Expect();
        var next = await studio.BegunAsync();
        Assert.Equal(old.CurrentName, next.CurrentName);
        Assert.IsType<Refusal.PieceIsThere>((await studio.Do((Remove d) => d.TakeBackPieceAsync(studio.Ilse, old.Id))).Refusal);
        (await studio.Do((RenamePiece d) => d.DoAsync(studio.Ilse, next.Id, "TIDES", StudioInUse.Called("Gull poster", "key")))).Expect();
        (await studio.Do((Remove d) => d.TakeBackPieceAsync(studio.Ilse, old.Id))).Expect();
        Assert.True(await IsThereAsync(studio, old));
    }

    [Fact]
    public async Task What_is_in_a_deleted_project_comes_back_with_it_and_not_alone()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var assets = await studio.Do((StudioDb db) => db.Entries.SingleAsync(e => e.PathKey == "assets"));
        (await studio.Do((Remove d) => d.ProjectAsync(studio.Ilse, studio.Project.Id))).Expect();

        Assert.IsType<Refusal.NoSuchProject>((await studio.Do((Tree.TendTree d) => d.RestoreAsync(studio.Ilse, assets.Id))).Refusal);

        (await studio.Do((Remove d) => d.TakeBackProjectAsync(studio.Ilse, studio.Project.Id))).Expect();
        Assert.Contains("assets", await studio.PathsAsync(EntryKind.Folder));
    }

    [Fact]
    public async Task Until_the_grace_period_ends_no_compaction_takes_what_was_deleted()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var gone = await studio.BegunAsync("Gone");
        var version = await studio.VersionAsync(gone, Picture(9));
        var stays = await studio.BegunAsync("Stays");
        await studio.TakeAsync(stays, Picture(1));
        var discarded = (await studio.TakeAsync(stays, Picture(2))).Save;
        await studio.SettledAsync();
        (await studio.Do((Remove d) => d.PieceAsync(studio.Ilse, gone.Id))).Expect();
        (await studio.Do((Remove d) => d.SaveAsync(studio.Ilse, stays.Id, discarded.Id))).Expect();
        var hash = await studio.Do(
            (StudioDb db) => db.Saves.IgnoreQueryFilters().Where(s => s.Id == version.SaveId).Select(s => s.MainHash).SingleAsync()
        );

        async Task RoundAsync(TimeSpan after)
        {
            studio.Time.Advance(after);
            await studio.Do((JobQueue d) => d.AddAsync([JobRequest.Store(JobKind.EndGrace), JobRequest.Store(JobKind.CompactStore)]));
            await studio.SettledAsync();
            Assert.DoesNotContain(await studio.JobsAsync(), j => j.State == JobState.Failed);
        }

        await RoundAsync(GracePeriod.Length - TimeSpan.FromHours(1));
        Assert.True(await studio.Do((ContentStore s) => Task.FromResult(s.Has(hash) && s.Has(discarded.MainHash))));
        (await studio.Do((Remove d) => d.TakeBackSaveAsync(studio.Ilse, discarded.Id))).Expect();
        (await studio.Do((Remove d) => d.TakeBackPieceAsync(studio.Ilse, gone.Id))).Expect();
        (await studio.Do((Remove d) => d.PieceAsync(studio.Ilse, gone.Id))).Expect();
        (await studio.Do((Remove d) => d.SaveAsync(studio.Ilse, stays.Id, discarded.Id))).Expect();

        // The grace period begins anew with it.
        await RoundAsync(TimeSpan.FromDays(2));
        Assert.True(await studio.Do((ContentStore s) => Task.FromResult(s.Has(hash) && s.Has(discarded.MainHash))));
        await RoundAsync(GracePeriod.Length);
        Assert.False(await studio.Do((ContentStore s) => Task.FromResult(s.Has(hash) || s.Has(discarded.MainHash))));
        Assert.Equal(0, await studio.Do((StudioDb db) => db.Saves.IgnoreQueryFilters().CountAsync(s => s.PieceId == gone.Id)));
        Assert.IsType<Refusal.NoSuchPiece>((await studio.Do((Remove d) => d.TakeBackPieceAsync(studio.Ilse, gone.Id))).Refusal);
        // What is still there is whole: what both held is kept.
        Assert.True(
            (await studio.Do((StudioDb db) => db.SaveFiles.ToListAsync())).All(f =>
                studio.Do((ContentStore s) => Task.FromResult(s.Has(f.Hash))).Result
            )
        );
        Assert.Equal(2, (await studio.VersionAsync(stays, Picture(3))).Number.Value);
    }

    [Fact]
    public async Task A_file_that_waited_on_the_share_is_held_as_long_as_it_can_be_taken_back()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var (path, content) = (ProjectPath.Parse("working/sketch.ora"), Picture(3));
        async Task RoundAsync(TimeSpan after)
        {
            studio.Time.Advance(after);
            await studio.Do((JobQueue d) => d.AddAsync([JobRequest.Store(JobKind.EndGrace), JobRequest.Store(JobKind.CompactStore)]));
            await studio.SettledAsync();
        }
        Task<bool> IsHeldAsync() => studio.Do((ContentStore s) => Task.FromResult(s.Has(ContentHash.Of(content))));

        (await studio.Do((ShareFiles d) => d.PutAsync(studio.Odo, studio.Project.Id, path, new MemoryStream(content)))).Expect();
        studio.Time.Advance(ShareTimes.Usual.Quiet * 2);
        await studio.Do(async (SettleShare d) => await d.RoundAsync());
        (await studio.Do((ShareFiles d) => d.DeleteAsync(studio.Ilse, studio.Project.Id, path))).Expect();
        Assert.Null(await studio.Do((StudioDb db) => new ShareTree(db, studio.Project.Id).FindAsync(path)));

        await RoundAsync(GracePeriod.Length - TimeSpan.FromHours(1));
        var gone = await studio.Do((StudioDb db) => db.SharedFiles.WithDeleted().SingleAsync());
        Assert.Equal((studio.Odo.PersonId, studio.Ilse.PersonId), (gone.ById, gone.DeletedById));
        (await studio.Do((ShareFiles d) => d.TakeBackAsync(studio.Ilse, gone.Id))).Expect();
        Assert.True(await IsHeldAsync());
        Assert.Single(await studio.Do((StudioDb db) => SettleShare.Waiting(db, studio.Project.Id).ToListAsync()));

        (await studio.Do((ShareFiles d) => d.DeleteAsync(studio.Ilse, studio.Project.Id, path))).Expect();
        await RoundAsync(GracePeriod.Length + TimeSpan.FromHours(1));
        Assert.Equal(0, await studio.Do((StudioDb db) => db.SharedFiles.WithDeleted().CountAsync()));
        await RoundAsync(TimeSpan.FromDays(2));
        Assert.False(await IsHeldAsync());
        Assert.IsType<Refusal.NoSuchEntry>((await studio.Do((ShareFiles d) => d.TakeBackAsync(studio.Ilse, gone.Id))).Refusal);
    }

    [Fact]
    public async Task What_deleting_frees_is_what_nothing_else_holds()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var noise = Samples.Noise(300_000, 7);
        var one = await studio.BegunAsync("One");
        var two = await studio.BegunAsync("Two");
        await studio.TakeAsync(one, noise, "a.lay");
        Task<long> FreesAsync(Piece piece) =>
            studio.Do(
                (StudioDb db) =>
                    studio.Do(
                        (ContentStore store) =>
                            GracePeriod.FreesAsync(db, store, db.Saves.IgnoreQueryFilters().Where(s => s.PieceId == piece.Id))
                    )
            );
        Assert.InRange(await FreesAsync(one), 300_000, 320_000);
        Assert.Equal(0, await FreesAsync(two));
        await studio.TakeAsync(two, noise, "a.lay");
        Assert.Equal(0, await FreesAsync(one));
    }

    [Fact]
    public async Task A_discarded_save_is_out_of_the_way_and_a_version_is_never_discarded()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        var loose = (await studio.TakeAsync(piece, Picture(9))).Save;
        Assert.Single(await studio.Do((StudioDb db) => db.Pieces.AtRisk().ToListAsync()));
        (await studio.Do((Remove d) => d.SaveAsync(studio.Ilse, piece.Id, loose.Id))).Expect();
        Assert.Empty(await studio.Do((StudioDb db) => db.Pieces.AtRisk().ToListAsync()));
        var first = await studio.Do((StudioDb db) => db.Saves.SingleAsync(s => s.PieceId == piece.Id));
        Assert.Equal(
            new Refusal.VersionStays(new(1)),
            (await studio.Do((Remove d) => d.SaveAsync(studio.Ilse, piece.Id, first.Id))).Refusal
        );
        // The same content coming again is a save like any other, and takes nothing on disk.
        var again = await studio.TakeAsync(piece, Picture(9));
        Assert.True(again.IsNew);
        Assert.Equal(0, again.Save.NewBytes);
        (await studio.Do((Remove d) => d.TakeBackSaveAsync(studio.Ilse, loose.Id))).Expect();
        Assert.Equal(3, await studio.Do((StudioDb db) => db.Saves.CountAsync(s => s.PieceId == piece.Id)));
    }

    [Fact]
    public async Task A_deleted_project_takes_its_pieces_along_and_brings_back_those_that_went_with_it()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var before = await studio.BegunAsync("Before");
        (await studio.Do((Remove d) => d.PieceAsync(studio.Ilse, before.Id))).Expect();
        studio.Time.Advance(TimeSpan.FromMinutes(1));
        var piece = await studio.BegunAsync();
        (await studio.Do((Remove d) => d.ProjectAsync(studio.Ilse, studio.Project.Id))).Expect();
        Assert.False(await IsThereAsync(studio, piece));
        Assert.IsType<Refusal.ProjectIsDeleted>((await studio.Do((Remove d) => d.TakeBackPieceAsync(studio.Ilse, piece.Id))).Refusal);
        Assert.Equal(
            new Refusal.ProjectCodeTaken("TIDES", "Tides", true),
            (await studio.Do((Projects.StartProject d) => d.DoAsync(studio.Ilse, new("TIDES", "Other", "Museum", "TIM", "print")))).Refusal
        );
        (await studio.Do((Remove d) => d.TakeBackProjectAsync(studio.Ilse, studio.Project.Id))).Expect();
        Assert.True(await IsThereAsync(studio, piece));
        Assert.False(await IsThereAsync(studio, before));
        Assert.Contains("working/TIM_moonpull-poster_key.ora", await studio.PathsAsync(EntryKind.CurrentFile));
    }

    [Fact]
    public async Task What_is_put_away_is_not_on_the_go_until_a_save_arrives_and_what_is_not_kept_is_not_put_away()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        var loose = (await studio.TakeAsync(piece, Picture(9))).Save;
        Assert.IsType<Refusal.NotAllKept>((await studio.Do((PutAway d) => d.PieceAsync(studio.Ilse, piece.Id, away: true))).Refusal);
        Assert.IsType<Refusal.NotAllKept>(
            (await studio.Do((PutAway d) => d.ProjectAsync(studio.Ilse, studio.Project.Id, away: true))).Refusal
        );
        await studio.KeepAsync(piece, loose.Id);
        (await studio.Do((PutAway d) => d.PieceAsync(studio.Ilse, piece.Id, away: true))).Expect();
        (await studio.Do((PutAway d) => d.ProjectAsync(studio.Ilse, studio.Project.Id, away: true))).Expect();
        Assert.Empty(await studio.Do((StudioDb db) => db.Pieces.OnTheGo().ToListAsync()));
        await studio.TakeAsync(piece, Picture(10));
        Assert.Single(await studio.Do((StudioDb db) => db.Pieces.OnTheGo().ToListAsync()));
    }

    [Fact]
    public async Task A_save_of_a_known_version_says_so_when_it_comes()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.VersionAsync(piece, Picture(9));
        await studio.VersionAsync(piece, Picture(10));
        var again = await studio.TakeAsync(piece, Picture(9));
        Assert.Equal((true, new VersionNumber(2), 0L), (again.IsNew, again.SameAs!.Value, again.Save.NewBytes!.Value));
        Assert.Empty(await studio.Do((StudioDb db) => db.Pieces.AtRisk().ToListAsync()));
    }
}
