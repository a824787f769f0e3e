using Chronotype.Content;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>A project's tree: what stands where by its folder's role, and the deeds that change it.</summary>
public class TreeTests
{
    private static ProjectPath P(string path) => ProjectPath.Parse(path);

    private static Task<Outcome<PlacedFile>> DropAsync(StudioInUse studio, string? folder, string name, string text) =>
        studio.Do(
            (TendFiles d) =>
                d.ReceiveAsync(
                    studio.Ilse,
                    studio.Project.Id,
                    folder is null ? null : P(folder),
                    new ArrivingContent(name, new MemoryStream(System.Text.Encoding.UTF8.GetBytes(text)))
                )
        );

    private static Task<Outcome<TreeEntry>> MoveAsync(StudioInUse studio, TreeEntry entry, string to) =>
        studio.Do((TendTree d) => d.MoveAsync(studio.Ilse, entry.Id, P(to)));

    private static Task<TreeEntry> FindAsync(StudioInUse studio, string path) =>
        studio.Do(
            (StudioDb db) =>
                db.Entries.SingleAsync(e => e.ProjectId == studio.Project.Id && e.PathKey == P(path).Key && e.DeletedAt == null)
        );

    private static async Task<string> TextAsync(StudioInUse studio, ContentHash hash) =>
        await studio.Do(
            async (IContentStore store) =>
            {
                using var reader = new StreamReader(store.OpenRead(hash));
                return await reader.ReadToEndAsync();
            }
        );

    [Fact]
    public async Task A_pieces_files_stand_where_the_projects_folders_say()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.VersionAsync(
            piece,
            Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20), new Samples.OraLayer("Other", 9, 2))
        );
        (await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, piece.Id, new VersionNumber(1), "client round"))).Expect();
        Assert.Equal(["working/TIM_moonpull-poster_key.ora"], await studio.PathsAsync(EntryKind.CurrentFile));
        Assert.Equal(
            ["working/versions/TIM_moonpull-poster_key_IK_001.ora", "working/versions/TIM_moonpull-poster_key_IK_002.ora"],
            await studio.PathsAsync(EntryKind.Version)
        );
        Assert.Equal(["working/milestones/TIM_moonpull-poster_key_M01.ora"], await studio.PathsAsync(EntryKind.MilestoneCopy));

        // What the folders are for is read from the project: versions go where its folder of versions is now.
        (await MoveAsync(studio, await FindAsync(studio, "working/versions"), "working/numbered")).Expect();
        await studio.VersionAsync(
            piece,
            Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20), new Samples.OraLayer("Third", 9, 2))
        );
        Assert.Equal(
            3,
            (await studio.PathsAsync(EntryKind.Version)).Count(p => p.StartsWith("working/numbered/", StringComparison.Ordinal))
        );
    }

    [Fact]
    public async Task An_original_is_never_changed_and_a_second_of_its_name_stands_beside_it()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var first = (await DropAsync(studio, "originals", "letter.txt", "as received")).Expect();
        Assert.Equal((true, FolderRole.Originals), (first.IsNew, first.Entry.Role));
        Assert.False((await DropAsync(studio, "originals", "letter.txt", "as received")).Expect().IsNew);
        var second = (await DropAsync(studio, "originals", "LETTER.txt", "another")).Expect();
        Assert.Equal("originals/LETTER (2).txt", second.Entry.Path.Text);
        Assert.Equal("as received", await TextAsync(studio, first.Content.Hash));
        Assert.IsType<Refusal.NeverChanged>((await studio.Do((TendFiles d) => d.BringBackAsync(studio.Ilse, first.Entry.Id, 1))).Refusal);
    }

    [Fact]
    public async Task What_was_refused_is_not_held_but_for_what_others_need()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var original = (await DropAsync(studio, "originals", "letter.txt", "as received")).Expect().Entry;
        (await DropAsync(studio, "assets", "note.txt", "needed elsewhere")).Expect();
        foreach (var (text, isHeld) in new[] { ("nobody else has this", false), ("needed elsewhere", true) })
        {
            var bytes = System.Text.Encoding.UTF8.GetBytes(text);
            Assert.NotNull((await SendAsync(original.Id, bytes)).Refusal);
            Assert.Equal(isHeld, await HasAsync(bytes));
        }
        // And what is refused while another is about to be recorded with the same content.
        var store = await studio.Do((IContentStore s) => Task.FromResult(s));
        using var staged = await store.StageAsync(new MemoryStream([7, 7, 7]));
        await store.CommitAsync([staged]);
        Assert.NotNull((await SendAsync(original.Id, [7, 7, 7])).Refusal);
        Assert.True(await HasAsync([7, 7, 7]));

        Task<Outcome<PlacedFile>> SendAsync(Guid replaces, byte[] bytes) =>
            studio.Do(
                (TendFiles d) =>
                    d.ReceiveAsync(
                        studio.Ilse,
                        studio.Project.Id,
                        P("originals"),
                        new ArrivingContent("letter.txt", new MemoryStream(bytes)),
                        replaces
                    )
            );

        Task<bool> HasAsync(byte[] bytes) => studio.Do((ContentStore s) => Task.FromResult(s.Has(ContentHash.Of(bytes))));
    }

    [Fact]
    public async Task An_asset_is_given_other_content_and_every_earlier_one_stays()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var entry = (await DropAsync(studio, "assets", "palette.txt", "blue")).Expect().Entry;
        Assert.Equal(
            (false, 2),
            ((await DropAsync(studio, "assets", "palette.txt", "green")).Expect() is var next && next.IsNew, next.Content.Sequence)
        );
        Assert.Equal(2, (await DropAsync(studio, "assets", "Palette.TXT", "green")).Expect().Content.Sequence);
        Assert.Equal(
            (3, 1),
            (
                (await studio.Do((TendFiles d) => d.BringBackAsync(studio.Odo, entry.Id, 1))).Expect() is var back ? back.Sequence : 0,
                back.BroughtBackFrom
            )
        );
        var past = await studio.Do(
            (StudioDb db) => db.FileContents.Where(c => c.EntryId == entry.Id).OrderBy(c => c.Sequence).ToListAsync()
        );
        Assert.Equal(["blue", "green", "blue"], await Task.WhenAll(past.Select(c => TextAsync(studio, c.Hash))));
        Assert.Equal([studio.Ilse.PersonId, studio.Ilse.PersonId, studio.Odo.PersonId], past.Select(c => c.ById));
        // All of it is held: nothing of it is let go, however long ago it was replaced.
        studio.Time.Advance(TimeSpan.FromDays(90));
        Assert.Equal(0, await studio.Do((HeldContent h) => h.DropUnheldAsync()));
    }

    [Fact]
    public async Task In_a_working_folder_there_are_only_pieces()
    {
        await using var studio = await StudioInUse.OpenAsync();
        Assert.IsType<Refusal.WorkingFolder>((await DropAsync(studio, "working", "a.txt", "x")).Refusal);
        Assert.IsType<Refusal.WorkingFolder>((await DropAsync(studio, "working/new", "a.txt", "x")).Refusal);
        // A folder that is not there yet is made, of the role of what is around; where a file stands there is none.
        Assert.Equal(FolderRole.Assets, (await DropAsync(studio, "assets/new/deep", "a.txt", "x")).Expect().Entry.Role);
        Assert.IsType<Refusal.NoSuchFolder>((await DropAsync(studio, "assets/new/deep/a.txt", "a.txt", "x")).Refusal);
        var file = (await DropAsync(studio, "documents", "a.txt", "x")).Expect().Entry;
        Assert.IsType<Refusal.WorkingFolder>((await MoveAsync(studio, file, "working/a.txt")).Refusal);
        var piece = await studio.BegunAsync();
        var current = await FindAsync(studio, $"working/{piece.CurrentName}.ora");
        Assert.IsType<Refusal.OnlyInWorkingFolder>((await MoveAsync(studio, current, $"assets/{piece.CurrentName}.ora")).Refusal);
        Assert.IsType<Refusal.NamedByConvention>((await MoveAsync(studio, current, "working/other.ora")).Refusal);
        Assert.IsType<Refusal.HoldsPieces>((await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, current.Id))).Refusal);
        Assert.IsType<Refusal.HoldsPieces>(
            (await studio.Do(async (TendTree d) => await d.DeleteAsync(studio.Ilse, (await FindAsync(studio, "working")).Id))).Refusal
        );
    }

    [Fact]
    public async Task A_folder_moves_with_all_that_is_in_it_and_never_into_itself()
    {
        await using var studio = await StudioInUse.OpenAsync();
        (await studio.Do((TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, P("assets/sea")))).Expect();
        (await studio.Do((TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, P("assets/sea/deep%_")))).Expect();
        await DropAsync(studio, "assets/sea/deep%_", "kelp.txt", "green");
        await DropAsync(studio, "assets", "seagull.txt", "white");
        var sea = await FindAsync(studio, "assets/sea");
        Assert.IsType<Refusal.IntoItself>((await MoveAsync(studio, sea, "assets/sea/deep%_/sea")).Refusal);
        Assert.IsType<Refusal.PathTaken>((await MoveAsync(studio, sea, "assets/seagull.txt")).Refusal);
        Assert.IsType<Refusal.NoSuchFolder>((await MoveAsync(studio, sea, "nowhere/sea")).Refusal);
        // A change of case alone is a move to the same place.
        (await MoveAsync(studio, sea, "assets/Sea")).Expect();
        (await MoveAsync(studio, sea, "documents/water")).Expect();
        Assert.Equal(["assets/seagull.txt", "documents/water/deep%_/kelp.txt"], await studio.PathsAsync(EntryKind.OwnFile));
        Assert.IsType<Refusal.PathTaken>(
            (await studio.Do((TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, P("DOCUMENTS/Water")))).Refusal
        );
    }

    [Fact]
    public async Task What_is_deleted_comes_back_with_its_past_also_where_its_place_was_taken()
    {
        await using var studio = await StudioInUse.OpenAsync();
        (await studio.Do((TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, P("assets/sea")))).Expect();
        await DropAsync(studio, "assets/sea", "kelp.txt", "green");
        await DropAsync(studio, "assets/sea", "kelp.txt", "brown");
        var sea = await FindAsync(studio, "assets/sea");
        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, sea.Id))).Expect();
        Assert.Empty(await studio.PathsAsync(EntryKind.OwnFile));
        (await studio.Do((TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, P("assets/sea")))).Expect();
        (await studio.Do((TendTree d) => d.RestoreAsync(studio.Odo, sea.Id))).Expect();
        Assert.Equal(["assets/sea (2)/kelp.txt"], await studio.PathsAsync(EntryKind.OwnFile));
        var kelp = await FindAsync(studio, "assets/sea (2)/kelp.txt");
        Assert.Equal(2, await studio.Do((StudioDb db) => db.FileContents.CountAsync(c => c.EntryId == kelp.Id)));
        Assert.IsType<Refusal.NoSuchEntry>((await studio.Do((TendTree d) => d.RestoreAsync(studio.Odo, sea.Id))).Refusal);

        // The folder that it stood in is gone by then.
        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, kelp.Id))).Expect();
        studio.Time.Advance(TimeSpan.FromSeconds(1));
        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, sea.Id))).Expect();
        (await studio.Do((TendTree d) => d.RestoreAsync(studio.Ilse, kelp.Id))).Expect();
        Assert.Equal(["assets/sea (2)/kelp.txt"], await studio.PathsAsync(EntryKind.OwnFile));
    }

    [Fact]
    public async Task Many_who_drop_one_name_at_once_each_get_a_place_of_their_own()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await Task.WhenAll(Enumerable.Range(0, 6).Select(i => Task.Run(() => DropAsync(studio, "originals", "take.txt", $"take {i}"))));
        Assert.Equal(6, (await studio.PathsAsync(EntryKind.OwnFile)).Distinct().Count());
    }

    [Fact]
    public async Task Several_are_moved_as_a_whole_or_not_at_all_and_all_of_it_is_given_back()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var a = (await DropAsync(studio, "assets/set/deep", "a.txt", "a")).Expect().Entry;
        var b = (await DropAsync(studio, "assets/set", "b.txt", "b")).Expect().Entry;
        var set = await FindAsync(studio, "assets/set");
        studio.Time.Advance(TimeSpan.FromMinutes(1));

        Task<Outcome<MovedEntries>> Move(params (Guid, ProjectPath)[] moves) => studio.Do((TendTree d) => d.MoveAsync(studio.Ilse, moves));

        Assert.IsType<Refusal.PathTaken>((await Move((a.Id, P("assets/set/x.txt")), (b.Id, P("assets/set/X.txt")))).Refusal);
        Assert.IsType<Refusal.IntoItself>((await Move((b.Id, P("assets/b.txt")), (set.Id, P("assets/set/deep/set")))).Refusal);
        Assert.IsType<Refusal.NoSuchFolder>((await Move((b.Id, P("none/b.txt")))).Refusal);
        Assert.IsType<Refusal.WorkingFolder>((await Move((b.Id, P("working/b.txt")))).Refusal);
        Assert.IsType<Refusal.FileNameNotLegal>((await Move((b.Id, P("assets/a:b.txt")))).Refusal);
        Assert.Equal("assets/set/b.txt", (await FindAsync(studio, "assets/set/b.txt")).Path.Text);

        // They change places and names at once, in a folder that is moved itself.
        var moved = (
            await Move((set.Id, P("documents/papers")), (a.Id, P("documents/papers/b.txt")), (b.Id, P("documents/papers/deep/a.txt")))
        ).Expect();
        Assert.Equal(a.Id, (await FindAsync(studio, "documents/papers/b.txt")).Id);
        Assert.Equal(b.Id, (await FindAsync(studio, "documents/papers/deep/a.txt")).Id);
        studio.Time.Advance(TimeSpan.FromMinutes(1));
        (await studio.Do((TendTree d) => d.MoveBackAsync(studio.Odo, studio.Project.Id, moved.At))).Expect();
        Assert.Equal(
            ["assets/set/b.txt", "assets/set/deep/a.txt"],
            (await studio.PathsAsync(EntryKind.OwnFile)).Order(StringComparer.Ordinal)
        );
    }

    [Fact]
    public async Task Two_who_move_the_same_file_at_once_do_it_one_after_the_other()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var file = (await DropAsync(studio, "assets", "a.txt", "a")).Expect().Entry;

        var both = await Task.WhenAll(
            MoveAsync(studio, file, "documents/a.txt"),
            studio.Do((TendTree d) => d.MoveAsync(studio.Odo, file.Id, P("assets/b.txt")))
        );

        Assert.All(both, o => Assert.True(o.Done));
        Assert.Contains(Assert.Single(await studio.PathsAsync(EntryKind.OwnFile)), (string[])["documents/a.txt", "assets/b.txt"]);
    }

    [Fact]
    public async Task A_piece_begins_with_a_copy_of_an_original_and_remembers_it()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var original = (await DropAsync(studio, "originals", "script.txt", "as received")).Expect().Entry;

        var started = (
            await studio.Do(
                (StartFrom d) => d.OriginalAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called("Script", "layout"), original.Id)
            )
        ).Expect();

        var piece = await studio.Do((StudioDb db) => db.Pieces.SingleAsync(p => p.Id == started.Piece.Id));
        Assert.Equal((original.Id, ".txt"), (piece.FromEntryId!.Value, piece.Extension));
        var save = Assert.Single(await studio.SavesAsync(piece));
        Assert.Equal((1, ContentHash.Of("as received"u8)), (save.Number!.Value, save.MainHash));
        Assert.Equal(
            "as received",
            await TextAsync(
                studio,
                (await FindAsync(studio, "originals/script.txt")).Id is var id
                    ? (await studio.Do((StudioDb db) => db.FileContents.SingleAsync(c => c.EntryId == id))).Hash
                    : default
            )
        );
        Assert.Equal(piece.Id, (await studio.Do((WhoUses w) => w.OfAsync(original))).Started.Single().PieceId);
    }

    [Fact]
    public async Task A_file_that_was_deleted_goes_when_its_grace_ends_and_not_before()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var file = (await DropAsync(studio, "assets/set", "a.txt", "a")).Expect().Entry;
        var set = await FindAsync(studio, "assets/set");
        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, [set.Id, file.Id]))).Expect();

        async Task<int> EndAsync()
        {
            await studio.Do((Jobs.JobQueue q) => q.AddAsync([Jobs.JobRequest.Store(JobKind.EndGrace, JobPriority.Follows)]));
            await studio.SettledAsync();
            return await studio.Do((StudioDb db) => db.Entries.CountAsync(e => e.Id == file.Id || e.Id == set.Id));
        }
        studio.Time.Advance(Grace.GracePeriod.Length - TimeSpan.FromMinutes(1));
        Assert.Equal(2, await EndAsync());
        (await studio.Do((TendTree d) => d.RestoreAsync(studio.Ilse, [set.Id, file.Id]))).Expect();
        Assert.Equal(["assets/set/a.txt"], await studio.PathsAsync(EntryKind.OwnFile));
        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, [set.Id]))).Expect();
        studio.Time.Advance(Grace.GracePeriod.Length + TimeSpan.FromMinutes(1));
        Assert.Equal(0, await EndAsync());
    }

    [Fact]
    public async Task Companions_go_where_their_file_goes()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var moon = (await DropAsync(studio, "assets", "moon.tif", "a")).Expect().Entry;
        (await DropAsync(studio, "assets", "moon.tif.xmp", "b")).Expect();
        (await DropAsync(studio, "assets", "moon.srt", "c")).Expect();
        (await DropAsync(studio, "assets", "other.xmp", "d")).Expect();
        studio.Time.Advance(TimeSpan.FromMinutes(1));

        var moved = (await studio.Do((TendTree d) => d.MoveAsync(studio.Ilse, [(moon.Id, P("documents/disc.tif"))]))).Expect();

        Assert.Equal(
            ["assets/other.xmp", "documents/disc.srt", "documents/disc.tif", "documents/disc.tif.xmp"],
            (await studio.PathsAsync(EntryKind.OwnFile)).Order(StringComparer.Ordinal)
        );
        studio.Time.Advance(TimeSpan.FromMinutes(1));
        (await studio.Do((TendTree d) => d.MoveBackAsync(studio.Ilse, studio.Project.Id, moved.At))).Expect();
        Assert.Equal(3, (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, [moon.Id]))).Expect().Files);
        Assert.Equal(["assets/other.xmp"], await studio.PathsAsync(EntryKind.OwnFile));
        (await studio.Do((TendTree d) => d.RestoreAsync(studio.Ilse, moon.Id))).Expect();
        Assert.Equal(4, (await studio.PathsAsync(EntryKind.OwnFile)).Count);
    }

    [Fact]
    public async Task The_studios_own_endings_make_companions_too_and_none_that_is_no_ending_is_taken()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var moon = (await DropAsync(studio, "assets", "moon.tif", "a")).Expect();
        (await DropAsync(studio, "assets", "moon.notes", "b")).Expect();
        Task<Outcome<StudioRecord>> Set(params string[] endings) => studio.Do((SetStudio d) => d.DoAsync(studio.Ilse, false, endings));
        Assert.Equal("companions", (await Set("../x")).Refusal?.Field);
        Assert.IsType<Refusal.NotAllowed>((await studio.Do((SetStudio d) => d.DoAsync(studio.Odo, true, []))).Refusal);
        Assert.Equal(".notes\n.look", (await Set("Notes", ".look", ".notes", ".xmp")).Expect().Companions);
        (await MoveAsync(studio, moon.Entry, "documents/disc.tif")).Expect();
        Assert.Equal(["documents/disc.notes", "documents/disc.tif"], await studio.PathsAsync(EntryKind.OwnFile));
        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, moon.Entry.Id))).Expect();
        Assert.Empty(await studio.PathsAsync(EntryKind.OwnFile));
        (await studio.Do((TendTree d) => d.RestoreAsync(studio.Ilse, moon.Entry.Id))).Expect();
        Assert.Equal(["documents/disc.notes", "documents/disc.tif"], await studio.PathsAsync(EntryKind.OwnFile));
    }

    [Fact]
    public async Task What_can_be_made_again_is_marked_and_no_original_can()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var proof = (await DropAsync(studio, "outputs", "proof.txt", "a")).Expect().Entry;
        var scan = (await DropAsync(studio, "originals", "scan.txt", "b")).Expect().Entry;
        (await studio.Do((TendTree d) => d.MarkAsync(studio.Odo, [proof.Id], true))).Expect();
        Assert.True((await FindAsync(studio, "outputs/proof.txt")).CanBeMadeAgain);
        // All of them, or none.
        Assert.IsType<Refusal.NeverMadeAgain>(
            (await studio.Do((TendTree d) => d.MarkAsync(studio.Odo, [proof.Id, scan.Id], true))).Refusal
        );
        (await studio.Do((TendTree d) => d.MarkAsync(studio.Odo, [proof.Id, scan.Id], false))).Expect();
        Assert.False((await FindAsync(studio, "outputs/proof.txt")).CanBeMadeAgain);
    }

    [Fact]
    public async Task Two_contents_of_an_asset_are_compared_like_two_saves()
    {
        await using var studio = await StudioInUse.OpenAsync();
        async Task<FileContent> Put(byte[] content) =>
            (
                await studio.Do(
                    (TendFiles d) =>
                        d.ReceiveAsync(
                            studio.Ilse,
                            studio.Project.Id,
                            P("assets"),
                            new ArrivingContent("sky.ora", new MemoryStream(content))
                        )
                )
            )
                .Expect()
                .Content;
        var before = await Put(Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20)));
        var after = await Put(Samples.OpenRaster(30, 20, new Samples.OraLayer("Moon", 9, 9), new Samples.OraLayer("Sky", 30, 20)));
        var (found, error) = await studio.Do((CompareSaves c) => c.DoAsync(before.Hash, after.Hash, before.EntryId));
        Assert.Equal(JobError.None, error);
        Assert.Contains(found!.Parts, p => p is { Name: "Moon", Kind: PartChangeKind.Added });
        // A content that nothing holds is compared with nothing.
        var stranger = await studio.StoreAsync(Samples.Png(3, 3));
        Assert.Null((await studio.Do((CompareSaves c) => c.DoAsync(before.Hash, stranger, before.EntryId))).Comparison);
    }
}
