using System.Diagnostics;
using System.Security.Cryptography;
using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Bench;

/// <summary>
/// The share: a file of 4 GB written and read back, beside <c>cp</c> on the same disk; 20 programs that save 5 MB each, again and again
/// for a minute; a folder of 5,000 files, and a tree of 20,000; a folder that is copied while somebody saves.
/// </summary>
internal static class Share
{
    private const long Large = 4L << 30;
    private const int Programs = 20,
        SaveBytes = 5_000_000,
        Many = 5_000,
        Folders = 4,
        Copied = 1_500;

    public static async Task RunAsync(string which)
    {
        if (which is "" or "many")
            await ManyAsync();
        if (which is "" or "saves")
            await SavesAsync();
        if (which is "" or "copy")
            await CopyAsync();
        if (which is "" or "large")
            await LargeAsync();
    }

    private static async Task LargeAsync()
    {
        await using var server = await BenchServer.OpenAsync();
        using var program = await server.ProgramAsync();
        var (source, copy) = (Path.Combine(server.Folder, "source.mov"), Path.Combine(server.Folder, "copy.mov"));
        await using (var file = File.Create(source))
            await new Noise(Large, 3).CopyToAsync(file);
        await SendAsync(program, "assets/small.mov", new MemoryStream(new byte[8 << 20]));
        var cp = Timed(() => Run("sh", "-c", $"cp {source} {copy} && sync {copy}"));
        File.Delete(copy);
        // What is written is hashed as a whole, byte after byte, so that no writing can be faster than this alone.
        var hashed = Timed(() =>
        {
            using var file = File.OpenRead(source);
            SHA256.HashData(file);
        });
        var written = await server.WatchedAsync(async () =>
        {
            await using var file = File.OpenRead(source);
            await SendAsync(program, "assets/film.mov", file);
        });
        var read = await server.WatchedAsync(async () =>
        {
            await using var body = await program.GetStreamAsync("assets/film.mov");
            await using var file = File.Create(copy);
            await body.CopyToAsync(file);
            file.Flush(flushToDisk: true);
        });
        Run("cmp", source, copy);
        Console.WriteLine($"A file of 4 GiB on the share, of noise, beside cp with sync: {cp:0.0} s, {Large / 1e6 / cp:0} MB/s");
        Console.WriteLine($"  its SHA-256 alone {hashed:0.0} s, {cp / hashed:0.00} of its speed");
        Tell("written", written, cp);
        Tell("read", read, cp);
        Console.WriteLine($"  of what is resident {server.OfFiles / 1e6:0} MB are the program's own files");
    }

    private static void Tell(string what, (TimeSpan Time, long Before, long Most) measured, double cp) =>
        Console.WriteLine(
            $"  {what, -8} {measured.Time.TotalSeconds, 6:0.0} s   {cp / measured.Time.TotalSeconds, 5:0.00} of its speed (wanted: 0.5); resident "
                + $"{measured.Most / 1e6:0} MB at most, {(measured.Most - measured.Before) / 1e6:0} MB more (wanted: under 200 MB)"
        );

    private static async Task SavesAsync()
    {
        await using var server = await BenchServer.OpenAsync();
        using var program = await server.ProgramAsync();
        for (var i = 0; i < Programs; i++)
            await StartAsync(server, i);
        var (times, last, sent) = (new List<double>(), new ContentHash[Programs], 0);
        var until = DateTime.UtcNow.AddMinutes(1);
        await Task.WhenAll(
            Enumerable
                .Range(0, Programs)
                .Select(async i =>
                {
                    var random = new Random(i);
                    var content = new byte[SaveBytes];
                    random.NextBytes(content);
                    while (DateTime.UtcNow < until)
                    {
                        // An edit somewhere, and the file is saved whole.
                        random.NextBytes(content.AsSpan(random.Next(SaveBytes - 100_000), 100_000));
                        last[i] = ContentHash.FromDigest(SHA256.HashData(content));
                        var took = await TimedAsync(() => SendAsync(program, $"working/TIM_piece-{i}_key.bin", new MemoryStream(content)));
                        lock (times)
                        {
                            times.Add(took);
                            sent++;
                        }
                        await Task.Delay(random.Next(2_500, 4_000));
                    }
                })
        );
        await Task.Delay(8_000);
        var newest = await server.ReadAsync(db =>
            db.Pieces.Select(p => new
                {
                    p.CurrentName,
                    Saves = p.Saves.Count,
                    Newest = p.Saves.OrderByDescending(s => s.Sequence).Select(s => s.MainHash).First(),
                })
                .ToListAsync()
        );
        var right = newest.Count(n => n.Newest == last[int.Parse(n.CurrentName.Split('_')[1]["piece-".Length..])]);
        times.Sort();
        Console.WriteLine(
            $"{Programs} programs, 5 MB each, for a minute: {sent} saves answered, {newest.Sum(n => n.Saves) - Programs} recorded; the newest of "
                + $"{right} of {Programs} pieces is what was saved last; median {times[times.Count / 2] * 1000:0} ms (wanted: under 200), "
                + $"19 of 20 under {times[times.Count * 19 / 20] * 1000:0} ms"
        );
    }

    private static async Task ManyAsync()
    {
        await using var server = await BenchServer.OpenAsync();
        using var program = await server.ProgramAsync();
        for (var i = 1; i <= Folders; i++)
        {
            await MakeAsync(program, $"assets/many-{i}");
            await SendAsync(program, $"assets/many-{i}/first.txt", new MemoryStream([1, 2, 3]));
            await FillAsync(server, $"assets/many-{i}/first.txt");
        }
        await ListAsync(program, "assets/many-1");
        var times = new List<double>();
        for (var i = 0; i < 5; i++)
            times.Add(await TimedAsync(() => ListAsync(program, "assets/many-1")));
        times.Sort();
        var walk = await TimedAsync(async () =>
        {
            await ListAsync(program, "assets");
            for (var i = 1; i <= Folders; i++)
                await ListAsync(program, $"assets/many-{i}");
        });
        Console.WriteLine($"A folder of {Many:N0} files is listed in {times[2]:0.00} s (wanted: under 0.5), median of 5");
        Console.WriteLine($"A tree of {Many * Folders:N0} files is walked in {walk:0.00} s (wanted: under 10)");
    }

    private static async Task CopyAsync()
    {
        await using var server = await BenchServer.OpenAsync();
        using var program = await server.ProgramAsync();
        await StartAsync(server, 0);
        await MakeAsync(program, "assets/many");
        for (var i = 0; i < Copied; i++)
            await SendAsync(program, $"assets/many/sea-{i:d5}.txt", new MemoryStream([(byte)i, (byte)(i >> 8), 1]));
        var alone = await SavedAsync(Task.Delay(TimeSpan.FromSeconds(10)));
        var clock = Stopwatch.StartNew();
        var copying = SendCopyAsync();
        var beside = await SavedAsync(copying);
        await copying;
        var took = clock.Elapsed;
        var copies = await server.ReadAsync(db => db.Entries.CountAsync(e => e.FolderKey == "assets/copied"));
        Console.WriteLine(
            $"COPY of a folder of {Copied:N0} files: {took.TotalSeconds:0.0} s, {copies:N0} stand there; a save beside it waits "
                + $"{beside[beside.Count / 2] * 1000:0} ms at the median, {beside[^1] * 1000:0} ms at most (of {beside.Count}); alone "
                + $"{alone[alone.Count / 2] * 1000:0} and {alone[^1] * 1000:0} ms (of {alone.Count})"
        );

        async Task SendCopyAsync()
        {
            using var request = new HttpRequestMessage(new HttpMethod("COPY"), "assets/many");
            request.Headers.Add("Destination", new Uri(program.BaseAddress!, "assets/copied").AbsoluteUri);
            (await program.SendAsync(request)).EnsureSuccessStatusCode();
        }

        async Task<List<double>> SavedAsync(Task until)
        {
            var (random, times) = (new Random(1), new List<double>());
            while (!until.IsCompleted)
            {
                var content = new byte[200_000];
                random.NextBytes(content);
                times.Add(await TimedAsync(() => SendAsync(program, "working/TIM_piece-0_key.bin", new MemoryStream(content))));
                await Task.Delay(100);
            }
            times.Sort();
            return times;
        }
    }

    // The records of the other files of a folder, each as that of the first: how they come there is not what is measured.
    private static Task<int> FillAsync(BenchServer server, string first) =>
        server.ReadAsync(async db =>
        {
            var file = await db.Entries.Include(e => e.Contents).SingleAsync(e => e.PathKey == first);
            var (held, folder) = (file.Contents.Single(), file.Path.Folder!);
            for (var i = 1; i < Many; i++)
            {
                var path = folder.Append($"sea-{i:d5}.txt");
                db.Entries.Add(
                    new TreeEntry
                    {
                        ProjectId = file.ProjectId,
                        Kind = EntryKind.OwnFile,
                        Path = path,
                        PathKey = path.Key,
                        FolderKey = folder.Key,
                        Role = file.Role,
                        StandsSince = file.StandsSince,
                        Contents =
                        [
                            new FileContent
                            {
                                Sequence = 1,
                                Hash = held.Hash,
                                Size = held.Size,
                                ReceivedName = path.Name,
                                At = held.At,
                                ById = held.ById,
                            },
                        ],
                    }
                );
            }
            return await db.SaveChangesAsync();
        });

    internal static async Task StartAsync(BenchServer server, int i, string file = "piece.bin", byte[]? content = null)
    {
        using var form = new MultipartFormDataContent
        {
            { new StringContent($"piece {i}"), "slot.subject" },
            { new StringContent("key"), "slot.function" },
            { new ByteArrayContent(content ?? [(byte)i, 1, 2, 3]), "file", file },
        };
        using var request = new HttpRequestMessage(HttpMethod.Post, "/projects/TIDES/pieces") { Content = form };
        request.Headers.Accept.Add(new("application/json"));
        request.Headers.Add("X-Form-Token", await server.TokenAsync("/people"));
        (await server.Client.SendAsync(request)).EnsureSuccessStatusCode();
    }

    internal static async Task SendAsync(HttpClient program, string path, Stream content)
    {
        using var body = new StreamContent(content, 1 << 17);
        (await program.PutAsync(path, body)).EnsureSuccessStatusCode();
    }

    private static async Task MakeAsync(HttpClient program, string folder)
    {
        using var request = new HttpRequestMessage(new HttpMethod("MKCOL"), folder);
        (await program.SendAsync(request)).EnsureSuccessStatusCode();
    }

    private static async Task ListAsync(HttpClient program, string folder)
    {
        using var request = new HttpRequestMessage(new HttpMethod("PROPFIND"), folder);
        request.Headers.Add("Depth", "1");
        using var response = await program.SendAsync(request);
        await response.Content.ReadAsByteArrayAsync();
        response.EnsureSuccessStatusCode();
    }

    private static double Timed(Action work)
    {
        var start = Stopwatch.GetTimestamp();
        work();
        return Stopwatch.GetElapsedTime(start).TotalSeconds;
    }

    private static async Task<double> TimedAsync(Func<Task> work)
    {
        var start = Stopwatch.GetTimestamp();
        await work();
        return Stopwatch.GetElapsedTime(start).TotalSeconds;
    }

    private static void Run(string program, params string[] args)
    {
        using var process = Process.Start(program, args)!;
        process.WaitForExit();
        if (process.ExitCode != 0)
            throw new InvalidOperationException($"{program} ended with {process.ExitCode}.");
    }
}
