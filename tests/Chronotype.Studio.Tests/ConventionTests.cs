using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

public class ConventionTests
{
    private static Convention Changed(Func<Slot, Slot> change, params Slot[] more) => Changed(change, [], more);

    private static Convention Changed(Func<Slot, Slot> change, string[] working, params Slot[] more)
    {
        var plans = Convention.ForPlans();
        return new(
            [.. plans.Slots.Select(change), .. more],
            plans.Forms.ToDictionary(
                f => f,
                f => (IReadOnlyList<string>)[.. plans.Form(f).Select(s => change(s).Label), .. f == NameForm.Working ? working : []]
            )
        );
    }

    private static readonly Convention Led = Changed(s =>
        s.Rule is VersionRule ? s with { Rule = new VersionRule(Width: 4, Lead: "v") }
        : s.Label == "function" ? s with { Join = "." }
        : s
    );

    private static Task<Outcome<StudioRecord>> SetAsync(StudioInUse studio, Convention convention) =>
        studio.Do((SetConvention d) => d.DoAsync(studio.Ilse, convention));

    private static Task<Outcome<RenameRun>> MoveAsync(StudioInUse studio, Convention to) =>
        studio.Do((MoveProject d) => d.DoAsync(studio.Ilse, studio.Project.Id, to));

    private static async Task<List<string>> NamesAsync(StudioInUse studio) =>
        await studio.Do(
            async (StudioDb db) =>
                (await db.Pieces.Select(p => p.CurrentName).ToListAsync())
                    .Concat(await db.Saves.Where(s => s.ExactName != null).OrderBy(s => s.Number).Select(s => s.ExactName!).ToListAsync())
                    .Concat(await db.Milestones.Select(m => m.ExactName).ToListAsync())
                    .ToList()
        );

    [Fact]
    public async Task A_new_project_takes_the_studios_convention_and_one_that_is_there_holds_its_own()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        (await SetAsync(studio, Led)).Expect();
        Assert.Equal("TIM_moonpull-poster_key_IK_001.ora", (await studio.VersionAsync(piece, "one"u8.ToArray())).ExactName);
        var later = (await studio.Do((StartProject d) => d.DoAsync(studio.Ilse, new("LATER", "Later", "Museum", "TIM", "print")))).Expect();
        var second = (await studio.Do((StartPiece d) => d.DoAsync(studio.Ilse, later.Id, StudioInUse.Called("Gull", "key")))).Expect();
        Assert.Equal("TIM_gull.key_IK_v0001.ora", (await studio.VersionAsync(second, "two"u8.ToArray())).ExactName);
        (await studio.Do((SetConvention d) => d.UndoAsync(studio.Ilse))).Expect();
        Assert.Equal(ConventionStore.Write(Convention.ForPlans()), await studio.Do((ConventionStore d) => d.JsonAsync()));
    }

    [Fact]
    public async Task What_would_read_in_two_ways_or_cannot_name_a_piece_is_refused_and_changes_nothing()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var before = await studio.Do((ConventionStore d) => d.JsonAsync());
        var twice = await SetAsync(studio, Changed(s => s.Label == "function" ? s with { Rule = new WordsRule(), Join = "-" } : s));
        Assert.IsType<Refusal.TwoReadings>(twice.Refusal);
        var nameless = await SetAsync(
            studio,
            new Convention(
                [new("version", new VersionRule(), "")],
                new Dictionary<NameForm, IReadOnlyList<string>> { [NameForm.Working] = ["version"] }
            )
        );
        Assert.Contains("current form", Assert.IsType<Refusal.ConventionFaults>(nameless.Refusal).Faults[0]);
        // The studio's own codes decide too: TIM and T with nothing between.
        (await studio.Do((SetCode d) => d.AddAsync(studio.Ilse, "client", "T", "Trawler"))).Expect();
        Assert.IsType<Refusal.TwoReadings>(
            (
                await SetAsync(
                    studio,
                    Changed(s => s.Label == "subject" ? s with { Join = "", Rule = new WordsRule(Case: WordCase.Upper, Joiner: "") } : s)
                )
            ).Refusal
        );
        Assert.Equal(before, await studio.Do((ConventionStore d) => d.JsonAsync()));
    }

    [Fact]
    public async Task A_project_moves_as_a_whole_its_old_names_are_found_and_the_move_can_be_undone()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, "one"u8.ToArray());
        await studio.VersionAsync(piece, "two"u8.ToArray());
        (await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, piece.Id, new VersionNumber(1), "first"))).Expect();
        string[] old =
        [
            "TIM_moonpull-poster_key",
            "TIM_moonpull-poster_key_IK_001.ora",
            "TIM_moonpull-poster_key_IK_002.ora",
            "TIM_moonpull-poster_key_M01.ora",
        ];
        Assert.Equal(old, await NamesAsync(studio));

        var run = (await MoveAsync(studio, Led)).Expect();
        Assert.Equal(
            [
                "TIM_moonpull-poster.key",
                "TIM_moonpull-poster.key_IK_v0001.ora",
                "TIM_moonpull-poster.key_IK_v0002.ora",
                "TIM_moonpull-poster.key_M01.ora",
            ],
            await NamesAsync(studio)
        );
        Assert.Equal(4, run.Names.Count);
        var proposal = await studio.Do((PlaceFile d) => d.DoAsync(studio.Project.Id, old[1], "IK"));
        Assert.Equal((piece.Id, 1.0), (proposal.Places[0].PieceId, proposal.Places[0].Share));
        Assert.IsType<Refusal.HoldsConventionAlready>((await MoveAsync(studio, Led)).Refusal);

        await studio.VersionAsync(piece, "three"u8.ToArray());
        (await studio.Do((Remove d) => d.ProjectAsync(studio.Ilse, studio.Project.Id))).Expect();
        Assert.IsType<Refusal.NoSuchProject>((await studio.Do((MoveProject d) => d.UndoAsync(studio.Ilse, run.Id))).Refusal);
        (await studio.Do((Remove d) => d.TakeBackProjectAsync(studio.Ilse, studio.Project.Id))).Expect();
        (await studio.Do((MoveProject d) => d.UndoAsync(studio.Ilse, run.Id))).Expect();
        Assert.Equal([.. old[..3], "TIM_moonpull-poster_key_IK_003.ora", old[3]], await NamesAsync(studio));
        Assert.IsType<Refusal.MoveUndoneAlready>((await studio.Do((MoveProject d) => d.UndoAsync(studio.Ilse, run.Id))).Refusal);
    }

    [Fact]
    public async Task Names_that_are_much_alike_speak_for_the_one_that_they_say_wholly()
    {
        await using var studio = await StudioInUse.OpenAsync();
        foreach (var subject in new[] { "gull", "gull iron", "ember amber", "ember brass" })
            (await studio.Do((StartPiece d) => d.DoAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called(subject, "icon")))).Expect();
        foreach (
            var (name, piece) in new[]
            {
                ("gull icon 2.svg", "TIM_gull_icon"),
                ("gull iron icon.svg", "TIM_gull-iron_icon"),
                ("ember amber icon.svg", "TIM_ember-amber_icon"),
                ("embre brass icon.svg", "TIM_ember-brass_icon"),
            }
        )
        {
            var places = (await studio.Do((PlaceFile d) => d.DoAsync(studio.Project.Id, name, "IK"))).Places;
            Assert.Equal(piece, places[0].CurrentName);
            Assert.All(places.Skip(1), p => Assert.True((p.Share, -p.Unsaid).CompareTo((places[0].Share, -places[0].Unsaid)) < 0));
        }
    }

    [Fact]
    public async Task Names_that_change_places_go_round_without_meeting()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await studio.PieceAsync("Key sketch");
        (await studio.Do((StartPiece d) => d.DoAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called("sketch", "key")))).Expect();
        (await studio.Do((StartPiece d) => d.DoAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called("key", "sketch")))).Expect();
        // Under the new convention the two slots change places, and so do the two names.
        var plans = Convention.ForPlans();
        Slot[] turned = [plans.Slots[0], plans.Slots[2], plans.Slots[1], .. plans.Slots.Skip(3)];
        (
            await MoveAsync(
                studio,
                new Convention(
                    turned,
                    plans.Forms.ToDictionary(
                        f => f,
                        f => (IReadOnlyList<string>)[.. turned.Where(plans.Form(f).Contains).Select(s => s.Label)]
                    )
                )
            )
        ).Expect();
        Assert.Equal(["TIM_key_key-sketch", "TIM_key_sketch", "TIM_sketch_key"], (await NamesAsync(studio)).Order(StringComparer.Ordinal));
        Assert.Equal(
            "TIM_key_sketch",
            await studio.Do(
                (StudioDb db) => db.Pieces.Where(p => p.Slots.Contains("\"subject\":\"sketch\"")).Select(p => p.CurrentName).SingleAsync()
            )
        );
    }

    [Fact]
    public async Task A_move_that_would_make_one_name_of_two_renames_nothing()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await studio.PieceAsync("high water one");
        await studio.PieceAsync("high water two");
        var before = await NamesAsync(studio);
        var outcome = await MoveAsync(studio, Changed(s => s.Label == "subject" ? s with { Rule = new WordsRule(MaxLength: 10) } : s));
        Assert.Contains("both be “TIM_high-water_key”", Assert.IsType<Refusal.CannotRename>(outcome.Refusal).Why);
        Assert.Equal(before, await NamesAsync(studio));
        Assert.False(await studio.Do((StudioDb db) => db.RenameRuns.AnyAsync()));
    }

    [Fact]
    public async Task Slots_that_the_studio_adds_are_asked_for_and_stand_open_until_they_are_known()
    {
        await using var studio = await StudioInUse.OpenAsync();
        (await studio.Do((SetCode d) => d.AddAsync(studio.Ilse, "stage", "ink", "inked"))).Expect();
        var staged = Changed(s => s, ["stage"], new Slot("stage", new CodeRule("stage")));
        (await SetAsync(studio, staged)).Expect();
        var project = (
            await studio.Do((StartProject d) => d.DoAsync(studio.Ilse, new("INKED", "Inked", "Museum", "TIM", "print")))
        ).Expect();
        var open = (await studio.Do((StartPiece d) => d.DoAsync(studio.Ilse, project.Id, StudioInUse.Called("Gull", "key")))).Expect();
        Assert.Equal("TIM_gull_key_IK_001_tbd.ora", (await studio.VersionAsync(open, "one"u8.ToArray())).ExactName);
        var known = (
            await studio.Do(
                (StartPiece d) =>
                    d.DoAsync(
                        studio.Ilse,
                        project.Id,
                        new Dictionary<string, string>(StudioInUse.Called("Kelp", "key")) { ["stage"] = "ink" }
                    )
            )
        ).Expect();
        Assert.Equal("TIM_kelp_key_IK_001_ink.ora", (await studio.VersionAsync(known, "two"u8.ToArray())).ExactName);
        var stray = await studio.Do(
            (StartPiece d) =>
                d.DoAsync(
                    studio.Ilse,
                    project.Id,
                    new Dictionary<string, string>(StudioInUse.Called("Bell", "key")) { ["stage"] = "paint" }
                )
        );
        Assert.Equal("stage", stray.Refusal?.Field);
    }

    [Fact]
    public async Task Codes_are_added_meant_and_taken_off_only_while_nothing_is_called_by_them()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await studio.PieceAsync();
        Task<Outcome<CodeMeaning>> Add(string list, string code, string meaning = "x") =>
            studio.Do((SetCode d) => d.AddAsync(studio.Ilse, list, code, meaning));
        (await Add("function", "proof", "for the printer")).Expect();
        Assert.IsType<Refusal.CodeIsThere>((await Add("function", "PROOF")).Refusal);
        Assert.Equal("code", (await Add("function", "a_b")).Refusal?.Field);
        Assert.Contains("filler", Assert.IsType<Refusal.CodesBreakConvention>((await Add("function", "tbd")).Refusal).Why);
        Assert.IsType<Refusal.ListKeptElsewhere>((await Add("hand", "QQ")).Refusal);
        Assert.IsType<Refusal.CodeInUse>((await studio.Do((SetCode d) => d.RemoveAsync(studio.Ilse, "function", "key"))).Refusal);
        Assert.IsType<Refusal.CodeInUse>((await studio.Do((SetCode d) => d.RemoveAsync(studio.Ilse, "client", "TIM"))).Refusal);
        (await studio.Do((SetCode d) => d.MeanAsync(studio.Ilse, "function", "proof", "a proof"))).Expect();
        (await studio.Do((SetCode d) => d.RemoveAsync(studio.Ilse, "function", "proof"))).Expect();
        Assert.IsType<Refusal.NoSuchCode>((await studio.Do((SetCode d) => d.RemoveAsync(studio.Ilse, "function", "proof"))).Refusal);
    }

    [Theory]
    [InlineData("Moonpull poster final2 (3).ora", "moonpull-poster", "final2")]
    [InlineData("moonpul poster 12.03.2026.ora", "moonpul-poster", "12.03.2026")]
    [InlineData("key moonpull.png", "moonpull", "")]
    [InlineData("TIM_moonpull-poster_key_OB_044.ora", "moonpull-poster", "")]
    public async Task A_badly_named_file_is_read_as_far_as_it_goes_and_its_place_proposed(string name, string subject, string mark)
    {
        await using var studio = await StudioInUse.OpenAsync();
        await studio.PieceAsync("Tide table");
        var piece = await studio.PieceAsync();
        var proposal = await studio.Do((PlaceFile d) => d.DoAsync(studio.Project.Id, name, "OB"));
        Assert.Equal(piece.Id, proposal.Places[0].PieceId);
        Assert.NotEmpty(proposal.Places[0].Reasons);
        Assert.Equal(subject, proposal.Slots["subject"]);
        if (mark.Length > 0)
            Assert.Contains(proposal.Marks, m => name[m.TextAt..m.TextEnd] == mark);
    }

    [Theory]
    [InlineData("🌊🌊🌊.ora")]
    [InlineData("\u202E\u0000.ora")]
    [InlineData("(2).ora")]
    [InlineData("harbour at night.ora")]
    public async Task A_name_that_speaks_for_nothing_proposes_no_place(string name)
    {
        await using var studio = await StudioInUse.OpenAsync();
        await studio.PieceAsync();
        Assert.Empty((await studio.Do((PlaceFile d) => d.DoAsync(studio.Project.Id, name, "IK"))).Places);
    }

    [Fact]
    public async Task A_save_is_given_to_another_piece_and_stays_where_it_is()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var (poster, table) = (await studio.PieceAsync(), await studio.PieceAsync("Tide table"));
        var save = (await studio.TakeAsync(poster, "table"u8.ToArray(), "tide table.ora")).Save;
        (await studio.Do((BringBack d) => d.GiveAsync(studio.Ilse, save.PieceId, save.Id, table.CurrentName))).Expect();
        Assert.Equal(Assert.Single(await studio.SavesAsync(poster)).Identity, Assert.Single(await studio.SavesAsync(table)).Identity);
        Assert.IsType<Refusal.HoldsItAlready>(
            (await studio.Do((BringBack d) => d.GiveAsync(studio.Ilse, save.PieceId, save.Id, table.CurrentName))).Refusal
        );
        Assert.IsType<Refusal.NoSuchPiece>(
            (await studio.Do((BringBack d) => d.GiveAsync(studio.Ilse, save.PieceId, save.Id, "TIM_nothing_key"))).Refusal
        );
    }

    [Fact]
    public async Task A_project_whose_code_the_convention_cannot_hold_is_refused()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var plans = Convention.ForPlans();
        Slot[] slots = [plans.Slots[0], new("project", new CodeRule("project"), "-"), .. plans.Slots.Skip(1)];
        (
            await SetAsync(
                studio,
                new Convention(
                    slots,
                    plans.Labels.ToDictionary(f => f.Key, f => (IReadOnlyList<string>)["client", "project", .. f.Value.Skip(1)])
                )
            )
        ).Expect();
        var refused = await studio.Do((StartProject d) => d.DoAsync(studio.Ilse, new("TIDE-GUIDE", "Guide", "Museum", "TIM", "audio")));
        Assert.Contains("“TIDE-GUIDE” contains “-”", Assert.IsType<Refusal.CodesBreakConvention>(refused.Refusal).Why);
        (await studio.Do((StartProject d) => d.DoAsync(studio.Ilse, new("GUIDE", "Guide", "Museum", "TIM", "audio")))).Expect();
    }

    [Fact]
    public async Task The_first_number_past_its_width_is_told()
    {
        await using var studio = await StudioInUse.OpenAsync();
        (await SetAsync(studio, Changed(s => s.Rule is VersionRule ? s with { Rule = new VersionRule(Width: 1) } : s))).Expect();
        var project = (
            await studio.Do((StartProject d) => d.DoAsync(studio.Ilse, new("SHORT", "Short", "Museum", "TIM", "print")))
        ).Expect();
        var piece = (await studio.Do((StartPiece d) => d.DoAsync(studio.Ilse, project.Id, StudioInUse.Called("Gull", "key")))).Expect();
        await studio.Do(
            (StudioDb db) => db.Lines.Where(l => l.PieceId == piece.Id).ExecuteUpdateAsync(u => u.SetProperty(l => l.HighestNumber, 8))
        );
        Assert.Equal(
            [null, 1, null],
            new[]
            {
                await studio.VersionAsync(piece, "9"u8.ToArray()),
                await studio.VersionAsync(piece, "10"u8.ToArray()),
                await studio.VersionAsync(piece, "11"u8.ToArray()),
            }.Select(k => k.OutgrownWidth)
        );
    }
}
