using System.Diagnostics;
using System.Net;

namespace Chronotype.Web.Tests;

/// <summary>The program as it is published: a folder that runs by itself, wherever it stands.</summary>
public class PublishTests
{
    [Fact]
    public async Task What_is_published_runs_with_its_pages_styles_scripts_and_readers()
    {
        using var folder = new StudioFolder();
        using var data = new StudioFolder();
        using var publish = Process.Start(
            new ProcessStartInfo("dotnet", ["publish", Project(), "-c", "Release", "--no-build", "-o", folder.Path])
            {
                RedirectStandardOutput = true,
                RedirectStandardError = true,
            }
        )!;
        var said = publish.StandardOutput.ReadToEndAsync();
        await publish.WaitForExitAsync();
        Assert.True(publish.ExitCode == 0, await said);

        using var server = new ServerProcess(data.Path, folder.Path);
        var owner = await Visitor.WithProjectAsync(await server.ReadyAsync());
        var page = await (await owner.GetAsync("/projects/new")).Content.ReadAsStringAsync();
        var assets = System
            .Text.RegularExpressions.Regex.Matches(page, "(?:src|href)=\"(/(?:js/|app)[^\"]+)\"")
            .Select(m => m.Groups[1].Value)
            .ToList();
        Assert.Contains(assets, a => a.StartsWith("/js/Projects/new-project.js", StringComparison.Ordinal));
        foreach (var asset in assets)
            Assert.Equal((asset, HttpStatusCode.OK), (asset, (await owner.GetAsync(asset)).StatusCode));

        await owner.StartPieceAsync(Samples.Png(60, 40), "poster.png");
        // As soon as it is read, however busy the machine is.
        for (var tries = 0; ; tries++)
        {
            var piece = await (await owner.GetAsync("/projects/TIDES/TIM_moonpull-poster_key")).Content.ReadAsStringAsync();
            if (WebUtility.HtmlDecode(piece).Contains("60 × 40 px", StringComparison.Ordinal))
                break;
            Assert.True(tries < 600, "It is not read.");
            await Task.Delay(100);
        }
    }

    // From the tests' own folder up to the one that the solution stands in.
    private static string Project()
    {
        var at = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(at.FullName, "Chronotype.slnx")))
            at = at.Parent ?? throw new InvalidOperationException("The solution is not above the tests.");
        return Path.Combine(at.FullName, "src", "Chronotype.Web");
    }
}
