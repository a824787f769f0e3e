using System.Diagnostics;
using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Xml.Linq;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Share;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <summary>The share as programs and desktops use it: the way of saving of each, what is read only, locks, and names that lead nowhere.</summary>
public partial class ShareTests
{
    private const string Current = "working/TIM_moonpull-poster_key.ora";
    private static readonly XNamespace Dav = "DAV:";

    // However busy the machine is, steps of one save come soon enough after one another.
    private static readonly ShareTimes Times = ShareTimes.Usual with { OneSave = TimeSpan.FromSeconds(30) };

    private static byte[] Poster(byte red) =>
        Samples.OpenRaster(40, 60, new Samples.OraLayer("Title", 20, 8, Red: red), new Samples.OraLayer("Sky", 40, 60));

    private sealed class Desk(ServedStudio studio, string initials, string key) : IDisposable
    {
        private readonly HttpClient client = new(new HttpClientHandler { AllowAutoRedirect = false })
        {
            BaseAddress = studio.Address,
            DefaultRequestHeaders =
            {
                Authorization = new AuthenticationHeaderValue("Basic", Convert.ToBase64String(Encoding.UTF8.GetBytes($"{initials}:{key}"))),
            },
        };

        public string Key => key;

        /// <param name="path">In the project TIDES; in another where that stands before it, behind a tilde.</param>
        public string Url(string path) => $"{studio.Address}share/{(path.StartsWith('~') ? path[1..] : $"TIDES/{path}")}";

        public async Task<(HttpStatusCode Status, byte[] Body, HttpResponseHeaders Headers)> DoAsync(
            string method,
            string path,
            byte[]? body = null,
            params (string Name, string Value)[] headers
        )
        {
            using var request = new HttpRequestMessage(
                new HttpMethod(method),
                new Uri(Url(path), new UriCreationOptions { DangerousDisablePathAndQueryCanonicalization = true })
            );
            if (body is not null)
                request.Content = new ByteArrayContent(body);
            foreach (var (name, value) in headers)
            {
                if (!request.Headers.TryAddWithoutValidation(name, value))
                    request.Content!.Headers.TryAddWithoutValidation(name, value);
            }
            using var response = await client.SendAsync(request);
            return (response.StatusCode, await response.Content.ReadAsByteArrayAsync(), response.Headers);
        }

        public async Task<HttpStatusCode> PutAsync(string path, byte[] body) => (await DoAsync("PUT", path, body)).Status;

        public async Task<HttpStatusCode> MoveAsync(string from, string to) =>
            (await DoAsync("MOVE", from, null, ("Destination", Url(to)))).Status;

        public async Task<HttpStatusCode> DeleteAsync(string path) => (await DoAsync("DELETE", path)).Status;

        public async Task<List<string>> ListAsync(string path)
        {
            var (status, body, _) = await DoAsync("PROPFIND", path, null, ("Depth", "1"));
            Assert.Equal(HttpStatusCode.MultiStatus, status);
            return
            [
                .. XDocument
                    .Parse(Encoding.UTF8.GetString(body))
                    .Descendants(Dav + "href")
                    .Where(h => h.Parent!.Name == Dav + "response")
                    .Skip(1)
                    .Select(h => Uri.UnescapeDataString(h.Value.TrimEnd('/').Split('/')[^1])),
            ];
        }

        public void Dispose() => client.Dispose();
    }

    private static async Task<(ServedStudio Studio, Visitor Owner, Desk Desk)> OpenAsync(ShareTimes? times = null)
    {
        var studio = await ServedStudio.OpenAsync(s => s.AddSingleton(times ?? Times));
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "poster.ora");
        await studio.SettledAsync();
        return (studio, owner, await KeyAsync(studio, "IK"));
    }

    private static async Task<Desk> KeyAsync(ServedStudio studio, string initials)
    {
        var person = await studio.Read(db => db.Users.SingleAsync(u => u.Initials == initials));
        var made = await studio.App.Services.GetRequiredService<DeviceKeys>().MakeAsync(Actor.Person(person.Id), "A desk");
        return new Desk(studio, initials, made.Expect().Secret);
    }

    // Another person's.
    private static async Task<Desk> OdoAsync(ServedStudio studio, Visitor owner)
    {
        await owner.PostAsync(
            "/people",
            new()
            {
                ["name"] = "Odo Barreau",
                ["initials"] = "OB",
                ["password"] = "ten letters and more",
            }
        );
        return await KeyAsync(studio, "OB");
    }

    private static async Task<Save> NewestAsync(ServedStudio studio, int saves)
    {
        var until = Stopwatch.StartNew();
        List<Save> all;
        do
        {
            await Task.Delay(100);
            all = await studio.SavesAsync();
        } while (all.Count < saves && until.Elapsed < TimeSpan.FromSeconds(30));
        // Nothing more comes of it.
        await Task.Delay(Times.Quiet + TimeSpan.FromSeconds(0.6));
        all = await studio.SavesAsync();
        Assert.Equal(saves, all.Count);
        return all[^1];
    }

    [Fact]
    public async Task However_a_program_saves_it_is_one_save_of_its_piece()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        Assert.Equal(Poster(1), (await desk.DoAsync("GET", Current)).Body);
        // In place; an empty file first, and more than once in a moment.
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync(Current, []));
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync(Current, Poster(2)[..100]));
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync(Current, Poster(2)));
        Assert.Equal(Poster(2), (await desk.DoAsync("GET", Current)).Body);
        Assert.Equal(ContentHash.Of(Poster(2)), (await NewestAsync(studio, 2)).MainHash);
        // What is saved once more as it was is nothing new.
        await desk.PutAsync(Current, Poster(2));
        await NewestAsync(studio, 2);
        // A temporary file, then renamed over it.
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync("working/.goutputstream-K4", Poster(3)));
        Assert.Equal(HttpStatusCode.NoContent, await desk.MoveAsync("working/.goutputstream-K4", Current));
        Assert.Equal(ContentHash.Of(Poster(3)), (await NewestAsync(studio, 3)).MainHash);
        // The old one aside, the new one written, the old one deleted.
        Assert.Equal(HttpStatusCode.Created, await desk.MoveAsync(Current, Current + "~"));
        Assert.Equal(HttpStatusCode.NotFound, (await desk.DoAsync("GET", Current)).Status);
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync(Current, Poster(4)));
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync(Current + "~"));
        Assert.Equal(ContentHash.Of(Poster(4)), (await NewestAsync(studio, 4)).MainHash);
        // Through a lock file, beside what a desktop leaves behind.
        foreach (var litter in (string[])["working/~$moonpull.ora", "working/.DS_Store", "working/._TIM_moonpull-poster_key.ora"])
            Assert.Equal(HttpStatusCode.Created, await desk.PutAsync(litter, [1, 2, 3]));
        await desk.PutAsync(Current, Poster(5));
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync("working/~$moonpull.ora"));
        Assert.Equal(ContentHash.Of(Poster(5)), (await NewestAsync(studio, 5)).MainHash);
        Assert.DoesNotContain(
            ".DS_Store",
            await studio.Read(db => db.Entries.Select(e => e.Path).ToListAsync()) is var paths ? paths.Select(p => p.Name) : []
        );
        Assert.Equal(1, await studio.Read(db => db.Pieces.CountAsync()));
        // Nobody is asked about any of it.
        Assert.DoesNotContain("Came on the share", await owner.PageAsync("/projects/TIDES"));
        Assert.Empty(await studio.Read(db => db.Outputs.ToListAsync()));
    }

    [Fact]
    public async Task What_a_program_copies_by_itself_is_earlier_content_of_its_piece_and_never_the_current_file()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        // The same as a version: nothing is added.
        Assert.Equal(
            HttpStatusCode.Created,
            (await desk.DoAsync("COPY", Current, null, ("Destination", desk.Url(Current + ".bak")))).Status
        );
        // Another content, beside the file and in a folder for such copies.
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync(Current + ".2", Poster(2)));
        Assert.Equal(HttpStatusCode.Created, (await desk.DoAsync("MKCOL", "working/autosave")).Status);
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync("working/autosave/TIM_moonpull-poster_key_0001.ora", Poster(3)));
        await NewestAsync(studio, 3);
        var saves = await studio.SavesAsync();
        Assert.Equal([null, SaveAside.Backup, SaveAside.Backup], saves.Select(s => s.Aside));
        Assert.Equal([true, false, false], saves.Select(s => s.IsCurrent));
        Assert.Equal(Poster(1), (await desk.DoAsync("GET", Current)).Body);
        var page = await owner.PiecePageAsync();
        Assert.Contains("All kept", page);
        Assert.Contains("Beside the saves: 2", page);
        Assert.DoesNotContain("Came on the share", await owner.PageAsync("/projects/TIDES"));
        // It has a limit of its own, and what goes over it can be taken back.
        for (byte i = 10; i < 10 + ReceiveSave.MostAside; i++)
        {
            await desk.PutAsync($"{Current}.~{i}~", Poster(i));
            await studio.App.Services.GetRequiredService<SettleShare>().RoundAsync();
        }
        await NewestAsync(studio, 1 + ReceiveSave.MostAside);
        var until = Stopwatch.StartNew();
        Task<int> Discarded() => studio.Read(db => db.Saves.IgnoreQueryFilters().CountAsync(s => s.DiscardedAt != null));
        while (await Discarded() < 2 && until.Elapsed < TimeSpan.FromSeconds(20))
            await Task.Delay(200);
        Assert.Equal(2, await Discarded());
        // It can be kept, like any other.
        await owner.ActAsync("Keep", new() { ["save"] = (await studio.SavesAsync())[^1].Id.ToString() });
        Assert.Equal(2, (await studio.SavesAsync()).Max(s => s.Number));
    }

    [Fact]
    public async Task An_upload_that_breaks_off_changes_nothing_and_its_beginning_is_held_where_it_can_be_read()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        var wave = Samples.Wave(2, 1, 24_000);
        await owner.UploadAsync("/projects/TIDES/pieces", wave, "mix.wav", new() { ["slot.subject"] = "Guide", ["slot.function"] = "key" });
        await studio.SettledAsync();
        var before = await studio.SavesAsync();
        foreach (var (path, content) in new[] { ("working/TIM_guide_key.wav", wave), (Current, Poster(7)) })
        {
            using var socket = new System.Net.Sockets.TcpClient("127.0.0.1", studio.Address.Port);
            var key = Convert.ToBase64String(Encoding.UTF8.GetBytes($"IK:{desk.Key}"));
            var head =
                $"PUT /share/TIDES/{path} HTTP/1.1\r\nHost: localhost\r\nAuthorization: Basic {key}\r\nContent-Length: {content.Length}\r\n\r\n";
            await socket.GetStream().WriteAsync((byte[])[.. Encoding.ASCII.GetBytes(head), .. content.AsSpan(0, content.Length * 2 / 3)]);
            await socket.GetStream().FlushAsync();
            await Task.Delay(300);
        }
        List<Save> after;
        var until = Stopwatch.StartNew();
        do
        {
            await Task.Delay(200);
            after = await studio.SavesAsync();
        } while (after.Count == before.Count && until.Elapsed < TimeSpan.FromSeconds(20));
        // Of the sound the beginning can be read; of the picture, whose contents stand at its end, nothing can.
        var held = Assert.Single(after, s => before.All(b => b.Id != s.Id));
        Assert.Equal((SaveAside.CutShort, (long)(wave.Length * 2 / 3), false), (held.Aside, held.Size, held.IsCurrent));
        Assert.Equal(wave, (await desk.DoAsync("GET", "working/TIM_guide_key.wav")).Body);
        Assert.Equal(Poster(1), (await desk.DoAsync("GET", Current)).Body);
        Assert.Contains("broke off", await owner.PageAsync("/projects/TIDES/TIM_guide_key"));
    }

    [Fact]
    public async Task A_lock_that_is_never_given_up_keeps_no_save_from_being_one_and_others_from_writing()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        using var other = await OdoAsync(studio, owner);
        var info = Encoding.UTF8.GetBytes(
            "<lockinfo xmlns='DAV:'><lockscope><exclusive/></lockscope><locktype><write/></locktype><owner>IK at her desk</owner></lockinfo>"
        );
        var locked = await desk.DoAsync("LOCK", Current, info, ("Timeout", "Infinite"));
        Assert.Equal(HttpStatusCode.OK, locked.Status);
        var token = locked.Headers.GetValues("Lock-Token").Single();
        Assert.Equal(HttpStatusCode.Locked, await other.PutAsync(Current, Poster(7)));
        Assert.Equal(HttpStatusCode.Locked, await other.MoveAsync(Current, "working/elsewhere.ora"));
        Assert.Equal(HttpStatusCode.Locked, (await other.DoAsync("LOCK", Current, info)).Status);
        Assert.Contains("IK holds a lock on TIM_moonpull-poster_key.ora", await owner.PiecePageAsync());
        Assert.Equal(HttpStatusCode.NoContent, (await desk.DoAsync("PUT", Current, Poster(8), ("If", $"({token})"))).Status);
        Assert.Equal(ContentHash.Of(Poster(8)), (await NewestAsync(studio, 2)).MainHash);
        // Another person's token opens nothing.
        Assert.Equal(HttpStatusCode.Locked, (await other.DoAsync("PUT", Current, Poster(9), ("If", $"({token})"))).Status);
        Assert.Equal(HttpStatusCode.NoContent, (await desk.DoAsync("UNLOCK", Current, null, ("Lock-Token", token))).Status);
        // Two at the same moment: both are saves.
        var both = await Task.WhenAll(desk.PutAsync(Current, Poster(20)), other.PutAsync(Current, Poster(21)));
        Assert.All(both, s => Assert.Equal(HttpStatusCode.NoContent, s));
        await NewestAsync(studio, 4);
        Assert.Equal(
            new[] { ContentHash.Of(Poster(20)), ContentHash.Of(Poster(21)) }.ToHashSet(),
            (await studio.SavesAsync()).TakeLast(2).Select(s => s.MainHash).ToHashSet()
        );
    }

    [Fact]
    public async Task What_is_kept_is_never_written_over_and_what_is_deleted_loses_nothing()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        var version = (await desk.ListAsync("working/versions")).Single();
        Assert.Equal(Poster(1), (await desk.DoAsync("GET", $"working/versions/{version}")).Body);
        var (status, body, _) = await desk.DoAsync("PUT", $"working/versions/{version}", Poster(2));
        Assert.Equal(HttpStatusCode.Forbidden, status);
        Assert.Contains("kept as it is, for good", Encoding.UTF8.GetString(body));
        Assert.Equal(HttpStatusCode.Forbidden, await desk.DeleteAsync($"working/versions/{version}"));
        Assert.Equal(HttpStatusCode.Forbidden, await desk.MoveAsync($"working/versions/{version}", "working/mine.ora"));
        Assert.Equal(HttpStatusCode.Forbidden, await desk.DeleteAsync("working"));
        Assert.Equal(HttpStatusCode.Forbidden, await desk.DeleteAsync(""));

        // An original is there once; an asset is what was saved last, with its past; an output that is exported again is another one.
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync("originals/brief.txt", "one"u8.ToArray()));
        Assert.Equal(HttpStatusCode.Forbidden, await desk.PutAsync("originals/brief.txt", "two"u8.ToArray()));
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync("originals/brief.txt", "one"u8.ToArray()));
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync("assets/tides.txt", "one"u8.ToArray()));
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync("assets/tides.txt.tmp", "two"u8.ToArray()));
        Assert.Equal(HttpStatusCode.NoContent, await desk.MoveAsync("assets/tides.txt.tmp", "assets/tides.txt"));
        Assert.Equal("two", Encoding.UTF8.GetString((await desk.DoAsync("GET", "assets/tides.txt")).Body));
        Assert.Equal(
            2,
            await studio.Read(db =>
                db.FileContents.CountAsync(c => db.Entries.Any(e => e.Id == c.EntryId && e.PathKey == "assets/tides.txt"))
            )
        );
        await desk.PutAsync("outputs/flat.png", "one"u8.ToArray());
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync("outputs/flat.png", "two"u8.ToArray()));
        Assert.Equal("two", Encoding.UTF8.GetString((await desk.DoAsync("GET", "outputs/flat.png")).Body));

        // A current file that is deleted is off the share, and comes back from the piece's page.
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync(Current));
        Assert.DoesNotContain("TIM_moonpull-poster_key.ora", await desk.ListAsync("working"));
        Assert.Contains("was deleted or moved on the share", await owner.PiecePageAsync());
        await owner.ActAsync("PutBack", []);
        Assert.Equal(Poster(1), (await desk.DoAsync("GET", Current)).Body);
        Assert.Single(await studio.SavesAsync());
    }

    [Fact]
    public async Task A_file_under_another_name_is_placed_by_its_name_or_waits_for_a_person()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        // Numbered by hand, in the convention's own form: of the piece, and it stays where the program has it open.
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync("working/TIM_moonpull-poster_key_IK_005.ora", Poster(5)));
        Assert.Equal("TIM_moonpull-poster_key_IK_005.ora", (await NewestAsync(studio, 2)).ReceivedName);
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync("working/TIM_moonpull-poster_key_IK_005.ora", Poster(6)));
        Assert.Equal(ContentHash.Of(Poster(6)), (await NewestAsync(studio, 3)).MainHash);
        // Nobody knows what this is.
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync("working/gull%20sketch.ora", Poster(9)));
        await NewestAsync(studio, 3);
        Assert.Contains("gull sketch.ora", await owner.PageAsync("/projects/TIDES"));
        var (file, piece) = await studio.Read(async db =>
            ((await db.SharedFiles.SingleAsync(f => f.PathKey == "working/gull sketch.ora")).Id, (await db.Pieces.SingleAsync()).Id)
        );
        await owner.PostAsync(
            "/projects/TIDES?handler=Arrived",
            new() { ["file"] = file.ToString(), ["piece"] = piece.ToString() },
            from: "/people"
        );
        Assert.Equal(ContentHash.Of(Poster(9)), (await studio.SavesAsync())[^1].MainHash);
        Assert.Contains("gull sketch.ora is a save of TIM_moonpull-poster_key now", await owner.PageAsync("/projects/TIDES"));
        Assert.DoesNotContain("gull sketch.ora", await owner.PageAsync("/projects/TIDES"));
    }

    [Fact]
    public async Task What_waited_for_a_person_and_was_deleted_or_written_over_is_taken_back()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        const string Sketch = "working/gull%20sketch.ora";
        async Task PutAsync(byte red)
        {
            Assert.True((int)await desk.PutAsync(Sketch, Poster(red)) < 300);
            await WaitsAsync(red);
        }
        async Task WaitsAsync(byte red)
        {
            var content = ContentHash.Of(Poster(red));
            for (var tries = 0; !await studio.Read(db => db.SharedFiles.AnyAsync(f => f.SettledAt != null && f.Hash == content)); tries++)
            {
                Assert.True(tries < 300, $"What was saved as {red} does not come to wait.");
                await Task.Delay(100);
            }
        }
        Task<List<SharedFile>> GoneAsync() =>
            studio.Read(db => db.SharedFiles.WithDeleted().Where(f => f.DeletedAt != null).OrderBy(f => f.DeletedAt).ToListAsync());

        await PutAsync(21);
        await PutAsync(22);
        Assert.Equal(HttpStatusCode.Created, await desk.MoveAsync(Sketch, "working/gull.ora"));
        await WaitsAsync(22);
        // What was moved is not gone.
        Assert.Equal([ContentHash.Of(Poster(21))], (await GoneAsync()).Select(f => f.Hash!.Value));
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync("working/gull.ora"));
        Assert.Equal(HttpStatusCode.NotFound, (await desk.DoAsync("GET", "working/gull.ora")).Status);
        var page = await owner.PageAsync("/deleted");
        Assert.Contains("working/gull sketch.ora", page);
        Assert.Contains("file in TIDES that was no piece yet, deleted", page);

        // Something else stands there by now.
        await PutAsync(23);
        Assert.Contains("that is no piece yet, written over", await owner.PageAsync("/deleted"));
        foreach (var file in await GoneAsync())
            await owner.PostAsync("/deleted?handler=TakeBack", new() { ["waiting"] = file.Id.ToString() }, from: "/people");
        Assert.Equal(Poster(21), (await desk.DoAsync("GET", "working/gull%20sketch%20(2).ora")).Body);
        Assert.Equal(Poster(22), (await desk.DoAsync("GET", "working/gull.ora")).Body);
        Assert.Equal(Poster(23), (await desk.DoAsync("GET", Sketch)).Body);
        Assert.Contains("gull sketch (2).ora", await owner.PageAsync("/projects/TIDES"));
        Assert.Contains("Nothing is deleted", await owner.PageAsync("/deleted"));

        // Its folder went with it.
        await desk.DoAsync("MKCOL", "working/rough");
        await desk.PutAsync("working/rough/shore.ora", Poster(24));
        await WaitsAsync(24);
        Assert.Equal(HttpStatusCode.NoContent, await desk.DeleteAsync("working/rough"));
        var last = Assert.Single(await GoneAsync());
        await owner.PostAsync("/deleted?handler=TakeBack", new() { ["waiting"] = last.Id.ToString() }, from: "/people");
        Assert.Contains("back as working/shore.ora, since its folder is not there any more", await owner.PageAsync("/projects/TIDES"));
        Assert.Equal(Poster(24), (await desk.DoAsync("GET", "working/shore.ora")).Body);
        Assert.Contains("shore.ora", await desk.ListAsync("working"));
    }

    [Fact]
    public async Task Only_a_key_that_counts_opens_the_share_and_names_that_lead_out_lead_nowhere()
    {
        var (studio, owner, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        using var stranger = new Desk(studio, "IK", "abcde-abcde-abcde-abcde-abcde-abcde");
        var (status, _, headers) = await stranger.DoAsync("GET", Current);
        Assert.Equal((HttpStatusCode.Unauthorized, "Basic"), (status, headers.WwwAuthenticate.Single().Scheme));
        using var someoneElse = new Desk(studio, "OB", desk.Key);
        Assert.Equal(HttpStatusCode.Unauthorized, (await someoneElse.DoAsync("GET", Current)).Status);
        // A browser's own session is none for the share: a page of another site could use it.
        Assert.Equal(HttpStatusCode.Unauthorized, (await owner.GetAsync("/share/TIDES/")).StatusCode);

        foreach (
            var wrong in (string[])
                ["assets/a%2Fb", "assets/%2e%2e%2fx", "assets/a%5Cb", "assets/%00", "assets/%C3%28", $"assets/{new string('x', 1000)}"]
        )
            Assert.Equal((wrong, HttpStatusCode.BadRequest), (wrong, await desk.PutAsync(wrong, [1])));
        Assert.Equal(HttpStatusCode.Conflict, await desk.PutAsync("nowhere/a.txt", [1]));
        // One name in two Unicode forms is one file.
        Assert.Equal(HttpStatusCode.Created, await desk.PutAsync("assets/caf%C3%A9.txt", [1]));
        Assert.Equal(HttpStatusCode.NoContent, await desk.PutAsync("assets/cafe%CC%81.txt", [2]));
        foreach (
            var body in (string[])
                [
                    "<!DOCTYPE x [<!ENTITY a 'b'>]><propfind xmlns='DAV:'><allprop/></propfind>",
                    "<propfind xmlns='DAV:'>" + string.Concat(Enumerable.Repeat("<a/>", 20_000)) + "</propfind>",
                    "<propfind xmlns='DAV:'>",
                    new string('x', 2_000_000),
                ]
        )
            Assert.Equal(
                HttpStatusCode.BadRequest,
                (await desk.DoAsync("PROPFIND", "", Encoding.UTF8.GetBytes(body), ("Depth", "0"))).Status
            );
        Assert.Equal(HttpStatusCode.Forbidden, (await desk.DoAsync("PROPFIND", "", null, ("Depth", "infinity"))).Status);
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await desk.DoAsync("PUT", "assets/part.txt", [1], ("Content-Range", "bytes 0-0/9"))).Status
        );
        Assert.Equal(HttpStatusCode.BadRequest, (await desk.DoAsync("PUT", "assets/x.txt", [1], ("If", "(nonsense"))).Status);

        // Conditions and ranges.
        var got = await desk.DoAsync("GET", Current, null, ("Range", "bytes=10-19"));
        Assert.Equal((HttpStatusCode.PartialContent, 10), (got.Status, got.Body.Length));
        var tag = got.Headers.ETag!.ToString();
        Assert.Equal(HttpStatusCode.NotModified, (await desk.DoAsync("GET", Current, null, ("If-None-Match", tag))).Status);
        Assert.Equal(HttpStatusCode.PreconditionFailed, (await desk.DoAsync("PUT", Current, Poster(2), ("If-Match", "\"other\""))).Status);
        Assert.Equal(HttpStatusCode.PreconditionFailed, (await desk.DoAsync("PUT", Current, Poster(2), ("If-None-Match", "*"))).Status);
        Assert.Equal(HttpStatusCode.NoContent, (await desk.DoAsync("PUT", Current, Poster(1), ("If-Match", tag))).Status);

        // Revoked, it opens nothing from the next request on.
        var key = await studio.Read(db => db.DeviceKeys.SingleAsync());
        Assert.Contains("A desk", await owner.PageAsync("/me"));
        await owner.PostAsync("/me?handler=Revoke", new() { ["key"] = key.Id.ToString() }, from: "/me");
        Assert.Equal(HttpStatusCode.Unauthorized, (await desk.DoAsync("GET", Current)).Status);
    }

    [Fact]
    public async Task Programs_of_others_find_it_as_they_expect_it()
    {
        var (studio, _, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        var (code, said) = await RunAsync("litmus", "-k", desk.Url(""), "IK", desk.Key);
        Assert.True(code == 0 && !said.Contains("FAIL") && !said.Contains("WARNING"), said);
        Assert.Equal(5, said.Split("100.0%").Length - 1);

        var folder = Directory.CreateTempSubdirectory("chronotype-share-").FullName;
        try
        {
            await File.WriteAllBytesAsync(Path.Combine(folder, "tide.bin"), new byte[3_000_000]);
            var remote = $":webdav,url='{desk.Url("")}',user=IK,pass='{(await RunAsync("rclone", "obscure", desk.Key)).Said.Trim()}':";
            (code, said) = await RunAsync("rclone", "copy", folder, remote + "assets/sea");
            Assert.True(code == 0, said);
            (code, said) = await RunAsync("rclone", "check", "--download", folder, remote + "assets/sea");
            Assert.True(code == 0, said);
            (code, said) = await RunAsync("rclone", "moveto", remote + "assets/sea/tide.bin", remote + "assets/sea/ebb.bin");
            Assert.True(code == 0, said);
            Assert.Equal(["ebb.bin"], await desk.ListAsync("assets/sea"));
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    [Fact]
    public async Task A_person_at_a_shell_works_with_it_by_cadaver()
    {
        var (studio, _, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        var folder = Directory.CreateTempSubdirectory("chronotype-cadaver-").FullName;
        try
        {
            await File.WriteAllTextAsync(Path.Combine(folder, ".netrc"), $"machine 127.0.0.1\nlogin IK\npassword {desk.Key}\n");
            await RunAsync("chmod", "600", Path.Combine(folder, ".netrc"));
            await File.WriteAllBytesAsync(Path.Combine(folder, "sea.bin"), Samples.Noise(50_000, 4));
            var (_, said) = await RunAsync(
                ("cadaver", [desk.Url("")]),
                $"""
                cd assets
                mkcol ebb
                put {folder}/sea.bin ebb/sea.bin
                propset ebb/sea.bin shade blue
                propget ebb/sea.bin shade
                lock ebb/sea.bin
                unlock ebb/sea.bin
                copy ebb/sea.bin ebb/foam.bin
                move ebb/foam.bin ebb/spray.bin
                get ebb/spray.bin {folder}/back.bin
                delete ebb/sea.bin
                put {folder}/sea.bin ../working/versions/mine.bin
                ls ebb
                quit

                """,
                folder
            );
            Assert.Contains("Value of shade is: blue", said);
            Assert.Equal(11, said.Split("succeeded.").Length - 1 + said.Split("succeeded:").Length - 1);
            Assert.Equal(Samples.Noise(50_000, 4), await File.ReadAllBytesAsync(Path.Combine(folder, "back.bin")));
            Assert.Equal(["spray.bin"], await desk.ListAsync("assets/ebb"));
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    [MountFact]
    public async Task A_mounted_share_is_a_folder_in_which_a_current_file_is_saved()
    {
        var (studio, _, desk) = await OpenAsync();
        await using var closing = studio;
        using var open = desk;
        var folder = Directory.CreateTempSubdirectory("chronotype-mount-").FullName;
        var (code, said) = await RunAsync(
            ("mount", ["-t", "davfs", "-o", "rw", desk.Url(""), folder]),
            $"IK\n{desk.Key}\n",
            Path.GetTempPath()
        );
        Assert.True(code == 0, said);
        try
        {
            var file = Path.Combine(folder, Current);
            Assert.Equal(Poster(1), await File.ReadAllBytesAsync(file));
            await File.WriteAllBytesAsync(file, Poster(60));
            await File.WriteAllBytesAsync(Path.Combine(folder, "assets/tide.bin"), Samples.Noise(9_000, 1));
            // What is only kept there cannot be written; what was written is sent when the mount ends, at the latest.
            var version = Path.Combine(folder, "working/versions", (await desk.ListAsync("working/versions")).Single());
            Assert.Equal(Poster(1), await File.ReadAllBytesAsync(version));
        }
        finally
        {
            await RunAsync("umount", folder);
            Directory.Delete(folder);
        }
        Assert.Equal(ContentHash.Of(Poster(60)), (await NewestAsync(studio, 2)).MainHash);
        Assert.Equal(Samples.Noise(9_000, 1), (await desk.DoAsync("GET", "assets/tide.bin")).Body);
    }

    /// <summary>Where the machine lets this one mount: as root, with /dev/fuse and davfs2.</summary>
    [AttributeUsage(AttributeTargets.Method)]
    private sealed class MountFactAttribute : FactAttribute
    {
        public MountFactAttribute()
        {
            if (Environment.UserName != "root" || !File.Exists("/dev/fuse") || !File.Exists("/sbin/mount.davfs"))
                Skip = "Nothing can be mounted here: that takes root, /dev/fuse and davfs2.";
        }
    }

    private static Task<(int Code, string Said)> RunAsync(string program, params string[] args) =>
        RunAsync((program, args), "", Path.GetTempPath());

    private static async Task<(int Code, string Said)> RunAsync((string Name, string[] Args) program, string typed, string home)
    {
        var start = new ProcessStartInfo(program.Name)
        {
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            WorkingDirectory = Path.GetTempPath(),
            Environment = { ["HOME"] = home },
        };
        foreach (var arg in program.Args)
            start.ArgumentList.Add(arg);
        using var process = Process.Start(start)!;
        await process.StandardInput.WriteAsync(typed);
        process.StandardInput.Close();
        var (output, error) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        await process.WaitForExitAsync();
        return (process.ExitCode, await output + await error);
    }
}
