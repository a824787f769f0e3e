using System.Globalization;
using System.Net;
using System.Net.Http.Headers;
using System.Text;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Mirror;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <summary>
/// Every address, page handler and stream of the route table, asked with the right kind of id by whoever must not have it: nobody, a person
/// of another project, one who only reads, a key that was revoked, a key of another. Nothing is told, and nothing changes.
/// </summary>
public class AddressAccessTests
{
    private const string Password = "ten letters and more";

    // What anybody may ask for.
    private static readonly HashSet<string> Open = ["/healthz", "/sign-in", "/welcome", "/oops", "oops", "sign-in", "welcome", "healthz"];

    // What is one's own, or of the whole studio.
    private static readonly string[] Own = ["/me", "/sign-out", "/practice", "/projects/new"];

    private static byte[] Poster(byte red) => Samples.OpenRaster(40, 60, new Samples.OraLayer("Sky", 40, 60, Red: red));

    private static async Task<(ServedStudio Studio, Visitor Owner, Visitor Odo, Visitor Rita)> OpenAsync()
    {
        var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "poster.ora");
        await owner.SaveAsync(Poster(2));
        await owner.ActAsync("Milestone", new() { ["reason"] = "before the sky is repainted" });
        await owner.UploadAsync("/tree/TIDES/files", "rough"u8.ToArray(), "paper.txt", new() { ["folder"] = "assets" });
        await owner.PostAsync(
            "/tidy/TIDES/TIM_moonpull-poster_key?handler=Rename",
            new() { ["slot.subject"] = "Moon", ["slot.function"] = "key" },
            from: "/me"
        );
        await owner.BeginProjectAsync("GULLS", "Gulls");
        foreach (var (name, initials) in new[] { ("Odo Barreau", "OB"), ("Rita Solheim", "RS") })
            await owner.PostAsync(
                "/people",
                new()
                {
                    ["name"] = name,
                    ["initials"] = initials,
                    ["password"] = Password,
                }
            );
        var gulls = await studio.Read(db => db.Projects.Where(p => p.Code == "GULLS").Select(p => p.Id).SingleAsync());
        await owner.PostAsync(
            "/people?handler=Access",
            new()
            {
                ["person"] = (await IdAsync(studio, "OB")).ToString(),
                ["sees"] = "some",
                ["reads"] = "false",
                ["projects"] = gulls.ToString(),
            },
            from: "/people"
        );
        await owner.PostAsync(
            "/people?handler=Access",
            new()
            {
                ["person"] = (await IdAsync(studio, "RS")).ToString(),
                ["sees"] = "all",
                ["reads"] = "true",
            },
            from: "/people"
        );
        await studio.SettledAsync();
        return (studio, owner, await SignedInAsync(studio, "OB"), await SignedInAsync(studio, "RS"));
    }

    private static Task<Guid> IdAsync(ServedStudio studio, string initials) =>
        studio.Read(db => db.Users.Where(u => u.Initials == initials).Select(u => u.Id).SingleAsync());

    private static async Task<Visitor> SignedInAsync(ServedStudio studio, string initials)
    {
        var visitor = new Visitor(studio.Address);
        await visitor.PostAsync("/sign-in", new() { ["initials"] = initials, ["password"] = Password });
        return visitor;
    }

    /// <summary>All that people have entered, a line each.</summary>
    private static HashSet<string> Told(ServedStudio studio)
    {
        using var connection = new SqliteConnection($"Data Source={Path.Combine(studio.Folder, "studio.db")};Pooling=False");
        connection.Open();
        var told = new HashSet<string>();
        foreach (var table in MirroredTable.All.Select(t => t.Name).Append("Jobs"))
        {
            using var command = connection.CreateCommand();
            // Which jobs there are, and not how far they got by themselves.
            command.CommandText = table == "Jobs" ? "SELECT Id, Kind, Subject FROM Jobs" : $"SELECT * FROM \"{table}\"";
            using var reader = command.ExecuteReader();
            while (reader.Read())
                told.Add(
                    $"{table}: "
                        + string.Join(
                            " | ",
                            Enumerable
                                .Range(0, reader.FieldCount)
                                .Select(i => Convert.ToString(reader.GetValue(i), CultureInfo.InvariantCulture))
                        )
                );
        }
        return told;
    }

    private static async Task<HttpResponseMessage> AskAsync(Visitor visitor, Asked asked, string? token)
    {
        var (separator, fields) = (asked.Path.Contains('?') ? '&' : '?', asked.Fields);
        var query = string.Join('&', fields.Select(f => $"{f.Key}={Uri.EscapeDataString(f.Value)}"));
        var isBody = asked.Method is "POST" or "PATCH" or "PUT";
        var request = new HttpRequestMessage(
            new HttpMethod(asked.Method),
            isBody || query.Length == 0 ? asked.Path : $"{asked.Path}{separator}{query}"
        );
        if (asked.Method == "PATCH")
        {
            request.Content = new ByteArrayContent([1]);
            request.Content.Headers.ContentType = new MediaTypeHeaderValue("application/offset+octet-stream");
        }
        else if (isBody && asked.IsPage)
            request.Content = new FormUrlEncodedContent(fields);
        else if (isBody && asked.Route is "/place" or "/tree/{project}/before")
            request.Content = new StringContent("""{"files":["a.ora"],"paths":["a.ora"]}""", Encoding.UTF8, "application/json");
        else if (isBody)
        {
            var form = new MultipartFormDataContent { { new StringContent("assets"), "folder" } };
            form.Add(new ByteArrayContent(Poster(77)), "file", "poster.ora");
            request.Content = form;
        }
        if (token is not null)
            request.Headers.Add("X-Form-Token", token);
        if (asked.Route.StartsWith("/uploads", StringComparison.Ordinal) || asked.Route.StartsWith("uploads", StringComparison.Ordinal))
        {
            request.Headers.Add("Tus-Resumable", "1.0.0");
            request.Headers.Add("Upload-Length", "5");
            request.Headers.Add("Upload-Offset", "0");
        }
        request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue(asked.IsPage ? "text/html" : "application/json"));
        using var late = new CancellationTokenSource(TimeSpan.FromSeconds(60));
        // Some of the answers are streams that go on.
        return await visitor.BeginAsync(request, late.Token);
    }

    [Fact]
    public async Task Nobody_is_answered_at_no_address()
    {
        var (studio, _, _, _) = await OpenAsync();
        await using var closing = studio;
        var all = await (await Addresses.OfAsync(studio, "TIDES")).AllAsync(studio);
        Assert.True(all.Count > 120, $"Only {all.Count} requests were found.");
        var before = Told(studio);
        var nobody = new Visitor(studio.Address);
        foreach (var asked in all.Where(a => !Open.Contains(a.Route)))
        {
            using var answer = await AskAsync(nobody, asked, null);
            var isSentAway =
                answer.StatusCode == HttpStatusCode.Redirect
                && answer.Headers.Location!.ToString().Contains("/sign-in", StringComparison.Ordinal);
            Assert.True(
                isSentAway || answer.StatusCode is HttpStatusCode.Unauthorized or HttpStatusCode.Forbidden or HttpStatusCode.NotFound,
                $"{asked}: {answer.StatusCode}"
            );
        }
        Assert.Equal(before.Order(), Told(studio).Order());
    }

    [Fact]
    public async Task Somebody_of_another_project_finds_nothing_and_changes_nothing()
    {
        var (studio, _, odo, _) = await OpenAsync();
        await using var closing = studio;
        var all = await (await Addresses.OfAsync(studio, "TIDES")).AllAsync(studio);
        var token = await odo.TokenAsync("/me");
        var before = Told(studio);
        foreach (var asked in all.Where(a => !Open.Contains(a.Route) && !Own.Any(o => a.Path.StartsWith(o, StringComparison.Ordinal))))
        {
            using var answer = await AskAsync(odo, asked, token);
            Assert.True((int)answer.StatusCode < 500, $"{asked}: {answer.StatusCode}");
            if (asked.IsOfProject)
                Assert.True(
                    answer.StatusCode is HttpStatusCode.NotFound or HttpStatusCode.Forbidden,
                    $"{asked}: {answer.StatusCode}, {answer.Headers.Location}"
                );
        }
        await studio.SettledAsync();
        // All that was there is as it was.
        Assert.Empty(before.Where(b => !b.StartsWith("Jobs", StringComparison.Ordinal)).Except(Told(studio)));
    }

    [Fact]
    public async Task Somebody_who_only_reads_changes_nothing_and_brings_no_byte_in()
    {
        var (studio, _, _, rita) = await OpenAsync();
        await using var closing = studio;
        var all = await (await Addresses.OfAsync(studio, "TIDES")).AllAsync(studio);
        var token = await rita.TokenAsync("/me");
        var (before, stored) = (Told(studio), studio.StoredBytes());
        foreach (
            var asked in all.Where(a =>
                a.Method is not ("GET" or "HEAD" or "OPTIONS")
                && !Open.Contains(a.Route)
                && !Own[..2].Any(o => a.Path.StartsWith(o, StringComparison.Ordinal))
            )
        )
        {
            using var answer = await AskAsync(rita, asked, token);
            Assert.True((int)answer.StatusCode < 500, $"{asked}: {answer.StatusCode}");
        }
        await studio.SettledAsync();
        Assert.Equal(
            before.Where(b => !b.StartsWith("Jobs", StringComparison.Ordinal)).Order(),
            Told(studio).Where(b => !b.StartsWith("Jobs", StringComparison.Ordinal)).Order()
        );
        var uploads = Path.Combine(studio.Folder, "uploads");
        Assert.Empty(Directory.Exists(uploads) ? Directory.GetFiles(uploads) : []);
        // Nothing of what was sent; the copies of records that did not change take no room either.
        Assert.InRange(studio.StoredBytes() - stored, 0, 2_000);
    }

    [Fact]
    public async Task A_key_that_was_revoked_or_is_of_another_opens_nothing_on_the_share()
    {
        var (studio, _, _, _) = await OpenAsync();
        await using var closing = studio;
        var keys = studio.App.Services.GetRequiredService<DeviceKeys>();
        async Task<(HttpClient Program, Guid Key)> ProgramAsync(string initials)
        {
            var made = (await keys.MakeAsync(Actor.Person(await IdAsync(studio, initials)), "A desk")).Expect();
            var client = new HttpClient { BaseAddress = new Uri(studio.Address, "share/TIDES/") };
            client.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue(
                "Basic",
                Convert.ToBase64String(Encoding.UTF8.GetBytes($"{initials}:{made.Secret}"))
            );
            return (client, made.Key.Id);
        }
        var (revoked, key) = await ProgramAsync("IK");
        (await keys.RevokeAsync(Actor.Person(await IdAsync(studio, "IK")), key)).Expect();
        var (other, _) = await ProgramAsync("OB");
        var (reading, _) = await ProgramAsync("RS");
        var (before, stored) = (Told(studio), studio.StoredBytes());
        foreach (var method in Share.ShareEndpoints.Methods.Keys)
        {
            foreach (var path in new[] { "assets/paper.txt", "working/TIM_moon_key.ora", "working/nothing.ora" })
            {
                foreach (var (program, expected) in new[] { (revoked, HttpStatusCode.Unauthorized), (other, HttpStatusCode.NotFound) })
                {
                    using var answer = await program.SendAsync(Request(method, path));
                    Assert.Equal((method, path, expected), (method, path, answer.StatusCode));
                }
                using var read = await reading.SendAsync(Request(method, path));
                if (method is not ("OPTIONS" or "GET" or "HEAD" or "PROPFIND"))
                    Assert.Equal((method, path, HttpStatusCode.Forbidden), (method, path, read.StatusCode));
            }
        }
        Assert.Equal(before.Order(), Told(studio).Order());
        Assert.Equal(stored, studio.StoredBytes());

        HttpRequestMessage Request(string method, string path)
        {
            var request = new HttpRequestMessage(new HttpMethod(method), path);
            if (method is "PUT")
                request.Content = new ByteArrayContent(Poster(78));
            request.Headers.Add("Depth", "0");
            request.Headers.Add("Destination", new Uri(studio.Address, "share/TIDES/assets/elsewhere.txt").ToString());
            return request;
        }
    }

    [Fact]
    public async Task A_job_of_a_project_that_one_does_not_see_is_neither_listed_nor_stopped_nor_forgotten()
    {
        var (studio, owner, odo, _) = await OpenAsync();
        await using var closing = studio;
        var piece = await studio.Read(db => db.Pieces.Select(p => p.Id).FirstAsync());
        var failed = await studio.Read(async db =>
        {
            var job = new Job
            {
                Kind = JobKind.PutParts,
                Subject = "nothing",
                Lane = piece.ToString(),
                State = JobState.Failed,
            };
            db.Jobs.Add(job);
            await db.SaveChangesAsync();
            return job.Id;
        });
        foreach (var handler in new[] { "Stop", "Again", "Forget" })
            await odo.PostAsync($"/jobs?handler={handler}", new() { ["id"] = $"{failed}" }, from: "/me");
        Assert.Equal(JobState.Failed, await studio.Read(db => db.Jobs.Where(j => j.Id == failed).Select(j => j.State).SingleAsync()));
        Assert.DoesNotContain($"value=\"{failed}\"", await odo.PageAsync("/jobs"));
        Assert.Contains($"value=\"{failed}\"", await owner.PageAsync("/jobs"));
    }
}
