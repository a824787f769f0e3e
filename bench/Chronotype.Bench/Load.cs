using System.Diagnostics;
using System.Globalization;
using Chronotype.Tests;

namespace Chronotype.Bench;

/// <summary>
/// Mixed load for some minutes: saves on the share and by forms, keeps, notes, pages and pictures that are looked at, outputs, folders that
/// are listed, and everything about the whole store. Then whether memory, handles and threads are back where they were after a first minute of it.
/// </summary>
internal static class Load
{
    private const int Pieces = 12;

    public static async Task RunAsync(TimeSpan stretch)
    {
        await using var server = await BenchServer.OpenAsync();
        using var program = await server.ProgramAsync();
        for (var i = 0; i < Pieces; i++)
            await Share.StartAsync(server, i, "poster.ora", Picture(i, 0));
        await AllAsync(server, program, TimeSpan.FromMinutes(1));
        await Task.Delay(TimeSpan.FromSeconds(45));
        var before = Held.By(server);
        var done = await AllAsync(server, program, stretch);
        var under = Held.By(server);
        await Task.Delay(TimeSpan.FromSeconds(90));
        var after = Held.By(server);
        Console.WriteLine(
            $"Mixed load for {stretch.TotalMinutes:0} minutes, {done.Sum(d => d.Count):N0} deeds, {done.Sum(d => d.Failed)} of them failed:"
        );
        foreach (var (what, count, failed) in done)
            Console.WriteLine($"  {what, -28} {count, 6} {(failed == 0 ? "" : $"{failed} failed")}");
        Console.WriteLine($"  {"", -28} {"memory", 8} {"handles", 8} {"threads", 8}");
        foreach (var (when, held) in new[] { ("before, a minute warm", before), ("at its end", under), ("90 s later", after) })
            Console.WriteLine($"  {when, -28} {held.Bytes / 1e6, 5:0} MB {held.Handles, 8} {held.Threads, 8}");
    }

    private sealed record Held(long Bytes, int Handles, int Threads)
    {
        public static Held By(BenchServer server) => new(server.Resident, server.Handles, server.Threads);
    }

    private static async Task<IReadOnlyList<(string What, int Count, int Failed)>> AllAsync(
        BenchServer server,
        HttpClient program,
        TimeSpan stretch
    )
    {
        var token = await server.TokenAsync("/people");
        var random = new Random(3);
        string Piece(int i) => $"TIM_piece-{i % Pieces}_key";
        var deeds = new (string What, TimeSpan Every, Func<int, Task> Do)[]
        {
            (
                "saves on the share",
                TimeSpan.FromSeconds(0.7),
                i => Share.SendAsync(program, $"working/{Piece(i)}.ora", new MemoryStream(Picture(i, i)))
            ),
            (
                "files stored",
                TimeSpan.FromSeconds(1),
                i => Share.SendAsync(program, $"assets/file-{i % 200}.bin", new MemoryStream(Noise(i)))
            ),
            ("folders listed", TimeSpan.FromSeconds(1.5), i => ListAsync(program, i % 2 == 0 ? "working/" : "assets/")),
            ("files read", TimeSpan.FromSeconds(1), i => program.GetByteArrayAsync($"working/{Piece(i)}.ora")),
            ("pages of pieces", TimeSpan.FromSeconds(1.2), i => server.Client.GetByteArrayAsync($"/projects/TIDES/{Piece(i)}")),
            ("other pages", TimeSpan.FromSeconds(1.5), i => server.Client.GetByteArrayAsync(Pages[i % Pages.Length])),
            ("keeps", TimeSpan.FromSeconds(3), i => PostAsync($"/projects/TIDES/{Piece(i)}?handler=Keep", new() { ["insist"] = "true" })),
            ("contact sheets", TimeSpan.FromSeconds(60), _ => server.Client.GetByteArrayAsync("/sheets/TIDES")),
            ("freeing", TimeSpan.FromSeconds(90), _ => PostAsync("/storage?handler=Compact", [])),
        };
        var ends = Stopwatch.StartNew();
        return await Task.WhenAll(
            deeds.Select(async deed =>
            {
                var (count, failed) = (0, 0);
                while (ends.Elapsed < stretch)
                {
                    try
                    {
                        await deed.Do(count);
                    }
                    catch (Exception e) when (e is HttpRequestException or IOException)
                    {
                        if (failed++ == 0)
                            Console.WriteLine($"{deed.What}: {e.Message}");
                    }
                    count++;
                    await Task.Delay(deed.Every * (0.5 + random.NextDouble()));
                }
                return (deed.What, count, failed);
            })
        );

        async Task PostAsync(string page, Dictionary<string, string> fields)
        {
            fields["__RequestVerificationToken"] = token;
            (await server.Client.PostAsync(page, new FormUrlEncodedContent(fields))).EnsureSuccessStatusCode();
        }
    }

    private static readonly string[] Pages =
    [
        "/",
        "/projects/TIDES",
        "/tree/TIDES",
        "/tree/TIDES/assets",
        "/find?q=piece",
        "/storage",
        "/jobs",
        "/deleted",
        "/web/TIDES",
        "/spec/TIDES",
    ];

    private static async Task ListAsync(HttpClient program, string folder)
    {
        using var request = new HttpRequestMessage(new HttpMethod("PROPFIND"), folder) { Headers = { { "Depth", "1" } } };
        (await program.SendAsync(request)).EnsureSuccessStatusCode();
    }

    private static byte[] Picture(int i, int red) =>
        Samples.OpenRaster(
            600,
            400,
            new Samples.OraLayer($"Ground {(i % 7).ToString(CultureInfo.InvariantCulture)}", 600, 400, Red: (byte)red),
            new Samples.OraLayer("Gull", 90, 60, X: i % 300, Y: i % 200)
        );

    private static byte[] Noise(int seed)
    {
        var bytes = new byte[300_000];
        new Random(seed).NextBytes(bytes);
        return bytes;
    }
}
