using System.Diagnostics;
using System.Net.Http.Headers;
using System.Text;
using System.Text.RegularExpressions;
using Chronotype.Core.Share;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Bench;

/// <summary>
/// The server beside this program: the same build, a process of its own, so that what the sender takes does not count. With its owner, IK,
/// signed in, and the project TIDES.
/// </summary>
internal sealed partial class BenchServer : IAsyncDisposable
{
    private readonly Process process;

    private BenchServer(Process process, string folder, Uri address)
    {
        (this.process, Folder) = (process, folder);
        Client = new HttpClient { BaseAddress = address, Timeout = Timeout.InfiniteTimeSpan };
    }

    public HttpClient Client { get; }

    public string Folder { get; }

    /// <summary>Bytes of memory that it holds, as the system tells.</summary>
    public long Resident => Told("VmRSS:");

    /// <summary>Bytes of these that are files of programs, which the system reads again where it needs the room.</summary>
    public long OfFiles => Told("RssFile:");

    /// <summary>Files, connections and whatever else it holds open.</summary>
    public int Handles => Directory.GetFileSystemEntries($"/proc/{process.Id}/fd").Length;

    public int Threads => (int)Told("Threads:", 1);

    private long Told(string what, int unit = 1024) =>
        long.Parse(
            File.ReadLines($"/proc/{process.Id}/status")
                .First(l => l.StartsWith(what, StringComparison.Ordinal))
                .Split((char[])[' ', '\t'], StringSplitOptions.RemoveEmptyEntries)[1]
        ) * unit;

    public static async Task<BenchServer> OpenAsync()
    {
        var folder = Directory.CreateTempSubdirectory("chronotype-bench-").FullName;
        var process = Process.Start(
            new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "Chronotype.Web.dll"), "--data", folder, "--port", "0"])
            {
                RedirectStandardOutput = true,
            }
        )!;
        var line = "";
        while (!line.Contains("ready: "))
            line = await process.StandardOutput.ReadLineAsync() ?? throw new InvalidOperationException("The server did not start.");
        _ = process.StandardOutput.ReadToEndAsync();
        var server = new BenchServer(process, folder, new Uri(line.Split("ready: ")[1]));
        await server.PostAsync(
            "/welcome",
            new()
            {
                ["studioName"] = "Bench",
                ["name"] = "Ilse Korhonen",
                ["initials"] = "IK",
                ["password"] = "ten letters and more",
            }
        );
        await server.PostAsync(
            "/projects/new",
            new()
            {
                ["Title"] = "Tides",
                ["Code"] = "TIDES",
                ["ClientName"] = "Museum",
                ["ClientCode"] = "TIM",
                ["Plan"] = "print",
                ["FirstNumber"] = "1",
            }
        );
        return server;
    }

    public async Task PostAsync(string page, Dictionary<string, string> fields)
    {
        fields["__RequestVerificationToken"] = await TokenAsync(page);
        (await Client.PostAsync(page, new FormUrlEncodedContent(fields))).EnsureSuccessStatusCode();
    }

    public async Task<string> TokenAsync(string page) => Token().Match(await Client.GetStringAsync(page)).Groups[1].Value;

    /// <summary>Runs with the most memory that it held meanwhile.</summary>
    public async Task<(TimeSpan Time, long Before, long Most)> WatchedAsync(Func<Task> work)
    {
        var before = Resident;
        var most = before;
        using var stop = new CancellationTokenSource();
        var watching = Task.Run(async () =>
        {
            while (!stop.IsCancellationRequested)
            {
                most = Math.Max(most, Resident);
                await Task.Delay(20);
            }
        });
        var clock = Stopwatch.StartNew();
        await work();
        clock.Stop();
        await stop.CancelAsync();
        await watching;
        return (clock.Elapsed, before, most);
    }

    public async Task<T> ReadAsync<T>(Func<StudioDb, Task<T>> query)
    {
        await using var db = new StudioDb(
            new DbContextOptionsBuilder<StudioDb>().UseSqlite($"Data Source={Path.Combine(Folder, "studio.db")}").Options
        )
        {
            Sees = null,
        };
        return await query(db);
    }

    /// <summary>A program that has a key of IK's.</summary>
    public async Task<HttpClient> ProgramAsync()
    {
        var secret = KeySecret.New();
        await ReadAsync(async db =>
        {
            db.DeviceKeys.Add(
                new DeviceKey
                {
                    PersonId = await db.Users.Select(u => u.Id).FirstAsync(),
                    Name = "bench",
                    Hash = KeySecret.HashOf(secret),
                    MadeAt = DateTimeOffset.UtcNow,
                }
            );
            return await db.SaveChangesAsync();
        });
        return new HttpClient
        {
            BaseAddress = new Uri(Client.BaseAddress!, "/share/TIDES/"),
            Timeout = Timeout.InfiniteTimeSpan,
            DefaultRequestHeaders =
            {
                Authorization = new AuthenticationHeaderValue("Basic", Convert.ToBase64String(Encoding.UTF8.GetBytes($"IK:{secret}"))),
            },
        };
    }

    public async ValueTask DisposeAsync()
    {
        Client.Dispose();
        process.Kill();
        await process.WaitForExitAsync();
        process.Dispose();
        Directory.Delete(Folder, recursive: true);
    }

    [GeneratedRegex("""name="__RequestVerificationToken" type="hidden" value="([^"]+)""")]
    private static partial Regex Token();
}
