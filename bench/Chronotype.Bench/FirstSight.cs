using System.Diagnostics;
using System.Text.RegularExpressions;
using Chronotype.Studio.Jobs;
using Chronotype.Tests;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Bench;

/// <summary>
/// How long it takes until a comparison whose work is done is seen: its page, what its tiles are and the first of them, or the small
/// pictures that stand there before, one after another over loopback.
/// </summary>
internal static partial class FirstSight
{
    private const int WarmUp = 10,
        Counted = 60;

    public static async Task RunAsync()
    {
        await using var studio = await BenchStudio.OpenAsync();
        var layers = Enumerable.Range(0, 20).Select(i => new Samples.OraLayer($"Layer {i}", 900, 700, X: i * 40, Y: i * 30)).ToArray();
        await SendAsync(studio, Samples.OpenRaster(1800, 1400, layers));
        layers[5] = layers[5] with { Red = 250 };
        await SendAsync(studio, Samples.OpenRaster(1800, 1400, layers));
        Console.WriteLine($"First sight of a comparison of two pictures of 20 layers, {Counted} times after {WarmUp} to warm up:");
        foreach (var look in new[] { "side", "wipe", "difference" })
        {
            var address = $"/projects/TIDES/TIM_poster_key?a=1&look={look}";
            var times = new List<double>();
            for (var i = 0; i < WarmUp + Counted; i++)
            {
                var start = Stopwatch.GetTimestamp();
                var page = await studio.Client.GetStringAsync(address);
                // What is seen first: the pictures that stand in the page.
                foreach (Match picture in Picture().Matches(page))
                    await studio.Client.GetByteArrayAsync(picture.Groups[1].Value.Replace("&amp;", "&", StringComparison.Ordinal));
                if (i >= WarmUp)
                    times.Add(Stopwatch.GetElapsedTime(start).TotalMilliseconds);
            }
            times.Sort();
            Console.WriteLine(
                $"  {look, -12} median {times[Counted / 2], 6:0.0} ms   90th {times[Counted * 9 / 10], 6:0.0} ms   (wanted: under 100 ms)"
            );
        }
    }

    private static async Task SendAsync(BenchStudio studio, byte[] file)
    {
        var form = new MultipartFormDataContent
        {
            { new StringContent(await studio.TokenAsync("/projects/TIDES/TIM_poster_key")), "__RequestVerificationToken" },
            { new ByteArrayContent(file), "file", "poster.ora" },
        };
        (await studio.Client.PostAsync("/projects/TIDES/TIM_poster_key/saves", form)).EnsureSuccessStatusCode();
        await studio.App.Services.GetRequiredService<JobRunner>().IdleAsync();
    }

    [GeneratedRegex("""<img[^>]* src="(/saves/[^"]+)"[^>]*>""")]
    private static partial Regex Picture();
}
