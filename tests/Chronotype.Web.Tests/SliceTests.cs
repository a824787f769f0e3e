using System.IO.Compression;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Tests;

/// <summary>The way of a save through the real server: in, numbered, seen, and out again.</summary>
public class SliceTests
{
    private static byte[] Poster(byte red) =>
        Samples.OpenRaster(60, 60, new Samples.OraLayer("Sky", 60, 60, red), new Samples.OraLayer("Moon", 20, 20));

    private static async Task<string> ErrorOf(HttpResponseMessage response) =>
        JsonDocument.Parse(await response.Content.ReadAsStringAsync()).RootElement.GetProperty("error").GetString()!;

    [Fact]
    public async Task A_piece_starts_with_a_file_and_its_versions_come_back_under_their_exact_names()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        var started = await owner.StartPieceAsync(Poster(1), "Moonpull FINAL.ora");
        Assert.Contains("/projects/TIDES/TIM_moonpull-poster_key", await started.Content.ReadAsStringAsync());
        Assert.Contains("Kept as 001: TIM_moonpull-poster_key_IK_001.ora", await owner.PiecePageAsync());

        await owner.SaveAsync(Poster(2));
        Assert.Contains("Keep as 002", await owner.PiecePageAsync());
        await owner.ActAsync("Keep", new() { ["note"] = "warmer" });
        await owner.ActAsync("Milestone", new() { ["reason"] = "client round 1" });
        var page = await owner.PiecePageAsync();
        Assert.Contains("002 is milestone M01, “client round 1”.", page);
        Assert.Contains("All kept", page);

        var saves = await studio.SavesAsync();
        async Task Downloads(string query, int version, string name, byte[] content)
        {
            var response = await owner.GetAsync($"/saves/{saves[version - 1].Id}/file{query}");
            Assert.Equal(name, response.Content.Headers.ContentDisposition!.FileName?.Trim('"'));
            Assert.Equal(content, await response.Content.ReadAsByteArrayAsync());
        }
        await Downloads("", 1, "TIM_moonpull-poster_key_IK_001.ora", Poster(1));
        await Downloads("?milestone=true", 2, "TIM_moonpull-poster_key_M01.ora", Poster(2));
        Assert.Equal(HttpStatusCode.NotFound, (await owner.GetAsync($"/saves/{saves[0].Id}/file?milestone=true")).StatusCode);
    }

    [Fact]
    public async Task Keeping_the_same_again_says_what_it_equals()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "a.ora");
        await owner.SaveAsync(Poster(1));
        Assert.Contains("Nothing changed since 001", await owner.PiecePageAsync());
        Assert.Single(await studio.SavesAsync());
    }

    [Fact]
    public async Task Two_people_who_keep_at_once_get_two_numbers_and_the_later_is_told()
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
        var odo = new Visitor(studio.Address);
        await odo.PostAsync("/sign-in", new() { ["initials"] = "OB", ["password"] = "ten letters and more" });
        await owner.StartPieceAsync(Poster(1), "a.ora");
        await owner.SaveAsync(Poster(2));
        await odo.SaveAsync(Poster(3));
        var loose = (await studio.SavesAsync()).Where(s => s.Number is null).Select(s => s.Id.ToString()).ToList();

        await Task.WhenAll(owner.ActAsync("Keep", new() { ["save"] = loose[0] }), odo.ActAsync("Keep", new() { ["save"] = loose[1] }));
        Assert.Equal([1, 2, 3], (await studio.SavesAsync()).Select(s => s.Number!.Value).Order());
        var pages = new[] { await owner.PiecePageAsync(), await odo.PiecePageAsync() };
        Assert.Single(pages, p => p.Contains("Kept as 003. It was based on 001, but 002 is newer"));
        Assert.Single(pages, p => p.Contains("Kept as 002: "));
    }

    [Fact]
    public async Task A_doubtful_save_waits_at_a_question_that_can_be_answered()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "a.ora");
        await owner.SaveAsync(Poster(2)[..800]);
        var id = (await studio.SavesAsync())[^1].Id.ToString();
        await owner.ActAsync("Keep", new() { ["save"] = id });
        var page = await owner.PiecePageAsync();
        Assert.Contains("cut short or damaged", page);
        Assert.Contains("Keep as 002 anyway", page);
        await owner.ActAsync("Keep", new() { ["save"] = id, ["insist"] = "true" });
        Assert.Equal(2, (await studio.SavesAsync())[^1].Number);
    }

    [Fact]
    public async Task A_reserved_piece_begins_with_the_first_save_that_arrives()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        using var form = new MultipartFormDataContent
        {
            { new StringContent(await owner.TokenAsync("/people")), "__RequestVerificationToken" },
            { new StringContent("Moonpull poster"), "slot.subject" },
            { new StringContent("key"), "slot.function" },
        };
        // As a browser without scripts sends it: the token as a field, an empty file part, and a page as the answer.
        var empty = new ByteArrayContent([]);
        empty.Headers.ContentDisposition = new ContentDispositionHeaderValue("form-data") { Name = "file", FileName = "\"\"" };
        form.Add(empty);
        var response = await owner.SendAsync(new HttpRequestMessage(HttpMethod.Post, "/projects/TIDES/pieces") { Content = form });
        Assert.Equal("/projects/TIDES/TIM_moonpull-poster_key", response.Headers.Location!.OriginalString);
        Assert.Contains("The name is reserved", await owner.PiecePageAsync());

        await owner.SaveAsync(Poster(1));
        Assert.Equal(1, Assert.Single(await studio.SavesAsync()).Number);
    }

    [Fact]
    public async Task A_piece_whose_first_file_was_cut_off_can_be_started_again()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        var request = new HttpRequestMessage(HttpMethod.Post, "/projects/TIDES/pieces")
        {
            Content = new StringContent(
                "--cut\r\nContent-Disposition: form-data; name=\"slot.subject\"\r\n\r\nMoonpull "
                    + "poster\r\n--cut\r\nContent-Disposition: form-data; name=\"slot.function\"\r\n\r\nkey\r\n"
                    + "--cut\r\nContent-Disposition: form-data; name=\"file\"; filename=\"a.ora\"\r\n\r\nhalf a fi"
            ),
        };
        request.Content.Headers.ContentType = MediaTypeHeaderValue.Parse("multipart/form-data; boundary=cut");
        request.Headers.Add("X-Form-Token", await owner.TokenAsync("/people"));
        request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json"));
        Assert.Contains("did not arrive whole", await ErrorOf(await owner.SendAsync(request)));
        Assert.Empty(await studio.SavesAsync());

        Assert.True((await owner.StartPieceAsync(Poster(1), "a.ora")).IsSuccessStatusCode);
        Assert.Equal(1, Assert.Single(await studio.SavesAsync()).Number);
        Assert.Contains("is there already", await ErrorOf(await owner.StartPieceAsync(Poster(2), "a.ora")));
    }

    [Fact]
    public async Task A_folder_leaves_as_a_zip_of_the_files_that_came()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Zip(("job/main.lay", "main"), ("job/pics/a.txt", "a")), "job.zip");
        var save = Assert.Single(await studio.SavesAsync());
        var response = await owner.GetAsync($"/saves/{save.Id}/file");
        Assert.Equal("TIM_moonpull-poster_key_IK_001.zip", response.Content.Headers.ContentDisposition!.FileName?.Trim('"'));
        using var zip = new ZipArchive(await response.Content.ReadAsStreamAsync());
        Assert.Equal(
            ["TIM_moonpull-poster_key_IK_001/main.lay", "TIM_moonpull-poster_key_IK_001/pics/a.txt"],
            zip.Entries.Select(e => e.FullName)
        );
        using var reader = new StreamReader(zip.Entries[1].Open());
        Assert.Equal("a", await reader.ReadToEndAsync());
    }

    [Fact]
    public async Task Pictures_are_drawn_and_a_recording_can_be_sought_in()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "a.ora");
        var picture = await owner.GetAsync($"/saves/{(await studio.SavesAsync())[0].Id}/preview/480");
        Assert.Equal("image/webp", picture.Content.Headers.ContentType!.MediaType);

        var wave = Samples.Wave(1);
        await owner.StartPieceAsync(wave, "mix.wav", "Mix");
        var id = (await studio.SavesAsync()).Single(s => s.ReceivedName == "mix.wav").Id;
        Assert.Equal("image/svg+xml", (await owner.GetAsync($"/saves/{id}/preview/1600")).Content.Headers.ContentType!.MediaType);
        var request = new HttpRequestMessage(HttpMethod.Get, $"/saves/{id}/sound");
        request.Headers.Range = new RangeHeaderValue(1000, 1999);
        var part = await owner.SendAsync(request);
        Assert.Equal(HttpStatusCode.PartialContent, part.StatusCode);
        Assert.Equal(wave[1000..2000], await part.Content.ReadAsByteArrayAsync());
    }

    [Fact]
    public async Task Pictures_and_their_difference_are_had_tile_by_tile_and_kept_by_browsers_only_under_their_contents_address()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "a.ora");
        await owner.SaveAsync(Poster(2), "a.ora");
        var saves = await studio.SavesAsync();
        var (first, second) = (saves[0].Id, saves[1].Id);

        using var told = JsonDocument.Parse(await owner.PageAsync($"/saves/{second}/against/{first}/tiles"));
        var (address, query) = (told.RootElement.GetProperty("address").GetString(), told.RootElement.GetProperty("query").GetString());
        Assert.Equal(60 * 60, told.RootElement.GetProperty("differing").GetInt64());
        Assert.NotEqual(0, told.RootElement.GetProperty("places").GetArrayLength());
        var tile = await owner.GetAsync($"{address}/0/0/0{query}");
        Assert.Equal("image/png", tile.Content.Headers.ContentType!.MediaType);
        Assert.True(tile.Headers.CacheControl!.MaxAge > TimeSpan.FromDays(300));
        Assert.True((await owner.GetAsync($"{address}/0/0/0")).Headers.CacheControl!.NoStore);
        Assert.Equal("image/png", (await owner.GetAsync($"/saves/{second}/tiles/small?layer=0")).Content.Headers.ContentType!.MediaType);

        // What is not there is not there, and never an error of the server's own.
        Assert.Equal(HttpStatusCode.NotFound, (await owner.GetAsync($"{address}/0/9/0{query}")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await owner.GetAsync($"{address}/-3/0/0")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await owner.GetAsync($"/saves/{Guid.NewGuid()}/tiles")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await owner.GetAsync($"/saves/{second}/tiles?page=-1")).StatusCode);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await owner.GetAsync($"/saves/{second}/tiles?layer=99")).StatusCode);
        await owner.StartPieceAsync(Samples.Noise(5000), "closed.lay", "Closed");
        var closed = (await studio.SavesAsync()).Single(s => s.ReceivedName == "closed.lay").Id;
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await owner.GetAsync($"/saves/{closed}/tiles")).StatusCode);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await owner.GetAsync($"/saves/{closed}/against/{first}/tiles")).StatusCode);
    }

    [Fact]
    public async Task What_speaks_against_a_save_waits_on_its_piece_until_it_is_answered()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "a.ora");
        await owner.SaveAsync(Samples.OpenRaster(60, 60, new Samples.OraLayer("All", 60, 60)), "a.ora");
        var save = (await studio.SavesAsync())[^1].Id;
        await owner.ActAsync("Keep", new() { ["save"] = $"{save}" });
        var asked = await owner.PiecePageAsync();
        Assert.Contains("Before it takes a number:", asked);
        Assert.Equal(1, asked.Split("The last version had 2 layers; this save has one.").Length - 1);
        Assert.Contains("The last version had", await owner.PiecePageAsync());
        await owner.ActAsync("LeaveLoose", new() { ["save"] = $"{save}" });
        Assert.DoesNotContain("Before it takes a number:", await owner.PiecePageAsync());
        // It can be kept all the same.
        await owner.ActAsync("Expect", new() { ["save"] = $"{save}" });
        var kept = await owner.PiecePageAsync();
        Assert.Contains("Kept as 002", kept);
        Assert.Contains("1 layer, 1 fewer", kept);
        Assert.Contains("Not asked about on this piece: flattened layers.", kept);
        await owner.ActAsync("AskAgain", []);
        Assert.DoesNotContain("Not asked about on this piece:", await owner.PiecePageAsync());
    }

    [Fact]
    public async Task A_great_change_offers_to_mark_the_version_before_it_once()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "a.ora");
        for (byte red = 2; red < 4; red++)
        {
            await owner.SaveAsync(Poster(red), "a.ora");
            await owner.ActAsync("Keep", []);
        }
        await owner.SaveAsync(Poster(200), "a.ora");
        await studio.SettledAsync();
        const string offer = "Mark 003, the version before it?";
        var offered = await owner.PiecePageAsync();
        Assert.Contains(offer, offered);
        Assert.Contains("before Sky is repainted", offered);
        var save = (await studio.SavesAsync())[^1].Id;
        await owner.ActAsync("GreatChange", new() { ["percent"] = "99" });
        Assert.DoesNotContain(offer, await owner.PiecePageAsync());
        await owner.ActAsync("GreatChange", new() { ["percent"] = "no number" });
        Assert.DoesNotContain(offer, await owner.PiecePageAsync());
        await owner.ActAsync("GreatChange", new() { ["percent"] = "" });
        Assert.Contains(offer, await owner.PiecePageAsync());
        await owner.ActAsync("DeclineMark", new() { ["save"] = $"{save}" });
        Assert.DoesNotContain(offer, await owner.PiecePageAsync());
    }

    [Theory]
    [InlineData("../../../etc/cron.d/evil.ora")]
    [InlineData(@"C:\temp\evil.ora")]
    public async Task A_name_with_a_path_in_it_is_only_a_name(string name)
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        Assert.True((await owner.StartPieceAsync(Poster(1), name)).IsSuccessStatusCode);
        Assert.Equal("evil.ora", Assert.Single(await studio.SavesAsync()).ReceivedName);
    }

    [Fact]
    public async Task A_name_of_300_emoji_loses_nothing_but_its_length()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        var refused = await owner.StartPieceAsync(Poster(1), "a.ora", string.Concat(Enumerable.Repeat("🌊", 300)));
        Assert.Equal("The subject needs at least one letter or digit.", await ErrorOf(refused));
        await owner.StartPieceAsync(Poster(1), string.Concat(Enumerable.Repeat("🌊", 300)) + ".ora");
        var save = Assert.Single(await studio.SavesAsync());
        Assert.Equal("TIM_moonpull-poster_key_IK_001.ora", save.ExactName);
        Assert.InRange(save.ReceivedName.Length, 10, 255);
    }

    [Fact]
    public async Task Every_bad_file_is_stored_and_its_page_says_what_is_wrong()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        (byte[] Content, string Name, string Says)[] bad =
        [
            ([], "empty.ora", "This file is empty"),
            (Poster(1)[..700], "cut.ora", "cut short or damaged"),
            (Samples.PngThatClaims(100_000, 100_000), "huge.png", "100,000 × 100,000 px"),
            (
                Encoding.UTF8.GetBytes(
                    """<!DOCTYPE svg [<!ENTITY a "x"><!ENTITY b "&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg"><text>&b;</text></svg>"""
                ),
                "bomb.svg",
                "uses entities"
            ),
            (Samples.Svg("""<image href="file:///etc/passwd" width="5" height="5"/>"""), "outside.svg", "Nothing is fetched"),
        ];
        for (var i = 0; i < bad.Length; i++)
        {
            Assert.True((await owner.StartPieceAsync(bad[i].Content, bad[i].Name, $"Bad {i}")).IsSuccessStatusCode);
            Assert.Contains(bad[i].Says, await owner.PageAsync($"/projects/TIDES/TIM_bad-{i}_key"));
        }
        var saves = await studio.SavesAsync();
        foreach (var (content, name, _) in bad)
        {
            var save = saves.Single(s => s.ReceivedName == name);
            Assert.Equal(content, await (await owner.GetAsync($"/saves/{save.Id}/file")).Content.ReadAsByteArrayAsync());
        }
        Assert.Equal(HttpStatusCode.OK, (await owner.GetAsync("/")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await owner.GetAsync("/projects/TIDES")).StatusCode);
    }

    // Whatever a form's bytes are, they are answered in words, and what is stored came whole.
    [Fact]
    public async Task No_mutation_of_a_forms_bytes_fails_the_server_or_stores_half_a_file()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "a.ora");
        var token = await owner.TokenAsync("/people");
        var random = new Random(9);
        var content = Samples.Noise(3_000, 4);
        byte[] form =
        [
            .. Encoding.UTF8.GetBytes(
                "--edge\r\nContent-Disposition: form-data; name=\"__RequestVerificationToken\"\r\n\r\nx\r\n--edge\r\n"
                    + "Content-Disposition: form-data; name=\"file\"; filename=\"b.ora\"\r\nContent-Type: application/zip\r\n\r\n"
            ),
            .. content,
            .. "\r\n--edge--\r\n"u8.ToArray(),
        ];
        for (var n = 0; n < Thorough.Times(40, 2_000); n++)
        {
            var body = n == 0 ? form : Mutations.Of(form, random);
            var before = (await studio.SavesAsync()).Count;
            var request = new HttpRequestMessage(HttpMethod.Post, "/projects/TIDES/TIM_moonpull-poster_key/saves")
            {
                Content = new ByteArrayContent(body),
            };
            request.Content.Headers.ContentType = MediaTypeHeaderValue.Parse("multipart/form-data; boundary=edge");
            request.Headers.Add("X-Form-Token", token);
            request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json"));
            var answer = await owner.SendAsync(request);
            var stored = (await studio.SavesAsync()).Count - before;
            Assert.True((int)answer.StatusCode < 500, $"Body {n} was answered with {answer.StatusCode}.");
            Assert.Equal(answer.StatusCode == HttpStatusCode.OK ? 1 : 0, stored);
            if (n == 0)
                Assert.Equal(1, stored);
        }
    }

    [Fact]
    public async Task An_upload_cut_in_the_middle_leaves_nothing()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "a.ora");
        var cookies = owner.Cookies.GetCookieHeader(studio.Address);
        var token = await owner.TokenAsync("/people");
        var stored = studio.StoredBytes();
        var ended = RequestEnd.Of(studio.Address.Port, "/saves");
        using (var socket = new TcpClient(studio.Address.Host, studio.Address.Port))
        {
            await using var stream = socket.GetStream();
            await stream.WriteAsync(
                Encoding.UTF8.GetBytes(
                    $"POST /projects/TIDES/TIM_moonpull-poster_key/saves HTTP/1.1\r\nHost: {studio.Address.Authority}\r\nCookie: "
                        + $"{cookies}\r\nX-Form-Token: {token}\r\n"
                        + "Content-Type: multipart/form-data; boundary=cut\r\nContent-Length: "
                        + "5000000\r\n\r\n--cut\r\nContent-Disposition: form-data; name=\"file\"; filename=\"b.ora\"\r\n\r\n"
                )
            );
            await stream.WriteAsync(Samples.Noise(4_500_000));
            await stream.FlushAsync();
            // Some of it is stored when the line is cut.
            for (var i = 0; studio.StoredBytes() <= stored; i++)
            {
                Assert.True(i < 500, "Nothing of the upload was stored.");
                await Task.Delay(20);
            }
        }
        await ended.WaitAsync(TimeSpan.FromSeconds(30));
        Assert.Single(await studio.SavesAsync());
        Assert.Contains("All kept", await owner.PiecePageAsync());

        // A body that ends properly, but before its form does, is answered in words.
        var request = new HttpRequestMessage(HttpMethod.Post, "/projects/TIDES/TIM_moonpull-poster_key/saves")
        {
            Content = new StringContent("--cut\r\nContent-Disposition: form-data; name=\"file\"; filename=\"b.ora\"\r\n\r\nhalf a fi"),
        };
        request.Content.Headers.ContentType = MediaTypeHeaderValue.Parse("multipart/form-data; boundary=cut");
        request.Headers.Add("X-Form-Token", token);
        request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json"));
        var answer = await owner.SendAsync(request);
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.Contains("did not arrive whole", await ErrorOf(answer));
        Assert.Single(await studio.SavesAsync());
    }

    [Fact]
    public async Task The_project_shows_its_plan_with_files_and_copies_where_they_belong()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "a.ora");
        await owner.ActAsync("Milestone", new() { ["reason"] = "first round" });
        var page = await owner.PageAsync("/tree/TIDES/working");
        foreach (var folder in new[] { "originals/", "versions/", "milestones/", "outputs/", "documents/" })
            Assert.Contains($">{folder}<", page);
        Assert.Contains(">TIM_moonpull-poster_key.ora<", page);
        // What a series holds is asked for when it is opened.
        async Task<string> SeriesAsync(string folder, string kind)
        {
            var list = await owner.PageAsync($"/tree/TIDES/working/{folder}");
            var query = System.Text.RegularExpressions.Regex.Match(list, $"hx-get=\"(\\?[^\"]*kind={kind})\"").Groups[1].Value;
            return await owner.PageAsync($"/tree/TIDES/working/{folder}{query}");
        }
        Assert.Contains("TIM_moonpull-poster_key_IK_001.ora", await SeriesAsync("versions", "Version"));
        Assert.Contains("TIM_moonpull-poster_key_M01.ora", await SeriesAsync("milestones", "MilestoneCopy"));
    }

    [Fact]
    public async Task The_full_name_is_shown_while_it_is_typed()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        Assert.Contains(
            "TIM_tide-poster_sketch_IK_001",
            await owner.PageAsync("/projects/TIDES?handler=Name&slot.subject=Tide%20Poster&slot.function=sketch")
        );
        Assert.Contains(
            "needs at least one letter",
            await owner.PageAsync("/projects/TIDES?handler=Name&slot.subject=%E2%80%94&slot.function=key")
        );
        await owner.StartPieceAsync(Poster(1), "a.ora");
        Assert.Contains(
            "is there already",
            await owner.PageAsync("/projects/TIDES?handler=Name&slot.subject=moonpull%20POSTER&slot.function=key")
        );
    }

    [Fact]
    public async Task A_files_name_begins_its_piece_as_far_as_it_can_be_read()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        async Task<string> Says(string file) =>
            System.Net.WebUtility.HtmlDecode(await owner.PageAsync($"/projects/TIDES?handler=File&file={Uri.EscapeDataString(file)}"));
        Assert.Contains("""{"subject":"tide-poster","function":"sketch"}""", await Says("TIM_tide-poster_sketch_OB_014.ora"));
        var copy = await Says("Tide Poster FINAL (2).ora");
        // What the name does not say, the kind of file does.
        Assert.Contains("""{"subject":"tide-poster","function":"key"}""", copy);
        Assert.Contains("“FINAL” is a copy mark; “(2)” is a copy mark", copy);
        Assert.Contains("""data-slots="{"function":"key"}""", await Says("🌊.ora"));
        Assert.Contains("""data-slots="{}""", await Says("🌊.bin"));
    }

    [Fact]
    public async Task What_was_brought_back_or_noted_shows_on_the_piece()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "a.ora");
        await owner.SaveAsync(Poster(2));
        await owner.ActAsync("Keep", []);
        var first = (await studio.SavesAsync())[0].Id.ToString();
        await owner.ActAsync("BringBack", new() { ["save"] = first });
        Assert.Contains("001 is back as a loose save on top", await owner.PiecePageAsync());
        await owner.ActAsync("Note", new() { ["save"] = first, ["note"] = "<b>sky</b> & sea" });
        Assert.Contains(
            "&lt;b&gt;sky&lt;/b&gt; &amp; sea",
            await (await owner.GetAsync("/projects/TIDES/TIM_moonpull-poster_key?b=1")).Content.ReadAsStringAsync()
        );
    }

    [Fact]
    public async Task An_open_page_is_told_when_a_save_has_taken_its_number()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Noise(5_000, 1), "poster.lay");
        await studio.SettledAsync();
        var piece = await studio.Read(db => db.Pieces.Select(p => p.Id).SingleAsync());
        await owner.ActAsync("Setting", new() { ["setting"] = "EveryChange" });
        using var late = new CancellationTokenSource(TimeSpan.FromMinutes(1));
        using var told = await owner.BeginAsync(new HttpRequestMessage(HttpMethod.Get, $"/pieces/{piece}/arriving"), late.Token);
        await owner.SaveAsync(Samples.Noise(5_000, 2), "poster.lay");
        var save = (await studio.SavesAsync())[^1];
        var lines = new StreamReader(await told.Content.ReadAsStreamAsync(late.Token));
        // Whatever else is told of it before.
        while (await lines.ReadLineAsync(late.Token) is { } line && line != $"data: {save.Id}/decided") { }
        Assert.Equal(2, (await studio.SavesAsync())[^1].Number);
        Assert.Contains("data-coming=\"false\"", await owner.PiecePageAsync());
    }
}
