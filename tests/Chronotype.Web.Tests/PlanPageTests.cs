using System.Net;
using System.Text;
using Chronotype.Core.Structure;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Tests;

/// <summary>Folder plans, specs and what leaves the studio, as a browser without scripts asks for them.</summary>
public class PlanPageTests
{
    private static async Task<HttpResponseMessage> ImportAsync(Visitor client, string text) =>
        await client.SendAsync(
            new HttpRequestMessage(HttpMethod.Post, "/plans?handler=Import")
            {
                Content = new MultipartFormDataContent
                {
                    { new StringContent(await client.TokenAsync("/plans")), "__RequestVerificationToken" },
                    { new ByteArrayContent(Encoding.UTF8.GetBytes(text)), "file", "windows.plan.json" },
                },
            }
        );

    [Fact]
    public async Task A_plan_goes_out_as_a_file_and_comes_in_again_beside_the_one_that_is_there()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        var file = await client.GetAsync("/plans/audio?handler=File");
        Assert.Equal("audio.plan.json", file.Content.Headers.ContentDisposition!.FileName);
        var text = await file.Content.ReadAsStringAsync();
        Assert.Equal(PlanFile.Write(FolderPlan.Of("audio")), text);

        Assert.Equal(HttpStatusCode.Redirect, (await ImportAsync(client, text)).StatusCode);
        var page = await client.PageAsync("/plans");
        Assert.Contains("as audio-2, since there is a plan audio already", page);
        Assert.Contains("/plans/audio-2", page);
        Assert.Contains("plan-audio-2", await client.PageAsync("/projects/new"));
    }

    [Theory]
    [InlineData("no json", "This is no JSON")]
    [InlineData("{\"plan\": \"x\", \"title\": \"X\", \"folders\": [{\"path\": \"../out\", \"role\": \"home\"}]}", "folders[0].path")]
    [InlineData("{\"plan\": \"x\", \"title\": \"X\", \"folders\": []}", "No folder is for current files")]
    public async Task A_file_that_is_no_plan_is_refused_with_its_faults(string text, string says)
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        var answer = WebUtility.HtmlDecode(await (await ImportAsync(client, text)).Content.ReadAsStringAsync());
        Assert.Contains(says, answer);
        Assert.Contains("Nothing was taken in.", answer);
        Assert.Empty(await studio.Read(db => db.Plans.ToListAsync()));
    }

    [Fact]
    public async Task A_plan_is_written_in_a_form_and_what_is_wrong_with_it_stays_to_be_mended()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        Dictionary<string, string> Form(string folder) =>
            new()
            {
                ["Title"] = "Shop windows",
                ["FolderPath"] = folder,
                ["FolderRole"] = "Home",
                ["FolderPurpose"] = "current files",
                ["FunctionCode"] = "pane",
                ["FunctionMeaning"] = "one pane",
                ["Resolution"] = "150",
            };
        var wrong = WebUtility.HtmlDecode(await (await client.PostAsync("/plans/new", Form("../work"))).Content.ReadAsStringAsync());
        Assert.Contains("“../work” is no path of folders", wrong);
        Assert.Contains("value=\"../work\"", wrong);
        var made = await client.PostAsync("/plans/new", Form("working"));
        Assert.Equal("/plans/shop-windows", made.Headers.Location!.ToString());
        var changed = Form("studio");
        changed["Resolution"] = "many";
        Assert.Contains(
            "Resolution of the spec cannot be that",
            await (await client.PostAsync("/plans/shop-windows", changed)).Content.ReadAsStringAsync()
        );
        changed["Resolution"] = "200";
        await client.PostAsync("/plans/shop-windows", changed);
        Assert.Contains("studio/", await client.PageAsync("/plans/shop-windows"));
        await client.PostAsync("/plans/shop-windows?handler=Undo", []);
        Assert.Contains("value=\"working\"", await client.PageAsync("/plans/shop-windows"));
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/plans/none")).StatusCode);
    }

    [Fact]
    public async Task A_spec_that_is_typed_shows_what_would_be_off_before_it_is_set()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        await client.StartPieceAsync(Samples.Wave(0.1, 1, 44_100, 1), "mix.wav", "Mix");
        await studio.SettledAsync();
        var asked = await client.PageAsync("/spec/TIDES?handler=Off&typed=true&SampleRate=48000&Channels=2");
        Assert.Contains("Set the spec; 1 file is off it", asked);
        Assert.Contains("44.1 kHz", asked);
        Assert.Contains("should be stereo", asked);
        Assert.DoesNotContain("off the spec</h3>", await client.PageAsync("/projects/TIDES"));
        var preset = await client.PageAsync("/spec/TIDES?typed=true&preset=compact-disc&Resolution=300");
        Assert.Contains("value=\"44100\"", preset);
        Assert.Contains("value=\"300\"", preset);

        await client.PostAsync("/spec/TIDES", new() { ["SampleRate"] = "48000" });
        Assert.Contains("1 file is off the spec", await client.PageAsync("/projects/TIDES"));
        var wrong = await (await client.PostAsync("/spec/TIDES", new() { ["SampleRate"] = "fast" })).Content.ReadAsStringAsync();
        Assert.Contains("Sample rate: this cannot be.", wrong);
        Assert.Contains("1 file is off the spec", await client.PageAsync("/projects/TIDES"));
    }

    [Fact]
    public async Task What_a_program_keeps_for_itself_is_left_behind_where_that_is_asked_for()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        const string svg = """
            <svg xmlns="http://www.w3.org/2000/svg" xmlns:x="urn:made:editor" width="9" height="9" x:zoom="2"><rect width="4" height="4"/><image href="../assets/lost.png"/></svg>
            """;
        await client.StartPieceAsync(Encoding.UTF8.GetBytes(svg), "poster.svg");
        await studio.SettledAsync();
        var save = Assert.Single(await studio.SavesAsync());
        Assert.Contains("without its maker’s settings", WebUtility.HtmlDecode(await client.PiecePageAsync()));
        Assert.DoesNotContain("x:zoom", await client.PageAsync($"/saves/{save.Id}/bare"));
        Assert.Contains("x:zoom", await client.PageAsync($"/saves/{save.Id}/file"));
        async Task<string> Gathered()
        {
            using var zip = new System.IO.Compression.ZipArchive(new MemoryStream(await client.BytesAsync($"/saves/{save.Id}/gathered")));
            using var reader = new StreamReader(Assert.Single(zip.Entries).Open());
            return await reader.ReadToEndAsync();
        }
        Assert.Contains("x:zoom", await Gathered());
        await client.PostAsync("/studio", new() { ["LeavesSettings"] = "true" });
        Assert.DoesNotContain("x:zoom", await Gathered());
        var packed = await client.GetAsync($"/saves/{save.Id}/packed");
        Assert.DoesNotContain("x:zoom", await packed.Content.ReadAsStringAsync());
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync($"/saves/{Guid.NewGuid()}/bare")).StatusCode);
        // What is stored stays as it is.
        Assert.Contains("x:zoom", await client.PageAsync($"/saves/{save.Id}/file"));
    }

    [Fact]
    public async Task What_texts_refer_to_is_tried_set_and_then_shown_on_the_piece()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        var text = "texture = \"../assets/lost.png\"\n"u8.ToArray();
        await client.StartPieceAsync(text, "poster.scene");
        await studio.SettledAsync();
        Assert.DoesNotContain("Refers to", await client.PiecePageAsync());

        Dictionary<string, string> Asked(string line, string ending = ".scene") =>
            new()
            {
                ["Ending"] = ending,
                ["Line"] = line,
                ["sample"] = "x\ntexture=\"a b.png\"",
            };
        var tried = await client.PostAsync("/studio?handler=Try", Asked("texture = \"{file}\"", ""));
        Assert.Contains("a b.png", await tried.Content.ReadAsStringAsync());
        var wrong = await client.PostAsync("/studio?handler=Patterns", Asked("texture"));
        Assert.Contains("does not say where the path stands", await wrong.Content.ReadAsStringAsync());
        await client.PostAsync("/studio?handler=Patterns", Asked("texture = \"{file}\""));
        Assert.Contains("1 text is read anew", await client.PageAsync("/studio"));
        await studio.SettledAsync();
        Assert.Contains("Refers to", await client.PiecePageAsync());
    }

    [Fact]
    public async Task A_sidecar_that_is_added_to_a_piece_goes_with_it_and_may_be_made_a_save()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var client = await studio.WithProjectAsync();
        await client.StartPieceAsync(Samples.Png(9, 9), "poster.png");
        await client.SaveAsync("rated"u8.ToArray(), "poster.png.xmp");
        var page = WebUtility.HtmlDecode(await client.PiecePageAsync());
        Assert.Contains("It goes with this piece’s file now", page);
        Assert.Contains("Goes with it", page);
        var save = Assert.Single(await studio.SavesAsync());
        using (var zip = new System.IO.Compression.ZipArchive(new MemoryStream(await client.BytesAsync($"/saves/{save.Id}/gathered"))))
            Assert.Equal([".png", ".xmp"], zip.Entries.Select(e => Path.GetExtension(e.Name)).Order());
        var entry = System.Text.RegularExpressions.Regex.Match(page, "name=\"entry\" value=\"([^\"]+)\"").Groups[1].Value;
        var panel = WebUtility.HtmlDecode(
            await client.PageAsync((await client.GetAsync($"/tree/TIDES?file={entry}")).Headers.Location!.ToString())
        );
        Assert.Contains("Goes with <a", panel);
        Assert.DoesNotContain("Rename…</button>", panel[panel.IndexOf("data-panel", StringComparison.Ordinal)..]);
        await client.ActAsync("CompanionAsSave", new() { ["entry"] = entry });
        Assert.Equal(2, (await studio.SavesAsync()).Count);
    }
}
