using System.Net;
using System.Net.Http.Headers;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Microsoft.AspNetCore.Routing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <summary>Who sees which projects, and who only reads: on every page, at every address, and on the share.</summary>
public class AccessTests
{
    private const string Password = "ten letters and more";

    private static byte[] Poster(byte red) => Samples.OpenRaster(40, 60, new Samples.OraLayer("Sky", 40, 60, Red: red));

    private static async Task<(ServedStudio Studio, Visitor Owner, Visitor Odo, Guid OdoId)> OpenAsync()
    {
        var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Poster(1), "poster.ora");
        await owner.SaveAsync(Poster(2));
        await owner.PostAsync(
            "/people",
            new()
            {
                ["name"] = "Odo Barreau",
                ["initials"] = "OB",
                ["password"] = Password,
            }
        );
        var odo = new Visitor(studio.Address);
        await odo.PostAsync("/sign-in", new() { ["initials"] = "OB", ["password"] = Password });
        await studio.SettledAsync();
        return (studio, owner, odo, await studio.Read(db => db.Users.Where(u => u.Initials == "OB").Select(u => u.Id).SingleAsync()));
    }

    private static Task<HttpResponseMessage> SetAsync(Visitor by, Guid whom, bool some, bool reads = false, Guid? project = null)
    {
        var fields = new Dictionary<string, string>
        {
            ["person"] = whom.ToString(),
            ["sees"] = some ? "some" : "all",
            ["reads"] = reads ? "true" : "false",
        };
        if (project is { } one)
            fields["projects"] = one.ToString();
        return by.PostAsync("/people?handler=Access", fields, from: "/people");
    }

    private static async Task<HttpClient> ProgramAsync(ServedStudio studio, Guid person)
    {
        var made = await studio.App.Services.GetRequiredService<DeviceKeys>().MakeAsync(Actor.Person(person), "A desk");
        var secret = Convert.ToBase64String(Encoding.UTF8.GetBytes($"OB:{made.Expect().Secret}"));
        return new HttpClient
        {
            BaseAddress = new Uri(studio.Address, "share/"),
            DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Basic", secret) },
        };
    }

    private static async Task<(HttpStatusCode Status, string Body)> AskAsync(
        HttpClient program,
        string method,
        string path,
        byte[]? body = null
    )
    {
        using var request = new HttpRequestMessage(new HttpMethod(method), path)
        {
            Content = body is null ? null : new ByteArrayContent(body),
        };
        request.Headers.Add("Depth", "1");
        using var answer = await program.SendAsync(request);
        return (answer.StatusCode, await answer.Content.ReadAsStringAsync());
    }

    /// <summary>Every address that leads to something of the project, with what stands there in the place of its parts.</summary>
    private static async Task<List<string>> AddressesAsync(ServedStudio studio)
    {
        var (piece, save) = await studio.Read(async db =>
            (await db.Pieces.SingleAsync(), await db.Saves.OrderBy(s => s.Sequence).FirstAsync())
        );
        var other = await studio.Read(db => db.Saves.OrderBy(s => s.Sequence).Select(s => s.Id).LastAsync());
        var addresses = new List<string>();
        foreach (var endpoint in studio.App.Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>())
        {
            var pattern = endpoint.RoutePattern;
            var methods = endpoint.Metadata.GetMetadata<IHttpMethodMetadata>()?.HttpMethods;
            if (methods is { Count: > 0 } && !methods.Contains("GET") || pattern.RawText!.StartsWith("/share", StringComparison.Ordinal))
                continue;
            var parts = pattern.Parameters.Select(p => p.Name).ToHashSet();
            if (!parts.Overlaps(["project", "piece", "id", "entry"]) || pattern.RawText.StartsWith("/uploads", StringComparison.Ordinal))
                continue;
            var text = new StringBuilder();
            foreach (var segment in pattern.PathSegments)
            {
                text.Append('/');
                foreach (var part in segment.Parts)
                {
                    text.Append(
                        part switch
                        {
                            Microsoft.AspNetCore.Routing.Patterns.RoutePatternLiteralPart literal => literal.Content,
                            Microsoft.AspNetCore.Routing.Patterns.RoutePatternParameterPart parameter => (
                                parameter.Name,
                                parameter.ParameterPolicies.Any(p => p.Content == "guid")
                            ) switch
                            {
                                ("project", _) => "TIDES",
                                ("piece", true) => piece.Id.ToString(),
                                ("piece", false) => piece.CurrentName,
                                ("other", _) => other.ToString(),
                                ("side", _) => "480",
                                ("folder", _) => "",
                                (_, true) => save.Id.ToString(),
                                _ => "0",
                            },
                            _ => throw new InvalidOperationException($"No one has said what stands at {part} of {pattern.RawText}."),
                        }
                    );
                }
            }
            addresses.Add(text.ToString());
        }
        return [.. addresses.Distinct()];
    }

    [Fact]
    public async Task What_somebody_does_not_see_is_found_at_no_address_and_named_on_no_page()
    {
        var (studio, owner, odo, id) = await OpenAsync();
        await using var _ = studio;
        var addresses = await AddressesAsync(studio);
        Assert.True(addresses.Count > 25, $"Only {addresses.Count} addresses were found.");
        // With the same eyes as the owner there is much to be found; so that what follows says something.
        var found = new List<string>();
        foreach (var address in addresses.Where(a => !a.EndsWith("/arriving", StringComparison.Ordinal)))
        {
            if ((await odo.GetAsync(address)).StatusCode == HttpStatusCode.OK)
                found.Add(address);
        }
        Assert.True(found.Count > 15, string.Join(", ", found));

        await SetAsync(owner, id, some: true);
        foreach (var address in addresses)
            Assert.Equal((address, HttpStatusCode.NotFound), (address, (await odo.GetAsync(address)).StatusCode));
        foreach (
            var page in new[]
            {
                "/",
                "/projects",
                "/find?q=moonpull",
                "/deleted",
                "/jobs",
                "/storage",
                "/recipes",
                "/formats",
                "/me",
                "/convention/codes",
                "/projects/new",
            }
        )
        {
            var shown = (await odo.PageAsync(page))
                .Replace("value=\"moonpull\"", "", StringComparison.Ordinal)
                .Replace("placeholder=\"TIDES\"", "", StringComparison.Ordinal);
            Assert.False(
                shown.Contains("TIM_moonpull", StringComparison.OrdinalIgnoreCase) || shown.Contains("TIDES", StringComparison.Ordinal),
                page
            );
        }
        Assert.Equal(HttpStatusCode.NotFound, (await odo.SaveAsync(Poster(3))).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await odo.ActAsync("Keep", [])).StatusCode);
        Assert.Equal(2, (await studio.SavesAsync()).Count);

        // Let in again, it is all there; and a project that they begin themselves is theirs.
        var project = await studio.Read(db => db.Projects.Select(p => p.Id).SingleAsync());
        await SetAsync(owner, id, some: true, project: project);
        Assert.Contains("moonpull", await odo.PiecePageAsync());
        await odo.BeginProjectAsync("GULLS", "Gulls");
        Assert.Contains("Gulls", await odo.PageAsync("/projects/GULLS"));
    }

    [Fact]
    public async Task A_code_that_is_taken_by_a_project_one_does_not_see_is_refused_all_the_same()
    {
        var (studio, owner, odo, id) = await OpenAsync();
        await using var _ = studio;
        await SetAsync(owner, id, some: true);
        var again = await odo.BeginProjectAsync("tides", "Mine");
        Assert.Equal(HttpStatusCode.OK, again.StatusCode);
        Assert.Equal(1, await studio.Read(db => db.Projects.CountAsync()));
    }

    [Fact]
    public async Task Whoever_only_reads_takes_copies_and_changes_nothing_but_their_own()
    {
        var (studio, owner, odo, id) = await OpenAsync();
        await using var _ = studio;
        await SetAsync(owner, id, some: false, reads: true);
        Assert.Contains("reading only", await odo.PiecePageAsync());
        var save = (await studio.SavesAsync())[0].Id;
        Assert.Equal(HttpStatusCode.OK, (await odo.GetAsync($"/saves/{save}/file")).StatusCode);
        Assert.Equal(HttpStatusCode.Forbidden, (await odo.SaveAsync(Poster(3))).StatusCode);
        await odo.ActAsync("Keep", []);
        Assert.Contains("change nothing", await odo.PiecePageAsync());
        Assert.Equal([1, null], (await studio.SavesAsync()).Select(s => s.Number));

        using var program = await ProgramAsync(studio, id);
        const string file = "TIDES/working/TIM_moonpull-poster_key.ora";
        Assert.Equal(HttpStatusCode.OK, (await AskAsync(program, "GET", file)).Status);
        foreach (
            var (method, body) in new[] { ("PUT", Poster(4)), ("DELETE", null), ("LOCK", null), ("PROPPATCH", Poster(4)), ("MKCOL", null) }
        )
        {
            var (status, said) = await AskAsync(program, method, file, body);
            Assert.Equal((method, HttpStatusCode.Forbidden), (method, status));
            Assert.Contains("change nothing", said);
        }
        await odo.PostAsync(
            "/me?handler=Profile",
            new()
            {
                ["name"] = "Odo B",
                ["initials"] = "OB",
                ["theme"] = "Dark",
            },
            from: "/me"
        );
        Assert.Equal("Odo B", await studio.Read(db => db.Users.Where(u => u.Id == id).Select(u => u.Name).SingleAsync()));
    }

    [Fact]
    public async Task The_share_shows_the_projects_that_one_sees_alone()
    {
        var (studio, owner, odo, id) = await OpenAsync();
        await using var _ = studio;
        using var program = await ProgramAsync(studio, id);
        Assert.Contains("TIDES", (await AskAsync(program, "PROPFIND", "")).Body);
        await SetAsync(owner, id, some: true);
        Assert.DoesNotContain("TIDES", (await AskAsync(program, "PROPFIND", "")).Body);
        Assert.Equal(HttpStatusCode.NotFound, (await AskAsync(program, "PROPFIND", "TIDES/working/")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await AskAsync(program, "PUT", "TIDES/working/x.ora", Poster(5))).Status);
        Assert.False(await studio.Read(db => db.SharedFiles.AnyAsync()));

        // What was deleted there is named to them nowhere, and not theirs to take back.
        var gone = await studio.Read(async db =>
        {
            var path = ProjectPath.Parse("working/sketch.ora");
            var file = new SharedFile
            {
                ProjectId = await db.Projects.Select(p => p.Id).SingleAsync(),
                Path = path,
                PathKey = path.Key,
                FolderKey = "working",
                Hash = ContentHash.Of(Poster(1)),
                Size = Poster(1).Length,
                DeletedAt = DateTimeOffset.UtcNow,
            };
            db.SharedFiles.Add(file);
            await db.SaveChangesAsync();
            return file.Id;
        });
        Assert.Contains("sketch.ora", await owner.PageAsync("/deleted"));
        Assert.DoesNotContain("sketch.ora", await odo.PageAsync("/deleted"));
        await odo.PostAsync("/deleted?handler=TakeBack", new() { ["waiting"] = gone.ToString() }, from: "/people");
        Assert.False(await studio.Read(db => db.SharedFiles.AnyAsync()));
    }

    [Fact]
    public async Task A_key_that_is_revoked_while_a_file_is_on_its_way_brings_nothing_in()
    {
        var (studio, _, _, id) = await OpenAsync();
        await using var _ = studio;
        using var program = await ProgramAsync(studio, id);
        var key = await studio.Read(db => db.DeviceKeys.Select(k => k.Id).SingleAsync());
        var half = new TaskCompletionSource();
        using var request = new HttpRequestMessage(HttpMethod.Put, "TIDES/working/TIM_moonpull-poster_key.ora")
        {
            Content = new HeldContent(Poster(9), half.Task),
        };
        var answer = program.SendAsync(request);
        await Task.Delay(300);
        (await studio.App.Services.GetRequiredService<DeviceKeys>().RevokeAsync(Actor.Person(id), key)).Expect();
        half.SetResult();
        Assert.Equal(HttpStatusCode.Unauthorized, (await answer).StatusCode);
        Assert.False(await studio.Read(db => db.SharedFiles.AnyAsync()));
        Assert.Equal(2, (await studio.SavesAsync()).Count);
    }

    /// <summary>Sends the half of it, and the rest when it is told to.</summary>
    private sealed class HeldContent(byte[] bytes, Task go) : HttpContent
    {
        protected override async Task SerializeToStreamAsync(Stream stream, TransportContext? context)
        {
            await stream.WriteAsync(bytes.AsMemory(0, bytes.Length / 2));
            await stream.FlushAsync();
            await go;
            await stream.WriteAsync(bytes.AsMemory(bytes.Length / 2));
        }

        protected override bool TryComputeLength(out long length)
        {
            length = bytes.Length;
            return true;
        }
    }
}
