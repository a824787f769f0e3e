using System.Net;
using System.Net.Http.Headers;
using System.Text;
using Microsoft.Data.Sqlite;

namespace Chronotype.Web.Tests.Flush;

/// <summary>A full disk, and records that somebody else holds: what people and programs are told then, and that nothing is lost.</summary>
public sealed class TroubleTests : IDisposable
{
    private const string Current = "working/TIM_moonpull-poster_key.ora";

    private readonly StudioFolder folder = new();

    public void Dispose() => folder.Dispose();

    // Every method that changes something, each on a file of its own.
    private static readonly (string Method, string Path, string? To)[] Changes =
    [
        ("PUT", Current, null),
        ("PUT", "assets/new.txt", null),
        ("MKCOL", "assets/more", null),
        ("MOVE", "assets/one.txt", "assets/one-moved.txt"),
        ("COPY", "assets/two.txt", "assets/two-copied.txt"),
        ("DELETE", "assets/three.txt", null),
        ("PROPPATCH", "assets/four.txt", null),
        ("LOCK", "assets/five.txt", null),
    ];

    [Fact]
    public async Task With_a_full_disk_programs_are_told_so_and_people_can_sign_in_and_look()
    {
        var (data, flag) = (Directory.CreateDirectory(Path.Combine(folder.Path, "data")).FullName, Path.Combine(folder.Path, "full"));
        using var server = new ServerProcess(
            data,
            null,
            ("LD_PRELOAD", Preloaded.Made("full", folder.Path)),
            ("FULL_IN", data),
            ("FULL_WHILE", flag)
        );
        var address = await server.ReadyAsync();
        var owner = await Visitor.WithProjectAsync(address);
        using var program = await BeginAsync(owner, address);
        var before = await ListAsync(program);

        await File.WriteAllTextAsync(flag, "");
        var told = new List<string>();
        foreach (var (method, path, to) in Changes)
            told.Add($"{method} {(int)(await SendAsync(program, method, path, to)).Status}");
        // Locks are held in memory and need no room.
        Assert.All(told.Where(t => !t.StartsWith("LOCK", StringComparison.Ordinal)), t => Assert.EndsWith(" 507", t));
        Assert.Equal(before, await ListAsync(program));
        Assert.Equal(HttpStatusCode.OK, (await SendAsync(program, "GET", Current)).Status);

        using var saved = await owner.SaveAsync(Poster(9), "poster.ora");
        Assert.Equal(HttpStatusCode.InsufficientStorage, saved.StatusCode);
        Assert.Contains(" is full", await saved.Content.ReadAsStringAsync());

        var other = await SignedInAsync(address);
        Assert.Contains("Ilse Korhonen", await other.PageAsync("/me"));
        Assert.Contains("The disk is full", await other.PageAsync("/storage"));
        Assert.Contains("TIM_moonpull-poster_key", await other.PageAsync("/projects/TIDES"));

        File.Delete(flag);
        // With room again the same can be done, and who signed in meanwhile stays.
        foreach (var (method, path, to) in Changes.Where(c => c.Method != "LOCK"))
            Assert.InRange((int)(await SendAsync(program, method, path, to)).Status, 200, 299);
        Assert.Contains("Ilse Korhonen", await other.PageAsync("/me"));
        using var again = await other.SaveAsync(Poster(10), "poster.ora");
        Assert.True(again.IsSuccessStatusCode);
    }

    [Fact]
    public async Task Records_that_somebody_else_writes_for_long_are_told_with_a_time_to_try_again()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        using var program = await BeginAsync(owner, studio.Address);
        await studio.SettledAsync();
        var before = await ListAsync(program);
        await using (var holder = new SqliteConnection($"Data Source={Path.Combine(studio.Folder, "studio.db")};Pooling=False"))
        {
            await holder.OpenAsync();
            await using var transaction = holder.BeginTransaction(deferred: false);
            var told = await Task.WhenAll(
                Changes
                    .Where(c => c.Method != "LOCK")
                    .Select(async c =>
                    {
                        var (status, headers) = await SendAsync(program, c.Method, c.Path, c.To);
                        return $"{c.Method} {(int)status} {headers.RetryAfter}";
                    })
            );
            Assert.All(told, t => Assert.EndsWith(" 503 5", t));
            Assert.Equal(before, await ListAsync(program));
            Assert.Equal(HttpStatusCode.OK, (await SendAsync(program, "GET", Current)).Status);
        }
        foreach (var (method, path, to) in Changes.Where(c => c.Method != "LOCK"))
            Assert.InRange((int)(await SendAsync(program, method, path, to)).Status, 200, 299);
    }

    private static byte[] Poster(byte red) => Samples.OpenRaster(40, 60, new Samples.OraLayer("Title", 20, 8, Red: red));

    private static async Task<HttpClient> BeginAsync(Visitor owner, Uri address)
    {
        await owner.StartPieceAsync(Poster(1), "poster.ora");
        var page = await (await owner.PostAsync("/me?handler=Key", new() { ["key"] = "A desk" }, from: "/me")).Content.ReadAsStringAsync();
        var program = new HttpClient { BaseAddress = new Uri(address, "share/TIDES/") };
        program.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue(
            "Basic",
            Convert.ToBase64String(Encoding.UTF8.GetBytes($"IK:{FlushTests.Key().Match(page).Groups[1].Value}"))
        );
        foreach (var name in (string[])["one", "two", "three", "four", "five"])
            Assert.Equal(HttpStatusCode.Created, (await SendAsync(program, "PUT", $"assets/{name}.txt")).Status);
        return program;
    }

    private static async Task<string> ListAsync(HttpClient program)
    {
        using var request = new HttpRequestMessage(new HttpMethod("PROPFIND"), "assets/");
        request.Headers.Add("Depth", "1");
        using var answer = await program.SendAsync(request);
        Assert.Equal(HttpStatusCode.MultiStatus, answer.StatusCode);
        var listed = await answer.Content.ReadAsStringAsync();
        // A lock names its file once more.
        return string.Join(' ', listed.Split('<').Where(p => p.Contains("href>/share", StringComparison.Ordinal)).Distinct());
    }

    private static async Task<(HttpStatusCode Status, HttpResponseHeaders Headers)> SendAsync(
        HttpClient program,
        string method,
        string path,
        string? to = null
    )
    {
        using var request = new HttpRequestMessage(new HttpMethod(method), path);
        if (method == "PUT")
            request.Content = new ByteArrayContent(path == Current ? Poster(7) : Encoding.UTF8.GetBytes($"what is in {path}"));
        if (method == "PROPPATCH")
            request.Content = new StringContent(
                "<propertyupdate xmlns='DAV:'><set><prop><a xmlns='x:'>b</a></prop></set></propertyupdate>",
                Encoding.UTF8,
                "application/xml"
            );
        if (method == "LOCK")
            request.Content = new StringContent(
                "<lockinfo xmlns='DAV:'><lockscope><exclusive/></lockscope><locktype><write/></locktype></lockinfo>",
                Encoding.UTF8,
                "application/xml"
            );
        if (to is not null)
            request.Headers.Add("Destination", new Uri(program.BaseAddress!, to).ToString());
        using var answer = await program.SendAsync(request);
        return (answer.StatusCode, answer.Headers);
    }

    private static async Task<Visitor> SignedInAsync(Uri address)
    {
        var visitor = new Visitor(address);
        using var answer = await visitor.PostAsync(
            "/sign-in",
            new() { ["initials"] = "IK", ["password"] = "ten letters and more" },
            from: "/sign-in"
        );
        Assert.True((int)answer.StatusCode < 400, $"{answer.StatusCode}");
        return visitor;
    }
}
