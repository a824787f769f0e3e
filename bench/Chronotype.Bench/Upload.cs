using System.Diagnostics;
using System.Net.Http.Headers;
using Chronotype.Core.Content;
using Chronotype.Tests;

namespace Chronotype.Bench;

/// <summary>
/// How much a 2 GiB upload raises the server's memory, and what 200 uploads of all kinds leave of it. The server runs as a process of its
/// own, so that what the sender
/// takes does not count; its resident set is read from the system while the upload runs.
/// </summary>
internal static class Upload
{
    private const long Bytes = 2L << 30;

    public static async Task RunAsync()
    {
        if (!OperatingSystem.IsLinux())
        {
            Console.WriteLine("The upload's memory is read from /proc, which only Linux has.");
            return;
        }
        var folder = Directory.CreateTempSubdirectory("chronotype-bench-").FullName;
        // The server beside this program: the same build, another process.
        using var server = Process.Start(
            new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "Chronotype.Web.dll"), "--data", folder, "--port", "0"])
            {
                RedirectStandardOutput = true,
            }
        )!;
        try
        {
            var line = "";
            while (!line.Contains("ready: "))
                line = await server.StandardOutput.ReadLineAsync() ?? throw new InvalidOperationException("The server did not start.");
            _ = server.StandardOutput.ReadToEndAsync();
            using var client = new HttpClient { BaseAddress = new Uri(line.Split("ready: ")[1]), Timeout = Timeout.InfiniteTimeSpan };
            await PrepareAsync(client);
            // A small one first: what is loaded once is not the upload's.
            await SendAsync(client, 8 << 20, 1);
            await Task.Delay(2000);

            var before = Resident(server.Id);
            var most = before;
            using var stop = new CancellationTokenSource();
            var watching = Task.Run(async () =>
            {
                while (!stop.IsCancellationRequested)
                {
                    most = Math.Max(most, Resident(server.Id));
                    await Task.Delay(20);
                }
            });
            var clock = Stopwatch.StartNew();
            await SendAsync(client, Bytes, 2);
            clock.Stop();
            await Task.Delay(2000);
            await stop.CancelAsync();
            await watching;
            await ManyAsync(client);
            Console.WriteLine($"After {Uploads} uploads of all kinds: resident {Resident(server.Id) / 1e6:0} MB (wanted: under 300 MB)");
            Console.WriteLine(
                $"Upload of {Bytes / (double)(1 << 30):0} GiB: {clock.Elapsed.TotalSeconds:0.0} s, "
                    + $"{Bytes / 1e6 / clock.Elapsed.TotalSeconds:0} MB/s; resident {before / 1e6:0} MB before, {most / 1e6:0} MB at "
                    + $"most: {(most - before) / 1e6:0} MB more (wanted: under 100 MB)"
            );
        }
        finally
        {
            server.Kill();
            await server.WaitForExitAsync();
            Directory.Delete(folder, recursive: true);
        }
    }

    private static long Resident(int process) =>
        long.Parse(
            File.ReadLines($"/proc/{process}/status")
                .First(l => l.StartsWith("VmRSS:", StringComparison.Ordinal))
                .Split(' ', StringSplitOptions.RemoveEmptyEntries)[1]
        ) * 1024;

    private static async Task PrepareAsync(HttpClient client)
    {
        await PostAsync(
            "/welcome",
            new()
            {
                ["studioName"] = "Bench",
                ["name"] = "Ilse Korhonen",
                ["initials"] = "IK",
                ["password"] = "ten letters and more",
            }
        );
        await PostAsync(
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

        async Task PostAsync(string page, Dictionary<string, string> fields)
        {
            fields["__RequestVerificationToken"] = await TokenAsync(client, page);
            (await client.PostAsync(page, new FormUrlEncodedContent(fields))).EnsureSuccessStatusCode();
        }
    }

    private static async Task SendAsync(HttpClient client, long length, int seed)
    {
        using var form = new MultipartFormDataContent
        {
            { new StringContent($"film {seed}"), "slot.subject" },
            { new StringContent("key"), "slot.function" },
            { new StreamContent(new Noise(length, seed), 1 << 17), "file", "film.mov" },
        };
        using var request = new HttpRequestMessage(HttpMethod.Post, "/projects/TIDES/pieces") { Content = form };
        request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json"));
        request.Headers.Add("X-Form-Token", await TokenAsync(client, "/people"));
        (await client.SendAsync(request)).EnsureSuccessStatusCode();
    }

    private const int Uploads = 200;

    // Pictures, sounds, layers, drawings, bytes, and files that are cut short; each is read, and some are drawn.
    private static async Task ManyAsync(HttpClient client)
    {
        var token = await TokenAsync(client, "/people");
        for (var i = 0; i < Uploads; i++)
        {
            var content = (i % 6) switch
            {
                0 => Samples.Flat(".png", 1500 + i, 1200),
                1 => Samples.Wave(20, i),
                2 => Samples.OpenRaster(800, 600, new Samples.OraLayer("Sky", 800, 600, (byte)i), new Samples.OraLayer("Gull", 200, 100)),
                3 => Samples.Noise(8_000_000, i),
                4 => Samples.Svg($"<rect width='{i}' height='5'/>"),
                _ => Samples.Flat(".tif", 900 + i, 700)[..400_000],
            };
            using var form = new MultipartFormDataContent { { new ByteArrayContent(content), "file", "film.mov" } };
            using var request = new HttpRequestMessage(HttpMethod.Post, "/projects/TIDES/TIM_film-1_key/saves") { Content = form };
            request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json"));
            request.Headers.Add("X-Form-Token", token);
            (await client.SendAsync(request)).EnsureSuccessStatusCode();
            if (i % 10 != 0)
                continue;
            var page = await client.GetStringAsync("/projects/TIDES/TIM_film-1_key");
            await client.GetByteArrayAsync("/saves/" + page.Split("/saves/")[1].Split('/')[0] + "/preview/1600");
        }
    }

    private static async Task<string> TokenAsync(HttpClient client, string page) =>
        (await client.GetStringAsync(page)).Split("name=\"__RequestVerificationToken\" type=\"hidden\" value=\"")[1].Split('"')[0];

    /// <summary>Bytes that do not compress, made as they are read.</summary>
    private sealed class Noise(long length, int seed) : ForwardStream
    {
        private readonly Random random = new(seed);
        private long left = length;

        public override int Read(byte[] buffer, int offset, int count)
        {
            var read = (int)Math.Min(count, left);
            random.NextBytes(buffer.AsSpan(offset, read));
            left -= read;
            return read;
        }
    }
}
