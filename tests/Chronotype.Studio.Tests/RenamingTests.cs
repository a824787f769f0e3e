using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>A piece is called by something else, or stands in another project, and all its names follow.</summary>
public class RenamingTests
{
    private static byte[] Picture(byte red) =>
        Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20, Red: red), new Samples.OraLayer("More", 3, 2));

    private static async Task<Piece> MarkedAsync(StudioInUse studio)
    {
        var piece = await studio.BegunAsync();
        await studio.VersionAsync(piece, Picture(9));
        (await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, piece.Id, new VersionNumber(2), "client round"))).Expect();
        return piece;
    }

    private static Task<List<string>> NamesAsync(StudioInUse studio, Piece piece) =>
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

    private static Task<Outcome<Piece>> RenameAsync(
        StudioInUse studio,
        Piece piece,
        string project,
        string subject,
        string function = "key"
    ) => studio.Do((RenamePiece d) => d.DoAsync(studio.Odo, piece.Id, project, StudioInUse.Called(subject, function)));

    private static Task<Piece?> FindAsync(StudioInUse studio, string project, string name) =>
        studio.Do((FindPiece d) => d.DoAsync(project, name));

    [Fact]
    public async Task All_names_of_a_piece_follow_and_the_old_ones_find_it_and_come_back()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await MarkedAsync(studio);
        var before = await NamesAsync(studio, piece);
        var plan = (
            await studio.Do((RenamePiece d) => d.PlanAsync(piece.Id, "TIDES", StudioInUse.Called("Gull poster", "illus")))
        ).Expect();
        Assert.Equal(
            [
                ("TIM_moonpull-poster_key", "TIM_gull-poster_illus"),
                ("TIM_moonpull-poster_key_IK_001.ora", "TIM_gull-poster_illus_IK_001.ora"),
                ("TIM_moonpull-poster_key_IK_002.ora", "TIM_gull-poster_illus_IK_002.ora"),
                ("TIM_moonpull-poster_key_M01.ora", "TIM_gull-poster_illus_M01.ora"),
            ],
            plan.Names.Select(n => (n.From, n.To))
        );
        Assert.Equal(before, await NamesAsync(studio, piece));

        (await RenameAsync(studio, piece, "TIDES", "Gull poster", "illus")).Expect();
        Assert.Equal(
            [
                "working/milestones/TIM_gull-poster_illus_M01.ora",
                "working/TIM_gull-poster_illus.ora",
                "working/versions/TIM_gull-poster_illus_IK_001.ora",
                "working/versions/TIM_gull-poster_illus_IK_002.ora",
            ],
            await NamesAsync(studio, piece)
        );
        Assert.Equal(piece.Id, (await FindAsync(studio, "TIDES", "TIM_moonpull-poster_key"))!.Id);
        var third = await studio.VersionAsync(piece, Picture(10));
        Assert.Equal("TIM_gull-poster_illus_IK_003.ora", third.ExactName);

        var run = await studio.Do((StudioDb db) => db.RenameRuns.SingleAsync());
        (await studio.Do((RenamePiece d) => d.UndoAsync(studio.Ilse, piece.Id, run.Id))).Expect();
        Assert.Equal([.. before, "working/versions/TIM_moonpull-poster_key_IK_003.ora"], await NamesAsync(studio, piece));
        Assert.Equal(piece.Id, (await FindAsync(studio, "TIDES", "TIM_gull-poster_illus"))!.Id);
        Assert.IsType<Refusal.MoveUndoneAlready>((await studio.Do((RenamePiece d) => d.UndoAsync(studio.Ilse, piece.Id, run.Id))).Refusal);
    }

    [Fact]
    public async Task A_piece_comes_to_another_project_under_its_convention_and_goes_back()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await MarkedAsync(studio);
        var before = await NamesAsync(studio, piece);
        var other = await studio.ProjectAsync("GULLS");
        var convention = ConventionFile.Read(
            """
            {"chronotype":1,"slots":[
              {"label":"project","kind":"code","list":"project"},
              {"label":"subject","kind":"words","join":"_"},
              {"label":"function","kind":"code","list":"function","join":"_"},
              {"label":"take","kind":"version","lead":"v","width":4,"join":"_"},
              {"label":"mark","kind":"milestone","lead":"ms","join":"_"}],
             "forms":{"current":["project","subject","function"],"working":["project","subject","function","take"],
               "milestone":["project","subject","function","mark"]}}
            """,
            new Dictionary<string, CodeList>()
        );
        Assert.Empty(convention.Faults);
        (await studio.Do((MoveProject d) => d.DoAsync(studio.Ilse, other.Id, convention.Convention!))).Expect();

        (await RenameAsync(studio, piece, "GULLS", "Moonpull poster")).Expect();
        Assert.Equal(
            [
                "working/GULLS_moonpull-poster_key.ora",
                "working/milestones/GULLS_moonpull-poster_key_ms01.ora",
                "working/versions/GULLS_moonpull-poster_key_v0001.ora",
                "working/versions/GULLS_moonpull-poster_key_v0002.ora",
            ],
            await NamesAsync(studio, piece)
        );
        Assert.Empty(await studio.PathsAsync(EntryKind.CurrentFile));
        var found = (await FindAsync(studio, "TIDES", "TIM_moonpull-poster_key"))!;
        Assert.Equal((piece.Id, "GULLS"), (found.Id, found.Project.Code));
        Assert.Equal("GULLS_moonpull-poster_key_v0003.ora", (await studio.VersionAsync(piece, Picture(11))).ExactName);

        var run = await studio.Do((StudioDb db) => db.RenameRuns.SingleAsync(r => r.PieceId == piece.Id));
        (await studio.Do((RenamePiece d) => d.UndoAsync(studio.Ilse, piece.Id, run.Id))).Expect();
        Assert.Equal([.. before, "working/versions/TIM_moonpull-poster_key_IK_003.ora"], await NamesAsync(studio, piece));
    }

    [Fact]
    public async Task What_stands_in_the_way_is_said_and_nothing_is_renamed()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await MarkedAsync(studio);
        await studio.BegunAsync("Gull poster");
        var before = await NamesAsync(studio, piece);
        Assert.Equal(
            new Refusal.PieceIsThere("TIM_gull-poster_key", "subject"),
            (await RenameAsync(studio, piece, "TIDES", "Gull poster")).Refusal
        );
        Assert.IsType<Refusal.CalledSoAlready>((await RenameAsync(studio, piece, "TIDES", "Moonpull poster")).Refusal);
        Assert.IsType<Refusal.SlotNeedsListedCode>((await RenameAsync(studio, piece, "TIDES", "Gull", "nope")).Refusal);
        Assert.IsType<Refusal.SlotNotLegal>((await RenameAsync(studio, piece, "TIDES", "  ")).Refusal);
        Assert.IsType<Refusal.NoSuchProject>((await RenameAsync(studio, piece, "NONE", "Gull")).Refusal);
        Assert.Equal(before, await NamesAsync(studio, piece));
        Assert.Equal(0, await studio.Do((StudioDb db) => db.RenameRuns.CountAsync()));
    }

    [Fact]
    public async Task A_piece_that_was_renamed_again_is_not_given_older_names_by_itself()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        (await RenameAsync(studio, piece, "TIDES", "Gull")).Expect();
        var first = await studio.Do((StudioDb db) => db.RenameRuns.SingleAsync());
        (await RenameAsync(studio, piece, "TIDES", "Tern")).Expect();
        Assert.IsType<Refusal.RenamedAgainSince>(
            (await studio.Do((RenamePiece d) => d.UndoAsync(studio.Ilse, piece.Id, first.Id))).Refusal
        );
    }

    [Fact]
    public async Task A_projects_code_and_client_change_with_all_names_and_change_back()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await MarkedAsync(studio);
        var before = await NamesAsync(studio, piece);
        Task<Outcome<Project>> ChangeAsync(string code, string title, string client, string name = "") =>
            studio.Do((RenameProject d) => d.DoAsync(studio.Ilse, studio.Project.Id, new(code, title, client, name)));

        (await ChangeAsync("TIDES", "Tides and moons", "TIM")).Expect();
        Assert.Equal(0, await studio.Do((StudioDb db) => db.RenameRuns.CountAsync()));
        (await ChangeAsync("MOONS", "Tides and moons", "SEA", "Sea Hall")).Expect();
        Assert.Contains("working/versions/SEA_moonpull-poster_key_IK_002.ora", await NamesAsync(studio, piece));
        Assert.Equal(piece.Id, (await FindAsync(studio, "TIDES", "TIM_moonpull-poster_key"))!.Id);
        Assert.Equal(piece.Id, (await FindAsync(studio, "MOONS", "SEA_moonpull-poster_key"))!.Id);
        Assert.IsType<Refusal.CalledSoAlready>((await ChangeAsync("MOONS", "Tides and moons", "SEA")).Refusal);
        await studio.ProjectAsync("GULLS");
        Assert.IsType<Refusal.ProjectCodeTaken>((await ChangeAsync("GULLS", "Tides", "SEA")).Refusal);
        Assert.IsType<Refusal.Length>((await ChangeAsync("MOONS", "Tides", "NEWC")).Refusal);

        var run = await studio.Do((StudioDb db) => db.RenameRuns.SingleAsync());
        (await studio.Do((RenameProject d) => d.UndoAsync(studio.Ilse, studio.Project.Id, run.Id))).Expect();
        Assert.Equal(before, await NamesAsync(studio, piece));
        var project = await studio.Do((StudioDb db) => db.Projects.Include(p => p.Client).SingleAsync(p => p.Id == studio.Project.Id));
        Assert.Equal(("TIDES", "Tides and moons", "TIM"), (project.Code, project.Title, project.Client.Code));
    }
}
