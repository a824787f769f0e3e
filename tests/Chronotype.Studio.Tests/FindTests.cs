using Chronotype.Core.Versions;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Finding;
using Chronotype.Studio.Finding;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>Work is found by its names, notes and reasons, whatever was done to it since.</summary>
public class FindTests
{
    private static byte[] Picture(byte red) =>
        Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20, Red: red), new Samples.OraLayer("More", 3, 2));

    private static Task<IReadOnlyList<Found>> FindAsync(
        StudioInUse studio,
        string words,
        FoundKind? kind = null,
        string? client = null,
        string? person = null,
        DateTimeOffset? since = null
    ) => studio.Do((FindWork d) => d.DoAsync(new FindQuery(words, kind, client, person, since), 50));

    private static async Task<List<FoundKind>> KindsAsync(StudioInUse studio, string words) =>
        [.. (await FindAsync(studio, words)).Select(f => f.Kind).Order()];

    [Fact]
    public async Task Names_notes_and_reasons_are_found_by_the_beginnings_of_words()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.TakeAsync(piece, Picture(9), "evening glow final (2).ora");
        await studio.KeepAsync(piece, note: "The client wants a Larger Möwe");
        (
            await studio.Do((MarkMilestone d) => d.DoAsync(studio.Odo, piece.Id, new VersionNumber(1), "before the sky is repainted"))
        ).Expect();
        await studio.TakeAsync(piece, Picture(10), "quite another.ora");

        Assert.Equal([FoundKind.Version], await KindsAsync(studio, "mowe"));
        Assert.Equal([FoundKind.Version], await KindsAsync(studio, "LARG cli"));
        Assert.Equal([FoundKind.Version], await KindsAsync(studio, "glow"));
        Assert.Equal([FoundKind.Milestone], await KindsAsync(studio, "sky repaint"));
        Assert.Equal([FoundKind.Loose], await KindsAsync(studio, "another"));
        Assert.Equal([FoundKind.Project], await KindsAsync(studio, "museum"));
        Assert.Equal(
            [FoundKind.Piece, FoundKind.Version, FoundKind.Version, FoundKind.Milestone],
            await KindsAsync(studio, "moonp poster")
        );
        Assert.Equal([FoundKind.Version], await KindsAsync(studio, "TIM_moonpull-poster_key_IK_002"));
        // Marks within a word are part of it; a letter younger than the index's tables, and what is no word, are answered all the same.
        await studio.KeepAsync(piece, (await studio.TakeAsync(piece, Picture(11))).Save.Id, note: "วันหยุด हिन्दी aᲐb");
        foreach (var word in new[] { "วันหยุด", "วัน", "हिन्दी" })
            Assert.Equal((word, 1), (word, (await FindAsync(studio, word)).Count));
        Assert.Empty(await FindAsync(studio, "aᲐb"));
        Assert.Empty(await FindAsync(studio, "\ud800 \0 🌊"));
        Assert.Empty(await FindAsync(studio, "arger"));
        Assert.Empty(await FindAsync(studio, "  \"*( - "));
        Assert.Empty(await FindAsync(studio, "moonpull NOT poster"));
        var hit = (await FindAsync(studio, "larger")).Single();
        Assert.Equal(("TIDES", "TIM_moonpull-poster_key"), (hit.Project, hit.Piece));
        Assert.Contains("Larger Möwe", hit.Text);
    }

    [Fact]
    public async Task The_newest_comes_first_and_choices_narrow_it()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var old = await studio.BegunAsync("Harvest moon");
        studio.Time.Advance(TimeSpan.FromDays(70));
        var other = (
            await studio.Do((StartProject d) => d.DoAsync(studio.Odo, new NewProject("GULLS", "Gulls", "Harbour", "HAV", "print")))
        ).Expect();
        var young = (
            await studio.Do((StartPiece d) => d.DoAsync(studio.Odo, other.Id, StudioInUse.Called("Harvest gull", "key")))
        ).Expect();
        await studio.TakeAsync(young, Picture(1), by: studio.Odo);

        Assert.Equal(young.CurrentName, (await FindAsync(studio, "harvest"))[0].Piece);
        Assert.All(await FindAsync(studio, "harvest", client: "TIM"), f => Assert.Equal(old.CurrentName, f.Piece));
        Assert.All(await FindAsync(studio, "harvest", client: "HAV"), f => Assert.Equal(young.CurrentName, f.Piece));
        Assert.All(await FindAsync(studio, "harvest", person: "OB"), f => Assert.Equal(young.CurrentName, f.Piece));
        Assert.All(await FindAsync(studio, "harvest", kind: FoundKind.Piece), f => Assert.Equal(FoundKind.Piece, f.Kind));
        var since = studio.Time.GetUtcNow().AddDays(-7);
        Assert.Equal(2, (await FindAsync(studio, "harvest", since: since)).Count);
        Assert.Equal(4, (await FindAsync(studio, "harvest", since: since.AddDays(-90))).Count);
        Assert.Equal(2, (await FindAsync(studio, "harvest", kind: FoundKind.Piece)).Count);
    }

    [Fact]
    public async Task What_is_renamed_discarded_or_deleted_is_found_as_it_is_now()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        var loose = (await studio.TakeAsync(piece, Picture(9), "windy.ora")).Save;
        (await studio.Do((RenamePiece d) => d.DoAsync(studio.Ilse, piece.Id, "TIDES", StudioInUse.Called("Gull", "key")))).Expect();
        Assert.Equal([FoundKind.Piece, FoundKind.Version], await KindsAsync(studio, "gull"));
        var former = await FindAsync(studio, "moonpull");
        Assert.All(former, f => Assert.Equal((FoundKind.FormerName, "TIM_gull_key"), (f.Kind, f.Piece)));
        Assert.Equal(2, former.Count);

        (await studio.Do((Remove d) => d.SaveAsync(studio.Ilse, piece.Id, loose.Id))).Expect();
        Assert.Empty(await FindAsync(studio, "windy"));
        (await studio.Do((Remove d) => d.TakeBackSaveAsync(studio.Ilse, loose.Id))).Expect();
        Assert.Single(await FindAsync(studio, "windy"));

        (
            await studio.Do((RenameProject d) => d.DoAsync(studio.Ilse, studio.Project.Id, new("TIDES", "Tides", "SEA", "Sea Hall")))
        ).Expect();
        Assert.Empty(await FindAsync(studio, "gull", client: "TIM"));
        Assert.Equal(
            [FoundKind.Piece, FoundKind.Version, FoundKind.FormerName, FoundKind.FormerName],
            (await FindAsync(studio, "gull", client: "SEA")).Select(f => f.Kind).Order()
        );

        (await studio.Do((Remove d) => d.PieceAsync(studio.Ilse, piece.Id))).Expect();
        Assert.Empty(await FindAsync(studio, "gull"));
        (await studio.Do((Remove d) => d.TakeBackPieceAsync(studio.Ilse, piece.Id))).Expect();
        Assert.Equal(4, (await FindAsync(studio, "gull")).Count);
    }

    [Fact]
    public async Task An_index_that_was_lost_is_made_anew_with_all_that_there_is()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.KeepAsync(piece, (await studio.TakeAsync(piece, Picture(9))).Save.Id, note: "larger");
        var before = await FindAsync(studio, "moonpull");
        await studio.Do(
            async (Storage.StudioDb db) =>
            {
                await db.Database.OpenConnectionAsync();
                var connection = (Microsoft.Data.Sqlite.SqliteConnection)db.Database.GetDbConnection();
                FindIndex.Drop(connection);
                FindIndex.Prepare(connection);
            }
        );
        Assert.Equal(before.Select(f => f.Text).Order(), (await FindAsync(studio, "moonpull")).Select(f => f.Text).Order());
        Assert.Single(await FindAsync(studio, "larger"));
        (await studio.Do((RenamePiece d) => d.DoAsync(studio.Ilse, piece.Id, "TIDES", StudioInUse.Called("Gull", "key")))).Expect();
        Assert.Equal(3, (await FindAsync(studio, "gull")).Count);
    }
}
