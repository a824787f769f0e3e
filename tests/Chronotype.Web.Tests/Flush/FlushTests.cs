using System.Diagnostics;
using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.RegularExpressions;
using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Mirror;
using Chronotype.Storage.Starting;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.Logging.Abstractions;

namespace Chronotype.Web.Tests.Flush;

/// <summary>
/// What was answered is on the disk: the real server on a disk that forgets whatever it was not told to keep (<c>forgetful.c</c>), and what
/// that holds the moment after each answer.
/// </summary>
public sealed partial class FlushTests : IDisposable
{
    private const string Piece = "/projects/TIDES/TIM_moonpull-poster_key";

    private readonly StudioFolder folder = new();

    private string Data => Path.Combine(folder.Path, "data");

    private string Disk => Path.Combine(folder.Path, "disk");

    public void Dispose() => folder.Dispose();

    /// <summary>What a power cut at this moment would leave.</summary>
    private string Cut()
    {
        var cut = Directory.CreateDirectory(Path.Combine(folder.Path, "cut")).FullName;
        Directory.Delete(cut, recursive: true);
        StudioFolder.Copy(Disk, cut);
        return cut;
    }

    private static string? Asked(string root, string sql)
    {
        using var connection = new SqliteConnection($"Data Source={Path.Combine(root, "studio.db")};Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        return command.ExecuteScalar()?.ToString();
    }

    [Fact]
    public async Task What_was_answered_is_on_the_disk_whatever_was_done()
    {
        Directory.CreateDirectory(Data);
        using var server = new ServerProcess(
            Data,
            null,
            ("LD_PRELOAD", Preloaded.Made("forgetful", folder.Path)),
            ("FORGETFUL_FROM", Data),
            ("FORGETFUL_TO", Disk)
        );
        var address = await server.ReadyAsync();
        var owner = await Visitor.FoundAsync(address);
        Holds("SELECT Initials FROM People WHERE IsOwner", "IK");
        Holds("SELECT count(*) FROM Sessions", "1");

        await owner.BeginProjectAsync("TIDES", "Tides");
        Holds("SELECT Title FROM Projects", "Tides");

        await Done(owner.StartPieceAsync(Samples.Noise(40_000, 1), "poster.lay"));
        Holds("SELECT count(*) FROM Saves", "1");
        await Done(owner.SaveAsync(Samples.Noise(40_000, 2), "poster.lay"));
        Holds("SELECT count(*) FROM Saves", "2");
        var second = Id("SELECT Id FROM Saves ORDER BY Sequence DESC LIMIT 1");

        await Done(owner.ActAsync("Keep", new() { ["save"] = second, ["insist"] = "true" }));
        Holds("SELECT max(Number) FROM Saves", Asked(Data, "SELECT max(Number) FROM Saves")!);
        Holds("SELECT count(*) FROM Saves WHERE Number IS NOT NULL", "2");
        await Done(owner.ActAsync("Note", new() { ["save"] = second, ["note"] = "Ferries are back." }));
        Holds("SELECT Note FROM Saves WHERE Note IS NOT NULL", "Ferries are back.");
        await Done(owner.ActAsync("Milestone", new() { ["save"] = second, ["reason"] = "before the sky is repainted" }));
        Holds("SELECT Reason FROM Milestones", "before the sky is repainted");
        await Done(owner.ActAsync("BringBack", new() { ["save"] = Id("SELECT Id FROM Saves ORDER BY Sequence LIMIT 1") }));
        Holds("SELECT count(*) FROM Saves", "3");
        await Done(owner.ActAsync("Discard", new() { ["save"] = Id("SELECT Id FROM Saves ORDER BY Sequence DESC LIMIT 1") }));
        Holds("SELECT count(*) FROM Saves WHERE DiscardedAt IS NOT NULL", "1");

        // A file that arrives in parts, and is told how far it is.
        var upload = await BeginAsync(owner, 3_000);
        Assert.NotEmpty(Directory.GetFiles(Path.Combine(Cut(), "uploads"), "*.json"));
        await PatchAsync(owner, upload, Samples.Noise(1_000, 5), 0);
        Assert.Equal(1_000, new FileInfo(Directory.GetFiles(Path.Combine(Cut(), "uploads"), "*.part").Single()).Length);
        await PatchAsync(owner, upload, Samples.Noise(2_000, 6), 1_000);
        Assert.Equal(3_000, new FileInfo(Directory.GetFiles(Path.Combine(Cut(), "uploads"), "*.part").Single()).Length);

        // The share.
        var page = await (await owner.PostAsync("/me?handler=Key", new() { ["key"] = "A desk" }, from: "/me")).Content.ReadAsStringAsync();
        Holds("SELECT Name FROM DeviceKeys", "A desk");
        using var program = new HttpClient { BaseAddress = new Uri(address, "share/TIDES/") };
        program.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue(
            "Basic",
            Convert.ToBase64String(Encoding.UTF8.GetBytes($"IK:{Key().Match(page).Groups[1].Value}"))
        );
        await Done(program.PutAsync("working/TIM_moonpull-poster_key.lay", new ByteArrayContent(Samples.Noise(40_000, 7))));
        Holds("SELECT count(*) FROM SharedFiles WHERE Size = 40000", "1");
        await Done(program.PutAsync("assets/paper.txt", new ByteArrayContent("rough"u8.ToArray())));
        Holds("SELECT Path FROM Entries WHERE Path LIKE '%paper%'", "assets/paper.txt");
        await Done(program.SendAsync(new HttpRequestMessage(new HttpMethod("MKCOL"), "assets/old")));
        Holds("SELECT count(*) FROM Entries WHERE Path = 'assets/old'", "1");
        using (var move = new HttpRequestMessage(new HttpMethod("MOVE"), "assets/paper.txt"))
        {
            move.Headers.Add("Destination", new Uri(address, "share/TIDES/assets/old/paper.txt").ToString());
            await Done(program.SendAsync(move));
        }
        Holds("SELECT Path FROM Entries WHERE Path LIKE '%paper%' AND DeletedAt IS NULL", "assets/old/paper.txt");
        await Done(program.DeleteAsync("assets/old/paper.txt"));
        Holds("SELECT count(*) FROM Entries WHERE Path LIKE '%paper.txt' AND DeletedAt IS NOT NULL", "1");
        // What a program saved is a save after a while; nobody is told of it before it lasts.
        while (!(await owner.PiecePageAsync()).Contains("3 saves") && Asked(Data, "SELECT count(*) FROM Saves") != "4")
            await Task.Delay(100);
        Assert.Contains("poster", await owner.PiecePageAsync());
        Holds("SELECT count(*) FROM Saves", "4");

        // Names, people, access, deletions.
        await Done(
            owner.PostAsync(
                "/tidy/TIDES/TIM_moonpull-poster_key?handler=Rename",
                new() { ["slot.subject"] = "Harbour poster", ["slot.function"] = "key" },
                from: "/me"
            )
        );
        Holds("SELECT CurrentName FROM Pieces", "TIM_harbour-poster_key");
        await Done(
            owner.PostAsync(
                "/people",
                new()
                {
                    ["name"] = "Odo Barreau",
                    ["initials"] = "OB",
                    ["password"] = "ten letters and more",
                }
            )
        );
        Holds("SELECT Name FROM People WHERE Initials = 'OB'", "Odo Barreau");
        var odo = Id("SELECT Id FROM People WHERE Initials = 'OB'");
        await Done(
            owner.PostAsync(
                "/people?handler=Access",
                new()
                {
                    ["person"] = odo,
                    ["sees"] = "some",
                    ["reads"] = "true",
                },
                from: "/people"
            )
        );
        Holds("SELECT SeesSome || IsReader FROM People WHERE Initials = 'OB'", "11");
        await Done(owner.PostAsync("/tidy/TIDES/TIM_harbour-poster_key?handler=Delete", [], from: "/me"));
        Holds("SELECT count(*) FROM Pieces WHERE DeletedAt IS NOT NULL", "1");

        // A start on what the power left goes by itself, and needs no copy for any of it.
        var cut = Cut();
        using (var data = new DataFolder(cut))
        using (var store = ContentStore.Open(data.Content))
        {
            var start = new StudioStart(data, store, new RecordMirror(data, store), TimeProvider.System, NullLogger<StudioStart>.Instance);
            await start.RunAsync();
            Assert.Null(start.PlayedBack);
            Assert.True(store.Maintenance.Verify().IsSound);
        }

        void Holds(string sql, string expected) => Assert.Equal((sql, expected), (sql, Asked(Cut(), sql)));

        string Id(string sql) => Asked(Data, sql)!;
    }

    private static async Task Done(Task<HttpResponseMessage> asked)
    {
        using var answer = await asked;
        Assert.True((int)answer.StatusCode < 400, $"{answer.RequestMessage!.RequestUri}: {answer.StatusCode}");
    }

    private static async Task<Uri> BeginAsync(Visitor owner, long length)
    {
        using var request = await TusAsync(owner, HttpMethod.Post, "/uploads");
        request.Headers.Add("Upload-Length", $"{length}");
        using var answer = await owner.SendAsync(request);
        Assert.Equal(HttpStatusCode.Created, answer.StatusCode);
        return answer.Headers.Location!;
    }

    private static async Task PatchAsync(Visitor owner, Uri upload, byte[] bytes, long at)
    {
        using var request = await TusAsync(owner, HttpMethod.Patch, upload.ToString());
        request.Headers.Add("Upload-Offset", $"{at}");
        request.Content = new ByteArrayContent(bytes);
        request.Content.Headers.ContentType = new MediaTypeHeaderValue("application/offset+octet-stream");
        using var answer = await owner.SendAsync(request);
        Assert.Equal(HttpStatusCode.NoContent, answer.StatusCode);
    }

    private static async Task<HttpRequestMessage> TusAsync(Visitor owner, HttpMethod method, string path)
    {
        var request = new HttpRequestMessage(method, path);
        request.Headers.Add("Tus-Resumable", "1.0.0");
        request.Headers.Add("X-Form-Token", await owner.TokenAsync("/people"));
        return request;
    }

    [GeneratedRegex("""id="made-key">([^<]+)<""")]
    internal static partial Regex Key();
}
