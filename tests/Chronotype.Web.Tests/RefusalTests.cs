using System.Net;
using System.Net.Http.Headers;
using System.Text;
using Microsoft.AspNetCore.Routing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <summary>What a person or a program sends is answered, never with an error of the server's own.</summary>
public class RefusalTests
{
    [Theory]
    [InlineData("PK\u0005\u0006")]
    [InlineData("PK")]
    [InlineData("x")]
    public async Task A_zip_that_is_hardly_there_is_kept_as_the_file_that_it_is(string bytes)
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        Assert.Equal(HttpStatusCode.OK, (await owner.StartPieceAsync(Encoding.Latin1.GetBytes(bytes), "icons.zip")).StatusCode);
        Assert.Equal(bytes.Length, Assert.Single(await studio.SavesAsync()).Size);
    }

    [Fact]
    public async Task What_cannot_be_read_as_what_it_must_be_is_refused_and_nothing_else_is_done_instead()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Noise(1000, 1), "poster.lay");
        await owner.SaveAsync(Samples.Noise(1000, 2), "poster.lay");
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await owner.ActAsync("Milestone", new() { ["number"] = "abc", ["reason"] = "before the sky" })).StatusCode
        );
        Assert.Equal(HttpStatusCode.BadRequest, (await owner.ActAsync("Keep", new() { ["save"] = "not-a-guid" })).StatusCode);
        Assert.Equal([1, null], (await studio.SavesAsync()).Select(s => s.Number));
        Assert.Equal(0, await studio.Read(db => db.Milestones.CountAsync()));
    }

    [Fact]
    public async Task What_is_sent_to_a_page_and_is_no_form_is_refused()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        using var request = new HttpRequestMessage(HttpMethod.Post, "/convention?handler=Draft")
        {
            Content = new StringContent("{}", Encoding.UTF8, "application/json"),
        };
        request.Headers.Add("X-Form-Token", await owner.TokenAsync("/people"));
        Assert.Equal(HttpStatusCode.BadRequest, (await owner.SendAsync(request)).StatusCode);
    }

    [Fact]
    public async Task Characters_that_are_none_are_left_out_wherever_they_are_sent()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        const string none = "\uFFFE\uFFFF\uFDD0\U0001FFFE";
        var started = await owner.StartPieceAsync(Samples.Noise(100), $"po{none}ster.lay", $"Moon{none}pull poster");
        Assert.True(started.StatusCode == HttpStatusCode.OK, await started.Content.ReadAsStringAsync());
        Assert.Equal("poster.lay", Assert.Single(await studio.SavesAsync()).ReceivedName);
        await owner.PostAsync(
            "/people",
            new()
            {
                ["name"] = $"Odo{none} Barreau",
                ["initials"] = $"O{none}B",
                ["password"] = "ten letters and more",
            }
        );
        Assert.Contains("Odo Barreau", await owner.PageAsync("/people"));
        var zip = Samples.Zip(($"a{none}.txt", "words"), ("b.txt", "words"));
        Assert.Equal(HttpStatusCode.OK, (await owner.SaveAsync(zip, "folder.zip")).StatusCode);
        Assert.Equal(HttpStatusCode.Redirect, (await owner.ActAsync("Keep", new() { ["note"] = none, ["insist"] = "true" })).StatusCode);
    }

    [Fact]
    public void A_full_disk_under_the_records_is_told_as_one()
    {
        var failure = Failure.Of(new DbUpdateException("", new Microsoft.Data.Sqlite.SqliteException("database or disk is full", 13)));
        Assert.Equal(507, failure.Status);
        Assert.Contains("Nothing that was stored before is lost", failure.Sentence);
    }

    [Fact]
    public async Task A_folder_of_which_a_file_is_damaged_does_not_come_as_if_it_were_whole()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        var text = Convert.ToBase64String(Samples.Noise(600_000));
        await owner.StartPieceAsync(Samples.Zip(("set/a.txt", text), ("set/b.txt", "words")), "set.zip");
        using (
            var file = new FileStream(
                Directory.GetFiles(Path.Combine(studio.Folder, "content", "segments")).Single(),
                FileMode.Open,
                FileAccess.ReadWrite,
                FileShare.ReadWrite
            )
        )
        {
            for (var at = 300_000; at < file.Length - 3000; at += 5000)
            {
                file.Position = at;
                file.Write([1, 2, 3, 4]);
            }
        }
        await Assert.ThrowsAnyAsync<HttpRequestException>(async () =>
        {
            var answer = await owner.GetAsync($"/saves/{(await studio.SavesAsync())[0].Id}/file");
            await answer.Content.ReadAsByteArrayAsync();
        });
    }

    [Fact]
    public async Task What_cannot_be_drawn_is_a_picture_that_says_so()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Png(600, 400)[..60], "poster.png");
        await owner.SaveAsync(Samples.Noise(900), "poster.png");
        foreach (var save in await studio.SavesAsync())
        {
            var answer = await owner.GetAsync($"/saves/{save.Id}/preview/480");
            Assert.Equal((HttpStatusCode.OK, "image/svg+xml"), (answer.StatusCode, answer.Content.Headers.ContentType!.MediaType));
            var text = System.Xml.Linq.XElement.Parse(await answer.Content.ReadAsStringAsync()).Value;
            Assert.Contains(save.Sequence == 2 ? "carried as they are" : "cannot be read", text);
        }
    }

    [Fact]
    public async Task Folders_of_a_zip_keep_their_dates_and_what_is_empty_and_bytes_under_a_folders_name_are_said()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        using var memory = new MemoryStream();
        using (var zip = new System.IO.Compression.ZipArchive(memory, System.IO.Compression.ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var name in new[] { "set/", "set/a.txt", "set/renders/", "set/deep/er/b.txt", "set/deep/empty/" })
            {
                var entry = zip.CreateEntry(name);
                entry.LastWriteTime = new DateTime(2024, 5, 6, 7, 8, 10);
                if (name.EndsWith('/'))
                    continue;
                using var stream = entry.Open();
                stream.Write("words"u8);
            }
        }
        await owner.StartPieceAsync(memory.ToArray(), "set.zip");
        var back = new System.IO.Compression.ZipArchive(
            await (await owner.GetAsync($"/saves/{(await studio.SavesAsync())[0].Id}/file")).Content.ReadAsStreamAsync()
        );
        var names = back.Entries.Select(e => e.FullName[(e.FullName.IndexOf('/') + 1)..]).Order(StringComparer.Ordinal);
        Assert.Equal(["a.txt", "deep/empty/", "deep/er/b.txt", "renders/"], names);
        Assert.All(back.Entries.Where(e => e.Length > 0), e => Assert.Equal(new DateTime(2024, 5, 6, 7, 8, 10), e.LastWriteTime.DateTime));

        // As no zip writer makes it: the directory's name of a file that holds bytes.
        var odd = Samples.Zip(("set/a.txt", "words"), ("set/bX", "more words"));
        for (int at; (at = odd.AsSpan().IndexOf("set/bX"u8)) >= 0; )
            odd[at + 5] = (byte)'/';
        await owner.SaveAsync(odd, "set.zip");
        var save = (await studio.SavesAsync())[^1];
        Assert.Equal(odd.Length, save.Size);
        Assert.Contains("zipFolderWithBytes", save.ArrivalNotice);
    }

    [Fact]
    public async Task A_page_that_was_opened_before_a_move_still_saves_keeps_and_marks()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Noise(100, 1), "poster.lay");
        await studio.Read(async db =>
        {
            // As a move leaves it.
            var piece = await db.Pieces.SingleAsync();
            db.RenameRuns.Add(
                new()
                {
                    ProjectId = piece.ProjectId,
                    Before = "{}",
                    After = "{}",
                    Names =
                    {
                        new()
                        {
                            ProjectId = piece.ProjectId,
                            PieceId = piece.Id,
                            Thing = Storage.Entities.NamedThing.Current,
                            From = piece.CurrentName,
                            To = "TIM_moonpull-poster.key",
                        },
                    },
                }
            );
            piece.CurrentName = "TIM_moonpull-poster.key";
            return await db.SaveChangesAsync();
        });
        Assert.Equal(HttpStatusCode.OK, (await owner.SaveAsync(Samples.Noise(100, 2), "poster.lay")).StatusCode);
        Assert.Equal(HttpStatusCode.Redirect, (await owner.ActAsync("Keep", [])).StatusCode);
        Assert.Equal(
            HttpStatusCode.Redirect,
            (await owner.ActAsync("Milestone", new() { ["number"] = "2", ["reason"] = "before the sky" })).StatusCode
        );
        Assert.Equal([1, 2], (await studio.SavesAsync()).Select(s => s.Number!.Value));
        Assert.Equal(1, await studio.Read(db => db.Milestones.CountAsync()));
    }

    [Fact]
    public async Task A_form_from_elsewhere_leads_back_to_no_other_host()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        using var request = new HttpRequestMessage(HttpMethod.Post, "/projects/TIDES/pieces")
        {
            Content = new MultipartFormDataContent { { new StringContent("x"), "slot.subject" } },
        };
        request.Headers.Referrer = new Uri(studio.Address, "http://" + studio.Address.Authority + "//elsewhere.example/");
        Assert.Equal("/", (await owner.SendAsync(request)).Headers.Location!.OriginalString);
    }

    /// <summary>Every address, with fields, queries and bodies that nobody would send.</summary>
    [Fact]
    public async Task No_request_meets_an_error_of_the_servers_own()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Noise(500, 1), "poster.lay");
        await owner.SaveAsync(Samples.Noise(500, 2), "poster.lay");
        var save = (await studio.SavesAsync())[0].Id;
        var seed = Environment.TickCount;
        var random = new Random(seed);
        string[] odd =
        [
            "",
            "0",
            "-1",
            "999999999999999999999",
            "abc",
            "true",
            "\0",
            "\uFFFE",
            "\uD800",
            "𝕏𝕏𝕏",
            "../..",
            "a/b\\c",
            "<script>",
            "%00",
            new string('x', 5000),
            "TIM_moonpull-poster_key",
            "TIDES",
            save.ToString(),
            Guid.NewGuid().ToString(),
            "[]",
            "{}",
            "{\"slots\":null}",
            "[[[[",
            "2026-02-31",
            "1e309",
            "NaN",
            "print",
            "海の日",
            "\r\n\r\n",
            "' OR 1=1 --",
            "IK",
            "key",
            "WhenAsked",
            "EveryChange",
            "7",
        ];
        string[] names =
        [
            "a",
            "b",
            "from",
            "to",
            "table",
            "look",
            "handler",
            "save",
            "note",
            "reason",
            "number",
            "insist",
            "setting",
            "before",
            "after",
            "person",
            "off",
            "next",
            "current",
            "again",
            "name",
            "initials",
            "password",
            "Title",
            "Code",
            "ClientName",
            "ClientCode",
            "Plan",
            "FirstNumber",
            "slot.subject",
            "slot.function",
            "returnUrl",
            "draft",
            "convention",
            "json",
            "names",
            "list",
            "code",
            "meaning",
            "project",
            "of",
            "milestone",
            "file",
            "code",
            "slots",
            "index",
            "label",
            "kind",
        ];
        string[] handlers =
        [
            "",
            "Keep",
            "Milestone",
            "BringBack",
            "Give",
            "Note",
            "Setting",
            "Compare",
            "Verify",
            "Stop",
            "Running",
            "Add",
            "Remove",
            "Switch",
            "Password",
            "Use",
            "Learn",
            "Import",
            "Move",
            "Undo",
            "Draft",
            "Export",
            "Name",
            "Demo",
        ];
        var routes = studio
            .App.Services.GetServices<EndpointDataSource>()
            .SelectMany(s => s.Endpoints)
            .OfType<RouteEndpoint>()
            .Select(e => "/" + e.RoutePattern.RawText!.TrimStart('/'))
            .Distinct()
            // Signing out ends the one who asks, signing in is slowed, and the picture of an error is asked for by the server itself.
            // What arrives is told for as long as somebody listens.
            .Where(r => r is not ("/sign-out" or "/sign-in" or "/oops" or "/arriving"))
            .ToList();
        var token = await owner.TokenAsync("/people");
        var errors = new List<string>();
        for (var i = 0; i < 500; i++)
        {
            string Odd() => odd[random.Next(odd.Length)];
            var path = routes[random.Next(routes.Count)]
                .Replace("{id:guid}", random.Next(3) == 0 ? Guid.NewGuid().ToString() : save.ToString())
                .Replace("{side:int}", random.Next(2) == 0 ? "480" : "7")
                .Replace("{project}", random.Next(4) == 0 ? Uri.EscapeDataString(Odd()) : "TIDES")
                .Replace("{piece}", random.Next(4) == 0 ? Uri.EscapeDataString(Odd()) : "TIM_moonpull-poster_key");
            path = System.Text.RegularExpressions.Regex.Replace(path, @"\{[^}]*\}", _ => Uri.EscapeDataString(Odd()));
            var query = string.Join(
                '&',
                Enumerable
                    .Range(0, random.Next(4))
                    .Select(_ => $"{names[random.Next(names.Length)]}={Uri.EscapeDataString(Safe(Odd()))}")
                    .Append($"handler={handlers[random.Next(handlers.Length)]}")
            );
            var fields = Enumerable
                .Range(0, random.Next(7))
                .Select(_ => KeyValuePair.Create(names[random.Next(names.Length)], Safe(Odd())))
                .Append(KeyValuePair.Create("__RequestVerificationToken", token))
                .ToList();
            using var request = new HttpRequestMessage(random.Next(3) == 0 ? HttpMethod.Get : HttpMethod.Post, $"{path}?{query}");
            if (request.Method == HttpMethod.Post)
            {
                request.Content = random.Next(5) switch
                {
                    0 => Multipart(fields, random.Next(2) == 0 ? null : Samples.Noise(random.Next(200), i), Safe(Odd())),
                    1 => new ByteArrayContent(Samples.Noise(random.Next(300), i))
                    {
                        Headers =
                        {
                            ContentType = new MediaTypeHeaderValue("multipart/form-data")
                            {
                                Parameters = { new NameValueHeaderValue("boundary", "x") },
                            },
                        },
                    },
                    2 => new StringContent(Safe(Odd()), Encoding.UTF8, "application/json"),
                    _ => new FormUrlEncodedContent(fields),
                };
                request.Headers.TryAddWithoutValidation("X-Form-Token", token);
            }
            if (random.Next(3) == 0)
                request.Headers.Accept.ParseAdd("application/json");
            var sent = $"{request.Method} {path}?{query} {string.Join('&', fields.Select(f => $"{f.Key}={f.Value}"))}";
            HttpResponseMessage answer;
            try
            {
                answer = await owner.SendAsync(request);
            }
            catch (Exception e) when (e is HttpRequestException or UriFormatException)
            {
                errors.Add($"{sent[..Math.Min(300, sent.Length)]}: {e.Message}");
                continue;
            }
            if ((int)answer.StatusCode >= 500)
                errors.Add($"{(int)answer.StatusCode} {sent[..Math.Min(300, sent.Length)]}");
        }
        Assert.True(errors.Count == 0, $"seed {seed}:\n{string.Join('\n', errors.Distinct().Take(20))}");
        Assert.Equal(2, (await studio.SavesAsync()).Count(s => s.ReceivedName == "poster.lay"));
    }

    // What no client can send at all is left out.
    private static string Safe(string text) => text.Replace("\uD800", "\uFFFD");

    private static MultipartFormDataContent Multipart(IEnumerable<KeyValuePair<string, string>> fields, byte[]? file, string name)
    {
        var form = new MultipartFormDataContent();
        foreach (var (key, value) in fields)
            form.Add(new StringContent(value), key);
        if (file is null)
            return form;
        var part = new ByteArrayContent(file);
        part.Headers.TryAddWithoutValidation(
            "Content-Disposition",
            $"form-data; name=\"file\"; filename=\"{name.Replace("\"", "").ReplaceLineEndings("")}\""
        );
        form.Add(part);
        return form;
    }
}
