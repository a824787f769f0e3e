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
        await using var server = await BenchServer.OpenAsync();
        // A small one first: what is loaded once is not the upload's.
        await SendAsync(server, 8 << 20, 1);
        await Task.Delay(2000);
        var clock = TimeSpan.Zero;
        var (_, before, most) = await server.WatchedAsync(async () =>
        {
            var start = Stopwatch.GetTimestamp();
            await SendAsync(server, Bytes, 2);
            clock = Stopwatch.GetElapsedTime(start);
            // What follows it is its, too.
            await Task.Delay(2000);
        });
        await ManyAsync(server);
        Console.WriteLine($"After {Uploads} uploads of all kinds: resident {server.Resident / 1e6:0} MB (wanted: under 300 MB)");
        Console.WriteLine(
            $"Upload of {Bytes / (double)(1 << 30):0} GiB: {clock.TotalSeconds:0.0} s, {Bytes / 1e6 / clock.TotalSeconds:0} MB/s; resident "
                + $"{before / 1e6:0} MB before, {most / 1e6:0} MB at most: {(most - before) / 1e6:0} MB more (wanted: under 100 MB)"
        );
    }

    private static async Task SendAsync(BenchServer server, long length, int seed)
    {
        using var form = new MultipartFormDataContent
        {
            { new StringContent($"film {seed}"), "slot.subject" },
            { new StringContent("key"), "slot.function" },
            { new StreamContent(new Noise(length, seed), 1 << 17), "file", "film.mov" },
        };
        using var request = new HttpRequestMessage(HttpMethod.Post, "/projects/TIDES/pieces") { Content = form };
        request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json"));
        request.Headers.Add("X-Form-Token", await server.TokenAsync("/people"));
        (await server.Client.SendAsync(request)).EnsureSuccessStatusCode();
    }

    private const int Uploads = 200;

    // Pictures, sounds, layers, drawings, bytes, and files that are cut short; each is read, and some are drawn.
    private static async Task ManyAsync(BenchServer server)
    {
        var token = await server.TokenAsync("/people");
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
            (await server.Client.SendAsync(request)).EnsureSuccessStatusCode();
            if (i % 10 != 0)
                continue;
            var page = await server.Client.GetStringAsync("/projects/TIDES/TIM_film-1_key");
            await server.Client.GetByteArrayAsync("/saves/" + page.Split("/saves/")[1].Split('/')[0] + "/preview/1600");
        }
    }
}

/// <summary>Bytes that do not compress, made as they are read.</summary>
internal sealed class Noise(long length, int seed) : ForwardStream
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
