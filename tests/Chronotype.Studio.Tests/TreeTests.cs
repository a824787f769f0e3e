using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Pieces;
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
        Assert.IsType<Refusal.NoSuchFolder>((await DropAsync(studio, "nowhere", "a.txt", "x")).Refusal);
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
}
