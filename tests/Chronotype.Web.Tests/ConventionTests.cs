using System.Net;
using System.Text;
using Chronotype.Core.Naming;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Tests;

public class ConventionTests
{
    private static Dictionary<string, string> Draft(params (string Field, string Value)[] more)
    {
        var fields = new Dictionary<string, string> { ["filler"] = "tbd" };
        var slots = new[]
        {
            ("client", "code"),
            ("subject", "words"),
            ("function", "code"),
            ("hand", "hand"),
            ("version", "version"),
            ("milestone", "milestone"),
        };
        for (var i = 0; i < slots.Length; i++)
            (fields[$"s.{i}.label"], fields[$"s.{i}.kind"], fields[$"s.{i}.join"]) = (slots[i].Item1, slots[i].Item2, "_");
        foreach (var (field, value) in more)
            fields[field] = value;
        return fields;
    }

    [Fact]
    public async Task A_page_without_scripts_reads_the_draft_and_shows_its_faults()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        var page = WebUtility.HtmlDecode(
            await (
                await owner.PostAsync("/convention?handler=Draft", Draft(("s.4.width", "ten"), ("f.working", "4")), from: "/convention")
            ).Content.ReadAsStringAsync()
        );
        Assert.Contains("This is a whole number.", page);
        Assert.Contains("A draft of the studio’s convention", page);
    }

    [Theory]
    [InlineData("lists", "{")]
    [InlineData("lists", "[1,2]")]
    [InlineData("lists", """{"client":5,"x":[{"code":"\ud800"}]}""")]
    [InlineData("load", """{"slots":[5,{"label":7,"kind":null}],"forms":{"working":"x","current":[null]}}""")]
    [InlineData("load", "]]")]
    [InlineData("op", "move:99999999999:0")]
    [InlineData("op", "remove:-1")]
    [InlineData("f.current", "999")]
    [InlineData("s.0.kind", "<script>")]
    [InlineData("s.1.label", "\u202E\uD800")]
    [InlineData("s.4.width", "99999999999999999999")]
    [InlineData("s.1.joiner", "/")]
    [InlineData("filler", "…")]
    public async Task A_hostile_draft_is_answered_and_changes_nothing(string field, string value)
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        foreach (var handler in new[] { "Draft", "Save", "Export" })
        {
            var answer = await owner.PostAsync($"/convention?handler={handler}", Draft((field, value)), from: "/convention");
            Assert.Equal((handler, HttpStatusCode.OK), (handler, answer.StatusCode));
        }
        Assert.Null(await studio.Read(db => db.Studio.Select(s => s.Convention).SingleAsync()));
    }

    [Fact]
    public async Task A_file_of_a_hundred_megabytes_is_refused_with_a_sentence()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.FoundAsync();
        async Task<string> ImportAsync(byte[] content) =>
            WebUtility.HtmlDecode(
                await (await owner.UploadAsync("/convention?handler=Import", content, "ours.json")).Content.ReadAsStringAsync()
            );
        Assert.Contains("The file is larger than 4 MB", await ImportAsync(new byte[100_000_000]));
        Assert.Contains(
            "ours.json was not imported, and nothing was changed",
            await ImportAsync(Encoding.UTF8.GetBytes("{ \"slots\": [] }"))
        );
        Assert.Contains(
            "ours.json is the draft below",
            await ImportAsync(
                Encoding.UTF8.GetBytes(
                    ConventionFile.Write(
                        Convention
                            .ForPlans()
                            .With(new Dictionary<string, CodeList> { ["client"] = CodeList.Of("TIM"), ["function"] = CodeList.Of("key") })
                    )
                )
            )
        );
    }

    [Fact]
    public async Task Only_the_owner_puts_a_convention_into_use_moves_projects_and_keeps_codes()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.PostAsync(
            "/people",
            new()
            {
                ["name"] = "Odo Barreau",
                ["initials"] = "OB",
                ["password"] = "ten letters and more",
            }
        );
        var other = new Visitor(studio.Address);
        await other.PostAsync("/sign-in", new() { ["initials"] = "OB", ["password"] = "ten letters and more" });
        var project = await studio.Read(db => db.Projects.Select(p => p.Id).SingleAsync());
        foreach (
            var (address, fields) in new (string, Dictionary<string, string>)[]
            {
                ("/convention?handler=Save", new() { ["load"] = ConventionFile.Write(Convention.ForPlans(), withLists: false) }),
                ("/convention?handler=Undo", []),
                ("/convention?handler=Move", new() { ["project"] = $"{project}" }),
                ("/convention?handler=MoveBack", new() { ["run"] = $"{project}" }),
                ("/convention/codes?handler=Add", new() { ["list"] = "function", ["code"] = "x" }),
                (
                    "/convention/codes?handler=Mean",
                    new()
                    {
                        ["list"] = "function",
                        ["code"] = "key",
                        ["meaning"] = "x",
                    }
                ),
                ("/convention/codes?handler=Remove", new() { ["list"] = "function", ["code"] = "key" }),
            }
        )
        {
            Assert.Equal(
                (address, HttpStatusCode.Forbidden),
                (address, (await other.PostAsync(address, fields, from: "/convention")).StatusCode)
            );
        }
        Assert.Equal(HttpStatusCode.OK, (await other.PostAsync("/convention?handler=Draft", Draft(), from: "/convention")).StatusCode);
    }

    [Fact]
    public async Task The_old_address_of_a_piece_leads_to_it_after_its_project_moved()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync("one"u8.ToArray(), "poster.txt");
        var fields = Draft(("s.2.join", "."), ("f.current", "0"), ("s.1.joiner", "-"));
        // A form's fields may stand more than once, which a dictionary cannot: the draft is loaded whole instead.
        fields["load"] = ConventionFile
            .Write(Convention.ForPlans(), withLists: false)
            .Replace("\"list\":\"function\",\"join\":\"_\"", "\"list\":\"function\",\"join\":\".\"");
        Assert.Equal(HttpStatusCode.Redirect, (await owner.PostAsync("/convention?handler=Save", fields, from: "/convention")).StatusCode);
        var project = await studio.Read(db => db.Projects.Select(p => p.Id).SingleAsync());
        await owner.PostAsync("/convention?handler=Move", new() { ["project"] = $"{project}" }, from: "/convention");
        var answer = await owner.GetAsync("/projects/TIDES/TIM_moonpull-poster_key");
        Assert.Equal(
            (HttpStatusCode.Redirect, "/projects/TIDES/TIM_moonpull-poster.key"),
            (answer.StatusCode, answer.Headers.Location!.OriginalString)
        );
        Assert.Contains("TIM_moonpull-poster.key_IK_001", await owner.PageAsync("/projects/TIDES/TIM_moonpull-poster.key"));
    }
}
