using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

public class PlanTests
{
    private static readonly FolderPlan Windows = FolderPlan.Of("print") with
    {
        Key = "windows",
        Title = "Shop windows",
        Functions = [new FunctionCode("pane", "one pane of glass")],
        Keep = KeepSetting.EveryChange,
        Spec = new ProjectSpec { Picture = new(Resolution: 150) },
        Reserved = [new ReservedName(StudioInUse.Called("Front window", "pane"))],
    };

    private static Task<Outcome<StudioPlan>> SetAsync(StudioInUse studio, FolderPlan plan, bool isNew = true, Actor? by = null) =>
        studio.Do((SetPlan d) => d.DoAsync(by ?? studio.Ilse, plan, isNew));

    private static Task<Outcome<Project>> StartAsync(StudioInUse studio, string plan, string code = "GLASS", EarlierProject? from = null) =>
        studio.Do((StartProject d) => d.DoAsync(studio.Ilse, new NewProject(code, "Glass", "Museum", "TIM", plan, null, from)));

    [Fact]
    public async Task A_project_starts_with_a_plan_of_the_studios_own_and_holds_it_when_that_is_changed()
    {
        await using var studio = await StudioInUse.OpenAsync();
        (await SetAsync(studio, Windows)).Expect();
        var project = (await StartAsync(studio, "windows")).Expect();
        Assert.Equal(KeepSetting.EveryChange, project.Keep);
        Assert.Equal(Windows.Spec, PlanStore.SpecOf(project));
        var reserved = await studio.Do((StudioDb db) => db.Pieces.SingleAsync(p => p.ProjectId == project.Id));
        Assert.Equal(("TIM_front-window_pane", 0), (reserved.CurrentName, reserved.HighestSequence));

        (await SetAsync(studio, Windows with { Title = "Otherwise", Functions = [] }, isNew: false)).Expect();
        var held = PlanStore.Of(await studio.Do((StudioDb db) => db.Projects.SingleAsync(p => p.Id == project.Id)));
        Assert.Equal(("Shop windows", "pane"), (held.Title, Assert.Single(held.Functions).Code));
        Assert.Equal("Otherwise", (await studio.Do((PlanStore s) => s.FindAsync("windows")))!.Plan.Title);
    }

    [Fact]
    public async Task A_change_is_taken_back_also_to_how_every_studio_begins()
    {
        await using var studio = await StudioInUse.OpenAsync();
        (await SetAsync(studio, FolderPlan.Of("audio") with { Title = "Sound" }, isNew: false)).Expect();
        var known = (await studio.Do((PlanStore s) => s.FindAsync("audio")))!;
        Assert.Equal(("Sound", true, true), (known.Plan.Title, known.IsUsual, known.IsChanged));
        (await studio.Do((SetPlan d) => d.UndoAsync(studio.Ilse, "audio"))).Expect();
        Assert.Equal("Audio", (await studio.Do((PlanStore s) => s.FindAsync("audio")))!.Plan.Title);
        Assert.IsType<Refusal.NoPlanBefore>((await studio.Do((SetPlan d) => d.UndoAsync(studio.Ilse, "print"))).Refusal);
    }

    [Fact]
    public async Task A_plan_comes_off_the_list_and_on_again_and_the_last_one_stays()
    {
        await using var studio = await StudioInUse.OpenAsync();
        Task<Outcome<StudioPlan>> List(string key, bool isListed) => studio.Do((SetPlan d) => d.ListAsync(studio.Ilse, key, isListed));
        (await List("audio", false)).Expect();
        (await List("print", false)).Expect();
        Assert.IsType<Refusal.NoSuchPlan>((await StartAsync(studio, "print")).Refusal);
        Assert.IsType<Refusal.LastPlan>((await List("animation", false)).Refusal);
        Assert.IsType<Refusal.NoSuchPlan>((await List("none", false)).Refusal);
        // The project that began with it holds it.
        Assert.Equal("Print and illustration", PlanStore.Of(studio.Project).Title);
        (await List("print", true)).Expect();
        (await StartAsync(studio, "print")).Expect();
    }

    [Fact]
    public async Task Only_an_owner_changes_plans_and_no_plan_takes_the_place_of_another()
    {
        await using var studio = await StudioInUse.OpenAsync();
        Assert.IsType<Refusal.NotAllowed>((await SetAsync(studio, Windows, by: studio.Odo)).Refusal);
        Assert.IsType<Refusal.PlanIsThere>((await SetAsync(studio, Windows with { Key = "print" })).Refusal);
        Assert.IsType<Refusal.PlanFaults>((await SetAsync(studio, Windows with { Folders = [] })).Refusal);
        Assert.Equal(3, (await studio.Do((PlanStore s) => s.AllAsync())).Count);
        Assert.Equal("print-2", await studio.Do((PlanStore s) => s.FreeKeyAsync("Print")));
        Assert.Equal("new-2", await studio.Do((PlanStore s) => s.FreeKeyAsync("new")));
        Assert.Equal("plan-3d", await studio.Do((PlanStore s) => s.FreeKeyAsync("3D!")));
    }

    [Fact]
    public async Task A_name_that_cannot_be_reserved_keeps_the_project_from_starting_and_leaves_nothing_behind()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var twice = new ReservedName(StudioInUse.Called("Front window", "pane"));
        (await SetAsync(studio, Windows with { Reserved = [twice, twice] })).Expect();
        var refused = Assert.IsType<Refusal.PieceOfPlanNotLegal>((await StartAsync(studio, "windows")).Refusal);
        Assert.IsType<Refusal.PieceIsThere>(refused.Why);
        Assert.Equal(
            (1, 0),
            await studio.Do(async (StudioDb db) => (await db.Projects.CountAsync(), await db.Codes.CountAsync(c => c.Code == "pane")))
        );
    }

    [Fact]
    public async Task A_project_as_it_stands_makes_a_plan_with_its_own_folders_functions_and_spec()
    {
        await using var studio = await StudioInUse.OpenAsync();
        (await studio.Do((TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, ProjectPath.Parse("assets/birds")))).Expect();
        (await studio.Do((SetCode d) => d.AddAsync(studio.Ilse, "function", "sign", "a sign"))).Expect();
        (await studio.Do((StartPiece d) => d.DoAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called("Way out", "sign")))).Expect();
        var spec = new ProjectSpec { Sound = new(48_000) };
        (await studio.Do((SetSpec d) => d.DoAsync(studio.Ilse, studio.Project.Id, spec))).Expect();
        var project = await studio.Do((StudioDb db) => db.Projects.SingleAsync(p => p.Id == studio.Project.Id));
        var plan = await studio.Do((PlanStore s) => s.AsItStandsAsync(project));
        Assert.Empty(PlanRules.Check(plan));
        var paths = plan.Folders.Select(f => f.Path.Text).ToList();
        Assert.Equal(paths.IndexOf("assets") + 1, paths.IndexOf("assets/birds"));
        Assert.Contains(plan.Functions, f => f is { Code: "sign", Meaning: "a sign" });
        Assert.Equal(spec, plan.Spec);
    }

    [Fact]
    public async Task What_comes_along_from_an_earlier_project_is_there_at_once_and_nothing_else()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var poster = await studio.PieceAsync();
        await studio.VersionAsync(poster, Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20)));
        var newest = Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20), new Samples.OraLayer("Sea", 3, 2));
        await studio.VersionAsync(poster, newest);
        await studio.PieceAsync("Left behind");
        async Task Store(string folder, string name, string text) =>
            (
                await studio.Do(
                    (TendFiles d) =>
                        d.ReceiveAsync(
                            studio.Odo,
                            studio.Project.Id,
                            ProjectPath.Parse(folder),
                            new ArrivingContent(name, new MemoryStream(System.Text.Encoding.UTF8.GetBytes(text)))
                        )
                )
            ).Expect();
        await Store("assets/birds", "gull.txt", "first");
        await Store("assets/birds", "gull.txt", "second");
        await Store("documents", "brief.txt", "for this job alone");

        var from = new EarlierProject(studio.Project.Id, true, true, true, true, [poster.Id]);
        var project = (await StartAsync(studio, "audio", from: from)).Expect();
        var (files, piece, version) = await studio.Do(
            async (StudioDb db) =>
                (
                    await db
                        .Entries.Where(e => e.ProjectId == project.Id && e.Kind == EntryKind.OwnFile)
                        .Include(e => e.Contents)
                        .ToListAsync(),
                    await db.Pieces.SingleAsync(p => p.ProjectId == project.Id),
                    await db.Saves.Include(s => s.Files).SingleAsync(s => s.Piece.ProjectId == project.Id)
                )
        );
        var gull = Assert.Single(files);
        Assert.Equal("assets/birds/gull.txt", gull.Path.Text);
        Assert.Equal(6, Assert.Single(gull.Contents).Size);
        Assert.Equal(("TIM_moonpull-poster_key", ".ora"), (piece.CurrentName, piece.Extension));
        Assert.Equal((1, "TIM_moonpull-poster_key_IK_001.ora", newest.Length), (version.Number, version.ExactName, (int)version.Size));
        var origin = await studio.Do((StudioDb db) => db.Saves.SingleAsync(s => s.Id == piece.FromSaveId));
        Assert.Equal((poster.Id, 2), (origin.PieceId, origin.Number));
        Assert.Equal("Print and illustration", PlanStore.Of(project).Title);
    }

    [Fact]
    public async Task Without_its_folders_a_plan_is_laid_out_and_assets_still_find_their_place()
    {
        await using var studio = await StudioInUse.OpenAsync();
        (await studio.Do((SetSpec d) => d.DoAsync(studio.Ilse, studio.Project.Id, new ProjectSpec { Sound = new(48_000) }))).Expect();
        (
            await studio.Do(
                (TendFiles d) =>
                    d.ReceiveAsync(
                        studio.Odo,
                        studio.Project.Id,
                        ProjectPath.Parse("assets/birds"),
                        new ArrivingContent("gull.txt", new MemoryStream([1, 2, 3]))
                    )
            )
        ).Expect();
        var project = (
            await StartAsync(studio, "audio", from: new EarlierProject(studio.Project.Id, false, true, false, false, []))
        ).Expect();
        Assert.Equal("Audio", PlanStore.Of(project).Title);
        Assert.True(PlanStore.SpecOf(project).IsEmpty);
        var gull = await studio.Do((StudioDb db) => db.Entries.SingleAsync(e => e.ProjectId == project.Id && e.Kind == EntryKind.OwnFile));
        Assert.Equal(("assets/birds/gull.txt", FolderRole.Assets), (gull.Path.Text, gull.Role));
    }

    [Fact]
    public async Task A_piece_starts_from_any_version_of_another_with_its_content_as_001()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var poster = await studio.PieceAsync();
        var first = await studio.VersionAsync(poster, Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20)));
        await studio.VersionAsync(poster, Samples.OpenRaster(30, 20, new Samples.OraLayer("Night", 30, 20)));
        var called = StudioInUse.Called("Banner", "key");
        var banner = (await studio.Do((StartFrom d) => d.SaveAsync(studio.Odo, studio.Project.Id, called, first.SaveId))).Expect();
        var save = Assert.Single(await studio.SavesAsync(banner));
        var old = (await studio.SavesAsync(poster))[0];
        Assert.Equal((1, old.Identity, "TIM_banner_key_OB_001.ora"), (save.Number, save.Identity, save.ExactName));
        Assert.Equal(["working/TIM_banner_key.ora", "working/TIM_moonpull-poster_key.ora"], await studio.PathsAsync(EntryKind.CurrentFile));

        var again = await studio.Do((StartFrom d) => d.SaveAsync(studio.Odo, studio.Project.Id, called, first.SaveId));
        Assert.IsType<Refusal.PieceIsThere>(again.Refusal);
        var gone = await studio.Do(
            (StartFrom d) => d.SaveAsync(studio.Odo, studio.Project.Id, StudioInUse.Called("Sign", "key"), Guid.NewGuid())
        );
        Assert.IsType<Refusal.NoSuchSave>(gone.Refusal);
    }

    [Fact]
    public async Task A_piece_starts_with_some_layers_of_another_and_the_rest_is_left_out()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var poster = await studio.PieceAsync();
        var kept = await studio.VersionAsync(
            poster,
            Samples.OpenRaster(30, 20, new Samples.OraLayer("Moon", 9, 9, Group: "Night"), new Samples.OraLayer("Sky", 30, 20))
        );
        Task<Outcome<Piece>> Start(string subject, params int[] parts) =>
            studio.Do(
                (StartFrom d) => d.PartsAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called(subject, "key"), kept.SaveId, parts)
            );
        var moon = (await Start("Moon alone", 1)).Expect();
        var save = Assert.Single(await studio.SavesAsync(moon));
        Assert.Equal((1, kept.SaveId), (save.Number, moon.FromSaveId));
        Assert.Equal(["Night", "Moon"], (await studio.FactsAsync(save))!.Layers.Select(l => l.Name));

        Assert.IsType<Refusal.NotParted>((await Start("Nothing", 7)).Refusal);
        // Not even its name is taken.
        Assert.False(await studio.Do((StudioDb db) => db.Pieces.AnyAsync(p => p.CurrentName.Contains("nothing"))));
    }

    [Fact]
    public async Task A_template_is_offered_with_its_newest_version_in_every_project()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var poster = await studio.PieceAsync();
        var kept = await studio.VersionAsync(poster, Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20)));
        await studio.TakeAsync(poster, Samples.OpenRaster(30, 20, new Samples.OraLayer("Not kept", 30, 20)));
        var other = await studio.ProjectAsync("GULLS");
        Assert.Empty(await studio.Do((Templates t) => t.AllAsync(other.Id)));
        (await studio.Do((SetTemplate d) => d.DoAsync(studio.Odo, poster.Id, true))).Expect();
        var template = Assert.Single(await studio.Do((Templates t) => t.AllAsync(other.Id)));
        Assert.Equal((kept.SaveId, "TIDES", new VersionNumber(1)), (template.SaveId, template.Project, template.Number));
        var called = StudioInUse.Called("Gull poster", "key");
        var begun = (await studio.Do((StartFrom d) => d.SaveAsync(studio.Odo, other.Id, called, template.SaveId))).Expect();
        Assert.Equal(other.Id, begun.ProjectId);
        (await studio.Do((SetTemplate d) => d.DoAsync(studio.Odo, poster.Id, false))).Expect();
        Assert.Empty(await studio.Do((Templates t) => t.AllAsync(other.Id)));
    }

    [Fact]
    public async Task Every_file_that_is_off_the_spec_is_listed_with_what_it_is()
    {
        await using var studio = await StudioInUse.OpenAsync();
        async Task Store(string folder, string name, byte[] content) =>
            (
                await studio.Do(
                    (TendFiles d) =>
                        d.ReceiveAsync(
                            studio.Odo,
                            studio.Project.Id,
                            ProjectPath.Parse(folder),
                            new ArrivingContent(name, new MemoryStream(content))
                        )
                )
            ).Expect();
        await Store("originals", "bell.wav", Samples.Wave(0.1, 1, 44_100, 1));
        await Store("assets", "surf.wav", Samples.Wave(0.1, 2, 48_000, 1));
        await Store("documents", "talk.wav", Samples.Wave(0.1, 3, 8_000, 1));
        var mix = await studio.PieceAsync("Mix");
        await studio.TakeAsync(mix, Samples.Wave(0.1, 4, 48_000, 1), "mix.wav");
        await studio.SettledAsync();
        var spec = new ProjectSpec { Sound = new(48_000, 16, 2) };
        var report = await studio.Do((SpecFaults s) => s.LookAsync(studio.Project.Id, spec));
        Assert.Equal(3, report.Measured);
        Assert.Equal(
            [
                ("originals/bell.wav", (string?)null, new[] { SpecPoint.SampleRate }),
                ("working/TIM_mix_key.wav", "TIM_mix_key", [SpecPoint.Channels]),
            ],
            report.Off.Select(o => (o.Path.Text, o.Piece, o.Points.ToArray()))
        );
        Assert.Equal((44_100, 16, 1), (report.Off[0].Measures.SampleRate, report.Off[0].Measures.Bits, report.Off[0].Measures.Channels));
        Assert.Empty((await studio.Do((SpecFaults s) => s.LookAsync(studio.Project.Id, new ProjectSpec()))).Off);
    }
}
