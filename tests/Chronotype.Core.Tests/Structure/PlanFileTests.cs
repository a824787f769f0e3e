using System.Text;
using System.Text.Json;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;

namespace Chronotype.Core.Tests.Structure;

public class PlanFileTests
{
    private static readonly FolderPlan Windows = FolderPlan.Of("print") with
    {
        Key = "shop-windows",
        Title = "Shop windows",
        Keep = KeepSetting.OncePerSitting,
        Spec = new ProjectSpec { Picture = new(Resolution: 150, Colour: ColourModel.Cmyk), Motion = new(1080, 1920, 29.97) },
        Convention = Convention.ForPlans(),
        Reserved =
        [
            new ReservedName(new Dictionary<string, string> { ["subject"] = "front window", ["function"] = "key" }),
            new ReservedName(new Dictionary<string, string> { ["subject"] = "door" }),
        ],
    };

    public static TheoryData<string> Usual => [.. FolderPlan.All.Select(p => p.Key)];

    [Theory]
    [MemberData(nameof(Usual))]
    public void Every_plan_that_studios_begin_with_is_legal_and_reads_back_as_it_was_written(string key) => ReadsBack(FolderPlan.Of(key));

    [Fact]
    public void A_plan_with_a_spec_a_convention_and_reserved_names_reads_back_whole()
    {
        var read = ReadsBack(Windows);
        Assert.Equal((Windows.Spec, Windows.Keep), (read.Spec, read.Keep));
        Assert.Equal(ConventionFile.Write(Windows.Convention!, withLists: false), ConventionFile.Write(read.Convention!, withLists: false));
        Assert.Equal(["front window", "door"], read.Reserved.Select(r => r.Slots["subject"]));
    }

    private static FolderPlan ReadsBack(FolderPlan plan)
    {
        Assert.Empty(PlanRules.Check(plan));
        var text = PlanFile.Write(plan);
        var read = PlanFile.Read(text);
        Assert.Empty(read.Faults);
        Assert.Equal(text, PlanFile.Write(read.Plan!));
        Assert.Equal(plan.Folders, read.Plan!.Folders);
        return read.Plan;
    }

    [Fact]
    public void Every_fault_of_a_file_is_told_with_its_place()
    {
        var faults = PlanFile
            .Read(
                """
                {
                  "plan": "Shop", "title": "", "colour": 1, "keep": "sometimes",
                  "folders": [
                    { "path": "../out", "role": "assets" },
                    { "path": "work", "role": "kitchen" },
                    { "path": "C:/x", "role": "home" }
                  ],
                  "functions": [{ "code": "key", "mean": "x" }],
                  "spec": { "sound": { "sampleRate": 44.1 } }
                }
                """
            )
            .Faults.ToDictionary(f => f.Place, f => f.Message);
        Assert.Equal(
            ["colour", "folders[0].path", "folders[1].role", "folders[2].path", "functions[0].mean", "keep", "spec.sound.sampleRate"],
            faults.Keys.Order(StringComparer.Ordinal)
        );
        Assert.Contains("originals, working, outputs, assets, documents, home", faults["folders[1].role"]);
        Assert.Contains("no path of folders", faults["folders[0].path"]);
    }

    [Theory]
    [InlineData("assets/CON", FolderRole.Assets, "folders[11].path", "device")]
    [InlineData("Assets", FolderRole.Assets, "folders[11].path", "twice")]
    [InlineData("nowhere/deep", FolderRole.Assets, "folders[11].path", "not in the plan")]
    [InlineData("working/sound", FolderRole.Assets, "folders[11].role", "is a working folder")]
    [InlineData("assets/scenes", FolderRole.Home, "folders[11].role", "is no working folder")]
    public void A_folder_that_no_project_could_have_is_a_fault(string path, FolderRole role, string place, string says)
    {
        var plan = Windows with { Folders = [.. FolderPlan.Of("print").Folders, new(ProjectPath.Parse(path), role, "")] };
        var fault = Assert.Single(PlanRules.Check(plan));
        Assert.Equal(place, fault.Place);
        Assert.Contains(says, fault.Message);
    }

    [Fact]
    public void A_plan_without_a_place_for_current_files_is_none()
    {
        var plan = Windows with { Folders = [new(ProjectPath.Parse("assets"), FolderRole.Assets, "")] };
        Assert.Contains("home", Assert.Single(PlanRules.Check(plan)).Message);
    }

    [Fact]
    public void Folders_stand_after_the_one_that_they_lie_in_and_else_in_their_own_order()
    {
        PlanFolder Of(string path) => new(ProjectPath.Parse(path), FolderRole.Assets, "");
        var folders = new[] { Of("b/x"), Of("a/z/deep"), Of("b"), Of("a"), Of("a/z"), Of("a/b"), Of("lost/child") };
        Assert.Equal(["b", "b/x", "a", "a/z", "a/z/deep", "a/b", "lost/child"], FolderPlan.InOrder(folders).Select(f => f.Path.Text));
    }

    [Fact]
    public void No_mutation_of_a_file_makes_reading_throw()
    {
        var random = new Random(11);
        var sound = Encoding.UTF8.GetBytes(PlanFile.Write(Windows));
        var read = 0;
        for (var n = 0; n < Thorough.Times(400, 10_000); n++)
        {
            var result = PlanFile.Read(Encoding.UTF8.GetString(Mutations.Of(sound, random)));
            Assert.Equal(result.Plan is null, result.Faults.Count > 0);
            read += result.Plan is null ? 0 : 1;
        }
        Assert.True(read > 0, "Not one mutation was harmless: they say nothing about plans that are read.");
    }

    [Theory]
    [InlineData("")]
    [InlineData("[]")]
    [InlineData("null")]
    [InlineData("{\"chronotype\": 7}")]
    [InlineData("{\"title\": \"\\ud800\"}")]
    public void What_is_no_plan_is_refused_with_a_reason(string text) => Assert.NotEmpty(PlanFile.Read(text).Faults);

    [Fact]
    public void The_plan_that_the_page_shows_is_one()
    {
        var page = DocsFolder.Read("plans.md");
        var from = page.IndexOf("```json", StringComparison.Ordinal) + 7;
        var read = PlanFile.Read(page[from..page.IndexOf("```", from, StringComparison.Ordinal)]);
        Assert.Empty(read.Faults);
        Assert.Equal("shop-windows", read.Plan!.Key);
    }

    [Fact]
    public void The_schema_knows_every_role_setting_and_colour()
    {
        var schema = JsonDocument.Parse(DocsFolder.Read("plan.schema.json")).RootElement;
        var properties = schema.GetProperty("properties");
        static string Key(object value) => JsonNamingPolicy.CamelCase.ConvertName(value.ToString()!);
        static IEnumerable<string> Choices(JsonElement of) => of.GetProperty("enum").EnumerateArray().Select(v => v.GetString()!);
        Assert.Equal(
            Enum.GetValues<FolderRole>().Select(r => Key(r)),
            Choices(properties.GetProperty("folders").GetProperty("items").GetProperty("properties").GetProperty("role"))
        );
        Assert.Equal(Enum.GetValues<KeepSetting>().Select(r => Key(r)), Choices(properties.GetProperty("keep")));
        Assert.Equal(
            Enum.GetValues<ColourModel>().Select(r => Key(r)),
            Choices(
                properties
                    .GetProperty("spec")
                    .GetProperty("properties")
                    .GetProperty("picture")
                    .GetProperty("properties")
                    .GetProperty("colour")
            )
        );
        using var written = JsonDocument.Parse(PlanFile.Write(Windows));
        Assert.All(written.RootElement.EnumerateObject(), p => Assert.True(properties.TryGetProperty(p.Name, out _), p.Name));
    }
}
