using Chronotype.Core.Structure;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;

namespace Chronotype.Studio.Tests;

public class StartingTests
{
    private static NewProject New(
        string code = "OTHER",
        string title = "Another",
        string client = "Harbour",
        string clientCode = "HRB",
        string plan = "audio",
        int first = 1
    ) => new(code, title, client, clientCode, plan, first);

    [Theory]
    [InlineData("print")]
    [InlineData("animation")]
    [InlineData("audio")]
    public async Task A_project_starts_with_its_whole_plan_laid_out(string plan)
    {
        await using var studio = await StudioInUse.OpenAsync();
        var project = (await studio.Do((StartProject d) => d.DoAsync(studio.Ilse, New(plan: plan)))).Expect();
        Assert.Equal(FolderPlan.Of(plan).Folders.Select(f => (f.Path, f.Role)), project.Entries.Select(f => (f.Path, f.Role)));
        Assert.Contains(FolderPlan.Of(plan).Folders, f => f.Role == FolderRole.Home);
        var piece = await studio.Do(
            (StartPiece d) => d.DoAsync(studio.Ilse, project.Id, StudioInUse.Called("Thing", FolderPlan.Of(plan).Functions[0].Code))
        );
        Assert.StartsWith("HRB_thing_", piece.Expect().CurrentName);
    }

    [Fact]
    public async Task A_project_with_a_taken_or_impossible_code_is_refused_at_its_field()
    {
        await using var studio = await StudioInUse.OpenAsync();
        async Task Refused(NewProject asked, string field)
        {
            var outcome = await studio.Do((StartProject d) => d.DoAsync(studio.Ilse, asked));
            Assert.Equal((false, field), (outcome.Done, outcome.Refusal?.Field));
            Assert.NotNull(outcome.Refusal);
        }
        await Refused(New(code: "tides"), "Code");
        await Refused(New(code: "../x"), "Code");
        await Refused(New(code: "new"), "Code");
        await Refused(New(title: " "), "Title");
        await Refused(New(clientCode: "A_B"), "ClientCode");
        await Refused(New(client: ""), "ClientName");
        await Refused(New(plan: "none"), "Plan");
        await Refused(New(first: 2), "FirstNumber");
    }

    [Fact]
    public async Task A_known_clients_code_stands_for_that_client()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var project = (
            await studio.Do((StartProject d) => d.DoAsync(studio.Ilse, New(client: "Written otherwise", clientCode: "tim")))
        ).Expect();
        Assert.Equal(("TIM", "Museum"), (project.Client.Code, project.Client.Name));
    }

    [Fact]
    public async Task A_piece_reserves_its_name_before_there_is_content()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync("Moon pull: Poster!");
        Assert.Equal(("TIM_moon-pull-poster_key", "moon-pull-poster"), (piece.CurrentName, PieceNames.SlotsOf(piece)["subject"]));
        Assert.Equal(["working/TIM_moon-pull-poster_key"], await studio.PathsAsync(EntryKind.CurrentFile));
        var again = await studio.Do(
            (StartPiece d) => d.DoAsync(studio.Odo, studio.Project.Id, StudioInUse.Called("moon pull poster", "key"))
        );
        Assert.Equal((false, "subject"), (again.Done, again.Refusal?.Field));
        Assert.True(
            (
                await studio.Do(
                    (StartPiece d) => d.DoAsync(studio.Odo, studio.Project.Id, StudioInUse.Called("moon pull poster", "sketch"))
                )
            ).Done
        );
    }

    [Fact]
    public async Task Two_who_start_the_same_piece_at_once_start_one()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var outcomes = await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(_ =>
                    Task.Run(() =>
                        studio.Do((StartPiece d) => d.DoAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called("Same", "key")))
                    )
                )
        );
        Assert.Single(outcomes, o => o.Done);
    }

    [Theory]
    [InlineData("🌊🌊🌊", "key", "subject")]
    [InlineData("poster", "nothing", "function")]
    public async Task A_piece_without_a_legal_name_is_refused_in_words(string subject, string function, string field)
    {
        await using var studio = await StudioInUse.OpenAsync();
        var outcome = await studio.Do((StartPiece d) => d.DoAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called(subject, function)));
        Assert.Equal(field, outcome.Refusal?.Field);
    }

    [Fact]
    public async Task A_subject_of_any_length_is_cut_to_what_a_name_takes()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = (
            await studio.Do(
                (StartPiece d) => d.DoAsync(studio.Ilse, studio.Project.Id, StudioInUse.Called(new string('x', 100_000), "key"))
            )
        ).Expect();
        Assert.Equal(40, PieceNames.SlotsOf(piece)["subject"].Length);
    }

    [Fact]
    public async Task A_studio_has_one_founding()
    {
        await using var studio = await StudioInUse.OpenAsync();
        Assert.False((await studio.Do((FoundStudio d) => d.DoAsync("Another", new NewPerson("Eve", "EV", "ten letters and more")))).Done);
    }

    [Theory]
    [InlineData("Ivo Kant", "ik", "ten letters and more", "Initials")]
    [InlineData("Ivo Kant", "I", "ten letters and more", "Initials")]
    [InlineData("Ivo Kant", "I1", "ten letters and more", "Initials")]
    [InlineData("", "IV", "ten letters and more", "Name")]
    [InlineData("Ivo Kant", "IV", "short", "Password")]
    public async Task A_person_has_a_name_unique_initials_and_a_password(string name, string initials, string password, string field)
    {
        await using var studio = await StudioInUse.OpenAsync();
        Assert.Equal(
            field,
            (await studio.Do((AddPerson d) => d.DoAsync(studio.Ilse, new NewPerson(name, initials, password)))).Refusal?.Field
        );
    }
}
