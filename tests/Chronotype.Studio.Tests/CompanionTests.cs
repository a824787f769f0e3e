using System.Text;
using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>Files that go with a piece's file: named, moved, kept, given along and deleted with it.</summary>
public class CompanionTests
{
    private static byte[] Picture(byte red) =>
        Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20, Red: red), new Samples.OraLayer("More", 3, 2));

    private static byte[] Text(string text) => Encoding.UTF8.GetBytes(text);

    private static Task<ReceivedSave> TakeAsync(StudioInUse studio, Piece piece, string name, string text) =>
        studio.TakeAsync(piece, Text(text), name);

    private static async Task<List<(string Tail, string Text)>> WithAsync(StudioInUse studio, Save save)
    {
        var held = await studio.Do((StudioDb db) => PieceCompanions.OfAsync(db, save, asThen: true));
        var told = new List<(string, string)>();
        foreach (var companion in held)
            told.Add((companion.Tail, await TextAsync(studio, companion.Hash)));
        return told;
    }

    private static Task<string> TextAsync(StudioInUse studio, ContentHash hash) =>
        studio.Do(
            async (IContentStore store) =>
            {
                using var reader = new StreamReader(store.OpenRead(hash));
                return await reader.ReadToEndAsync();
            }
        );

    private static async Task<TreeEntry> OneAsync(StudioInUse studio) =>
        await studio.Do((StudioDb db) => db.Entries.AsNoTracking().SingleAsync(e => e.Kind == EntryKind.Companion));

    [Fact]
    public async Task What_goes_with_a_pieces_file_is_no_save_and_each_version_has_what_it_had()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        var first = (await studio.SavesAsync(piece))[0];

        var taken = await TakeAsync(studio, piece, "poster.ora.XMP", "one");
        Assert.Equal(("TIM_moonpull-poster_key.ora.xmp", false), (taken.Companion!.Entry.Path.Name, taken.IsNew));
        Assert.Single(await studio.SavesAsync(piece));
        Assert.Equal([(".ora.xmp", "one")], await WithAsync(studio, first));

        // What comes after 001 was kept, and had one, goes with what comes next.
        await TakeAsync(studio, piece, "poster.ora.xmp", "two");
        Assert.Equal([(".ora.xmp", "one")], await WithAsync(studio, first));
        studio.Time.Advance(TimeSpan.FromHours(2));
        await studio.VersionAsync(piece, Picture(9));
        var second = (await studio.SavesAsync(piece))[^1];
        Assert.Equal([(".ora.xmp", "two")], await WithAsync(studio, second));
        // The file that a program writes right behind a save is of that save, though it was kept at once.
        studio.Time.Advance(TimeSpan.FromSeconds(2));
        await TakeAsync(studio, piece, "poster.ora.xmp", "three");
        Assert.Equal([(".ora.xmp", "three")], await WithAsync(studio, second));

        // Its name says that it is of 001, which has one already; what stands goes on standing.
        var entry = await OneAsync(studio);
        await TakeAsync(studio, piece, first.ExactName + ".xmp", "late");
        Assert.Equal([(".ora.xmp", "one")], await WithAsync(studio, first));
        var past = await studio.Do(
            (StudioDb db) => db.FileContents.Where(c => c.EntryId == entry.Id).OrderBy(c => c.Sequence).ToListAsync()
        );
        Assert.Equal([null, null, null, null, 3], past.Select(c => c.BroughtBackFrom));

        // Bringing 001 back brings back what went with it.
        var back = (await studio.Do((BringBack d) => d.DoAsync(studio.Ilse, piece.Id, first.Id))).Expect();
        Assert.Equal([(".ora.xmp", "one")], await WithAsync(studio, back));
        Assert.Equal([(".ora.xmp", "three")], await WithAsync(studio, second));
        var now = await studio.Do((StudioDb db) => PieceCompanions.OfAsync(db, back, asThen: false));
        Assert.Equal("one", await TextAsync(studio, Assert.Single(now).Hash));
    }

    [Fact]
    public async Task It_is_named_and_moved_with_its_file_and_never_alone()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await TakeAsync(studio, piece, "poster.xmp", "one");
        var entry = await OneAsync(studio);
        var current = await studio.Do((StudioDb db) => db.Entries.AsNoTracking().SingleAsync(e => e.Kind == EntryKind.CurrentFile));
        Assert.Equal(current.Path.Folder, entry.Path.Folder);

        var inner = current.Path.Folder!.Append("inner");
        (await studio.Do((TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, inner))).Expect();
        var alone = await studio.Do((TendTree d) => d.MoveAsync(studio.Ilse, entry.Id, inner.Append(entry.Path.Name)));
        Assert.IsType<Refusal.GoesWithItsFile>(alone.Refusal);
        studio.Time.Advance(TimeSpan.FromMinutes(1));
        // Both chosen: it goes once.
        var moved = (
            await studio.Do(
                (TendTree d) =>
                    d.MoveAsync(studio.Ilse, [(entry.Id, inner.Append(entry.Path.Name)), (current.Id, inner.Append(current.Path.Name))])
            )
        ).Expect();
        Assert.Equal([$"{inner}/TIM_moonpull-poster_key.xmp"], await studio.PathsAsync(EntryKind.Companion));
        studio.Time.Advance(TimeSpan.FromMinutes(1));
        (await studio.Do((TendTree d) => d.MoveBackAsync(studio.Ilse, studio.Project.Id, moved.At))).Expect();
        Assert.Equal([entry.Path.Text], await studio.PathsAsync(EntryKind.Companion));

        // Also while it is deleted it goes by its file's name.
        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, entry.Id))).Expect();
        (await studio.Do((RenamePiece d) => d.DoAsync(studio.Odo, piece.Id, "TIDES", StudioInUse.Called("Gull poster", "key")))).Expect();
        Assert.Empty(await studio.PathsAsync(EntryKind.Companion));
        (await studio.Do((TendTree d) => d.RestoreAsync(studio.Ilse, entry.Id))).Expect();
        Assert.Equal([$"{current.Path.Folder}/TIM_gull-poster_key.xmp"], await studio.PathsAsync(EntryKind.Companion));
    }

    [Fact]
    public async Task It_goes_along_where_the_piece_goes_and_where_a_piece_begins_from_it()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await TakeAsync(studio, piece, "poster.ora.xmp", "one");
        var version = (await studio.SavesAsync(piece))[0];
        await studio.VersionAsync(piece, Picture(9));
        await TakeAsync(studio, piece, "poster.ora.xmp", "two");

        async Task<Dictionary<string, string>> GatheredAsync(bool asThen)
        {
            var save = await studio.Do(
                (StudioDb db) => db.Saves.AsNoTracking().Include(s => s.Files).Include(s => s.Piece).FirstAsync(s => s.Id == version.Id)
            );
            var gathered = await studio.Do((GatherFiles g) => g.OfAsync(save, asThen));
            var told = new Dictionary<string, string>();
            foreach (var file in gathered.Files.Where(f => f.Path.Name.EndsWith(".xmp", StringComparison.Ordinal)))
                told[file.Path.Name] = await TextAsync(studio, file.Hash);
            return told;
        }
        Assert.Equal("one", (await GatheredAsync(asThen: true))["TIM_moonpull-poster_key.ora.xmp"]);
        Assert.Equal("two", (await GatheredAsync(asThen: false))["TIM_moonpull-poster_key.ora.xmp"]);

        var begun = (
            await studio.Do(
                (StartFrom d) => d.SaveAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called("Gull poster", "key"), version.Id)
            )
        ).Expect();
        Assert.Equal([(".ora.xmp", "one")], await WithAsync(studio, (await studio.SavesAsync(begun))[0]));
        Assert.Equal(
            ["TIM_gull-poster_key.ora.xmp", "TIM_moonpull-poster_key.ora.xmp"],
            (await studio.PathsAsync(EntryKind.Companion)).Select(p => p[(p.LastIndexOf('/') + 1)..])
        );

        async Task<TreeEntry> DropAsync(string name, byte[] content) =>
            (
                await studio.Do(
                    (TendFiles d) =>
                        d.ReceiveAsync(
                            studio.Ilse,
                            studio.Project.Id,
                            ProjectPath.Parse("originals"),
                            new ArrivingContent(name, new MemoryStream(content))
                        )
                )
            )
                .Expect()
                .Entry;
        var scan = await DropAsync("scan.ora", Picture(20));
        await DropAsync("scan.xmp", Text("scanned"));
        var copy = (
            await studio.Do(
                (StartFrom d) => d.OriginalAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called("Scan poster", "key"), scan.Id)
            )
        ).Expect();
        Assert.Equal([(".xmp", "scanned")], await WithAsync(studio, copy.Save));
    }

    [Fact]
    public async Task It_is_a_save_where_it_is_said_to_be_one_or_the_piece_is_of_its_kind()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var words = await studio.PieceAsync("Words");
        await TakeAsync(studio, words, "words.srt", "1");
        Assert.Null((await TakeAsync(studio, words, "words.srt", "2")).Companion);
        Assert.Equal(2, (await studio.SavesAsync(words)).Count);

        var piece = await studio.BegunAsync();
        var entry = (await TakeAsync(studio, piece, "anything.srt", "3")).Companion!.Entry;
        var save = (await studio.Do((CompanionAsSave d) => d.DoAsync(studio.Ilse, piece.Id, entry.Id))).Expect();
        Assert.Equal((true, "anything.srt"), (save.IsNew, save.Save.ReceivedName));
        Assert.Empty(await studio.PathsAsync(EntryKind.Companion));
        (await studio.Do((TendTree d) => d.RestoreAsync(studio.Ilse, entry.Id))).Expect();
        Assert.Single(await studio.PathsAsync(EntryKind.Companion));

        // Of several kinds each is its own; a second of one kind is its next content.
        await TakeAsync(studio, piece, "anything.de.srt", "4");
        await TakeAsync(studio, piece, "anything.srt", "5");
        Assert.Equal(
            ["TIM_moonpull-poster_key.de.srt", "TIM_moonpull-poster_key.srt"],
            (await studio.PathsAsync(EntryKind.Companion)).Select(p => p[(p.LastIndexOf('/') + 1)..])
        );
    }

    [Fact]
    public async Task What_a_version_had_is_held_for_as_long_as_the_version_and_comes_back_with_the_piece()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await TakeAsync(studio, piece, "poster.xmp", "one");
        var entry = await OneAsync(studio);
        var version = (await studio.SavesAsync(piece))[0];

        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, entry.Id))).Expect();
        studio.Time.Advance(GracePeriod.Length + TimeSpan.FromMinutes(1));
        await studio.Do((Jobs.JobQueue q) => q.AddAsync([Jobs.JobRequest.Store(JobKind.EndGrace, JobPriority.Follows)]));
        await studio.SettledAsync();
        Assert.False(await studio.Do((StudioDb db) => db.Entries.AnyAsync(e => e.Id == entry.Id)));
        await studio.Do((HeldContent h) => h.DropUnheldAsync());
        Assert.Equal([(".xmp", "one")], await WithAsync(studio, version));

        await TakeAsync(studio, piece, "poster.xmp", "two");
        (await studio.Do((Remove d) => d.PieceAsync(studio.Ilse, piece.Id))).Expect();
        Assert.Empty(await studio.PathsAsync(EntryKind.Companion));
        (await studio.Do((Remove d) => d.TakeBackPieceAsync(studio.Ilse, piece.Id))).Expect();
        Assert.Single(await studio.PathsAsync(EntryKind.Companion));
        (await studio.Do((Remove d) => d.PieceAsync(studio.Ilse, piece.Id))).Expect();
        studio.Time.Advance(GracePeriod.Length + TimeSpan.FromMinutes(1));
        await studio.Do((Jobs.JobQueue q) => q.AddAsync([Jobs.JobRequest.Store(JobKind.EndGrace, JobPriority.Follows)]));
        await studio.SettledAsync();
        Assert.False(await studio.Do((StudioDb db) => db.Companions.AnyAsync()));
    }
}
