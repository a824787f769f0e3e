using System.Diagnostics;
using System.Globalization;
using System.Net;

namespace Chronotype.Web.Tests;

/// <summary>The real program: killed while it starts, given what it must refuse, and fed what would take it down.</summary>
public class HostileTests
{
    private static readonly int Starts = Math.Max(
        12,
        (
            int.TryParse(Environment.GetEnvironmentVariable("CHRONOTYPE_KILLS"), CultureInfo.InvariantCulture, out var kills)
                ? kills
                : Thorough.Times(100, 300)
        ) / 20
    );

    [Fact]
    public async Task A_server_takes_none_of_the_few_watches_of_a_machine()
    {
        using var folder = new StudioFolder();
        using var server = new ServerProcess(folder.Path);
        var address = await server.ReadyAsync();
        var owner = await Visitor.WithProjectAsync(address);
        await owner.PageAsync("/projects/TIDES");
        var open = Directory.GetFiles($"/proc/{server.Id}/fd").Select(f => new FileInfo(f).LinkTarget).Where(t => t is not null).ToList();
        Assert.NotEmpty(open);
        Assert.DoesNotContain(open, t => t!.Contains("inotify", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_start_that_is_killed_at_any_moment_is_followed_by_one_that_works()
    {
        using var folder = new StudioFolder();
        var seed = Environment.TickCount;
        var random = new Random(seed);
        // The first starts make the studio.
        for (var i = 0; i < Starts / 3; i++)
            await KilledAsync(folder.Path, random);
        using (var server = new ServerProcess(folder.Path))
        {
            var owner = await Visitor.WithProjectAsync(await server.ReadyAsync().WaitAsync(TimeSpan.FromSeconds(60)));
            Assert.Equal(HttpStatusCode.OK, (await owner.StartPieceAsync(Samples.Noise(5000, 1), "poster.lay")).StatusCode);
            server.Kill();
        }
        for (var i = 0; i < Starts; i++)
            await KilledAsync(folder.Path, random);
        using var last = new ServerProcess(folder.Path);
        var visitor = new Visitor(await last.ReadyAsync().WaitAsync(TimeSpan.FromSeconds(60)));
        await visitor.PostAsync("/sign-in", new() { ["initials"] = "IK", ["password"] = "ten letters and more" });
        Assert.True((await visitor.PiecePageAsync()).Contains("TIM_moonpull-poster_key_IK_001.lay"), $"The version is gone (seed {seed}).");
        Assert.Equal(HttpStatusCode.OK, (await visitor.SaveAsync(Samples.Noise(5000, 2), "poster.lay")).StatusCode);
    }

    private static async Task KilledAsync(string data, Random random)
    {
        using var server = new ServerProcess(data);
        await Task.Delay(random.Next(50, 1800));
        server.Kill();
    }

    [Theory]
    [InlineData("garbage")]
    [InlineData("empty")]
    [InlineData("gone")]
    [InlineData("key")]
    [InlineData("in use")]
    public async Task What_keeps_it_from_starting_is_said_in_one_sentence_or_two_and_nothing_is_changed(string what)
    {
        using var folder = new StudioFolder();
        using var server = new ServerProcess(folder.Path);
        var owner = await Visitor.WithProjectAsync(await server.ReadyAsync());
        await owner.StartPieceAsync(Samples.Noise(5000, 1), "poster.lay");
        var database = Path.Combine(folder.Path, "studio.db");
        if (what != "in use")
        {
            await server.StopAsync();
            foreach (var log in new[] { "-wal", "-shm" })
                File.Delete(database + log);
        }
        switch (what)
        {
            case "garbage":
                File.WriteAllBytes(database, Samples.Noise(50_000));
                break;
            case "empty":
                File.WriteAllBytes(database, []);
                break;
            case "gone":
                File.Delete(database);
                break;
            case "key":
                File.WriteAllBytes(Directory.GetFiles(Path.Combine(folder.Path, "keys"))[0], []);
                break;
        }
        var before = File.Exists(database) && what != "in use" ? File.ReadAllBytes(database) : null;
        using var second = new ServerProcess(folder.Path);
        var refusal = (await second.RefusalAsync()).Trim();
        Assert.DoesNotContain("   at ", refusal);
        Assert.DoesNotContain('\n', refusal);
        Assert.Contains(what == "in use" ? "in use by another Chronotype" : "Nothing was changed", refusal);
        if (before is not null)
            Assert.Equal(before, File.ReadAllBytes(database));
    }

    [Fact]
    public async Task Small_files_that_take_very_much_leave_the_program_small_quick_and_quick_to_stop()
    {
        using var folder = new StudioFolder();
        using var server = new ServerProcess(folder.Path);
        var owner = await Visitor.WithProjectAsync(await server.ReadyAsync());
        await owner.StartPieceAsync(Samples.NestedUses(), "trouble.svg", "Trouble");
        foreach (
            var bomb in new[]
            {
                Samples.HeavyFilters(),
                Samples.ProgressiveJpegThatClaims(32_000, 32_000),
                Samples.InterlacedPngThatClaims(32_000, 32_000),
                Samples.NestedStack(900_000),
                Samples.ManyLayers(3000, 4000, 0),
                Samples.ManyLayers(3000, 4000, 5),
            }
        )
            Assert.Equal(
                HttpStatusCode.OK,
                (await owner.UploadAsync("/projects/TIDES/TIM_trouble_key/saves", bomb, "trouble.svg")).StatusCode
            );

        // Another piece is saved, read, drawn and kept meanwhile.
        Assert.Equal(HttpStatusCode.OK, (await owner.StartPieceAsync(Samples.Png(600, 400), "poster.png")).StatusCode);
        for (var i = 0; i < 60; i++)
        {
            var content = (i % 6) switch
            {
                0 => Samples.Png(400 + i, 300),
                1 => Samples.Wave(2, i),
                2 => Samples.Svg($"<rect width=\"{i}\" height=\"5\"/>"),
                3 => Samples.Noise(300_000, i),
                4 => Samples.OpenRaster(300, 200, new Samples.OraLayer("Sky", 300, 200, (byte)i)),
                _ => Samples.Flat(".tif", 300 + i, 200)[..60_000],
            };
            var clock = Stopwatch.StartNew();
            Assert.Equal(HttpStatusCode.OK, (await owner.SaveAsync(content, "poster.png")).StatusCode);
            Assert.InRange(clock.Elapsed.TotalSeconds, 0, 12);
        }
        var keep = Stopwatch.StartNew();
        Assert.Equal(HttpStatusCode.Redirect, (await owner.ActAsync("Keep", new() { ["insist"] = "true" })).StatusCode);
        Assert.InRange(keep.Elapsed.TotalSeconds, 0, 12);
        Assert.Equal(HttpStatusCode.OK, (await owner.GetAsync("/")).StatusCode);

        Assert.InRange(server.Resident, 1, 300_000_000);
        if (OperatingSystem.IsLinux())
            Assert.DoesNotContain("vips", File.ReadAllText($"/proc/{server.Id}/maps"));
        // Whatever is still being read.
        await owner.UploadAsync("/projects/TIDES/TIM_trouble_key/saves", Samples.NestedUses(15), "trouble.svg");
        Assert.InRange((await server.StopAsync()).TotalSeconds, 0, 5);
    }
}
