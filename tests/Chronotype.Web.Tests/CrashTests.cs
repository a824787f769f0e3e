using System.Globalization;
using System.Net;
using System.Security.Cryptography;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Core.Share;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Share;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <summary>
/// The promise of the first day, on the real process: whatever moment it is killed at, a save that was acknowledged is there,
/// one that was not leaves nothing half-written, and no number is given twice.
/// </summary>
public class CrashTests
{
    private static readonly int Kills = int.TryParse(
        Environment.GetEnvironmentVariable("CHRONOTYPE_KILLS"),
        CultureInfo.InvariantCulture,
        out var kills
    )
        ? kills
        : Thorough.Times(8, 100);

    [Fact]
    public async Task A_server_killed_at_any_moment_loses_nothing_that_it_acknowledged()
    {
        using var folder = new StudioFolder();
        var seed = Environment.TickCount;
        var random = new Random(seed);
        var acknowledged = new List<(ContentHash Hash, int Size)>();
        var answered = 0;
        for (var kill = 0; kill < Kills; kill++)
        {
            using var server = new ServerProcess(folder.Path);
            var address = await server.ReadyAsync();
            if (kill == 0)
                await FoundAsync(address);
            var work = Task.WhenAll(
                Enumerable
                    .Range(0, 3)
                    .Select(i =>
                        WorkAsync(
                            new Visitor(address),
                            new Random(seed + kill * 10 + i),
                            acknowledged,
                            () => Interlocked.Increment(ref answered),
                            () => server.IsKilled
                        )
                    )
            );
            // By what was acknowledged and not by the clock, so that a slow machine is tested as much as a fast one.
            await AcknowledgedAsync(acknowledged, more: random.Next(1, 6));
            await Task.Delay(random.Next(0, 400));
            server.Kill();
            await work;
        }
        Assert.True(
            acknowledged.Count > Kills,
            $"Only {acknowledged.Count} saves were acknowledged, too few to say anything (seed {seed})."
        );

        await using var app = StudioApp.Build(new Settings(folder.Path, IPAddress.Loopback, 0));
        await StudioApp.PrepareAsync(app);
        await using var scope = app.Services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<Chronotype.Studio.People.Viewer>().IsStudio();
        var db = scope.ServiceProvider.GetRequiredService<StudioDb>();
        var store = scope.ServiceProvider.GetRequiredService<Chronotype.Content.ContentStore>();
        var saves = await db.Saves.AsNoTracking().Include(s => s.Files).OrderBy(s => s.Number).ToListAsync();
        foreach (var (hash, size) in acknowledged)
        {
            Assert.True(
                saves.Exists(s => s.MainHash == hash && s.Size == size),
                $"An acknowledged save of {size} bytes is gone (seed {seed})."
            );
        }
        foreach (var file in saves.SelectMany(s => s.Files))
        {
            using var content = store.OpenRead(file.Hash);
            Assert.Equal(file.Hash, ContentHash.FromDigest(await SHA256.HashDataAsync(content)));
        }
        var numbers = saves.Where(s => s.Number is not null).Select(s => s.Number!.Value).ToList();
        Assert.Equal(Enumerable.Range(1, numbers.Count), numbers);
        Assert.True(numbers.Count >= answered, $"{answered} keeps were answered, but there are {numbers.Count} versions (seed {seed}).");
        Assert.True(store.Maintenance.Verify().IsSound, $"The store is damaged (seed {seed}).");
        await app.StopAsync();
    }

    [Fact]
    public async Task A_server_killed_in_the_middle_of_saves_on_the_share_loses_none_that_it_answered()
    {
        using var folder = new StudioFolder();
        var random = new Random(7);
        var acknowledged = new List<(ContentHash Hash, int Size)>();
        var tiles = new Dictionary<string, ContentHash>();
        var secret = KeySecret.New();
        for (var kill = 0; kill < Kills; kill++)
        {
            using var server = new ServerProcess(folder.Path);
            var address = await server.ReadyAsync();
            if (kill == 0)
            {
                var owner = await Visitor.WithProjectAsync(address);
                for (var i = 0; i < 3; i++)
                    Assert.True((await owner.StartPieceAsync([(byte)i], "poster.lay", $"Gull {i}")).IsSuccessStatusCode);
                var scene = Samples.Zip(("buoy.gltf", "{\"asset\":{\"version\":\"2.0\"}}"), ("maps/red.txt", "red"));
                Assert.True((await owner.StartPieceAsync(scene, "buoy.zip", "Buoy")).IsSuccessStatusCode);
                await using var db = new StudioDb(
                    new DbContextOptionsBuilder<StudioDb>()
                        .UseSqlite($"Data Source={Path.Combine(folder.Path, "studio.db")};Pooling=False")
                        .Options
                )
                {
                    Sees = null,
                };
                db.DeviceKeys.Add(
                    new DeviceKey
                    {
                        PersonId = (await db.Users.SingleAsync()).Id,
                        Name = "A desk",
                        Hash = KeySecret.HashOf(secret),
                        MadeAt = DateTimeOffset.UtcNow,
                    }
                );
                await db.SaveChangesAsync();
            }
            var seed = random.Next();
            var work = Task.WhenAll(
                Enumerable
                    .Range(0, 3)
                    .Select(i => Saving($"working/TIM_gull-{i}_key.lay", new Random(seed + i), acknowledged))
                    .Append(WritingTiles("working/TIM_buoy_key.gltf", new Random(seed + 3), tiles))
                    .Select(step => OnShareAsync(address, secret, server, step))
            );
            await AcknowledgedAsync(acknowledged, more: random.Next(2, 7));
            await Task.Delay(random.Next(0, 2_500));
            server.Kill();
            await work;
        }
        Assert.True(acknowledged.Count > Kills, $"Only {acknowledged.Count} saves were answered, too few to say anything.");

        await using var app = StudioApp.Build(new Settings(folder.Path, IPAddress.Loopback, 0));
        await StudioApp.PrepareAsync(app);
        await Task.Delay(ShareTimes.Usual.Quiet);
        Assert.Null(await app.Services.GetRequiredService<SettleShare>().RoundAsync());
        await using var scope = app.Services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<Chronotype.Studio.People.Viewer>().IsStudio();
        var records = scope.ServiceProvider.GetRequiredService<StudioDb>();
        var saves = await records.Saves.AsNoTracking().Select(s => s.MainHash).ToListAsync();
        Assert.All(acknowledged, a => Assert.Contains(a.Hash, saves));
        Assert.True(tiles.Count > Kills, $"Only {tiles.Count} tiles were answered, too few to say anything.");
        var newest = await records
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Where(s => s.Piece.CurrentName.Contains("buoy"))
            .OrderByDescending(s => s.Sequence)
            .FirstAsync();
        var stands = newest.Files.ToDictionary(f => f.Path, f => f.Hash);
        Assert.All(tiles, t => Assert.Equal(t.Value, stands.GetValueOrDefault(t.Key)));
        Assert.Empty(await records.SharedFiles.ToListAsync());
        Assert.True(scope.ServiceProvider.GetRequiredService<Chronotype.Content.ContentStore>().Maintenance.Verify().IsSound);
    }

    // As a person saves who works fast: what follows within a second would be the same save.
    private static Func<HttpClient, Task> Saving(string path, Random random, List<(ContentHash, int)> acknowledged) =>
        async client =>
        {
            var content = Samples.Noise(random.Next(1, 900_000), random.Next());
            if ((await client.PutAsync(path, new ByteArrayContent(content))).IsSuccessStatusCode)
            {
                lock (acknowledged)
                    acknowledged.Add((ContentHash.Of(content), content.Length));
            }
            await Task.Delay(ShareTimes.Usual.OneSave + TimeSpan.FromMilliseconds(random.Next(50, 400)));
        };

    // As a program writes a scene: the scene over what it was, and each time one file more. Now and then it rests, and what there is by then
    // is a save.
    private static Func<HttpClient, Task> WritingTiles(string scene, Random random, Dictionary<string, ContentHash> tiles) =>
        async client =>
        {
            var (tile, content) = ($"maps/tile-{Guid.NewGuid():n}.bin", Samples.Noise(random.Next(1, 200_000), random.Next()));
            if ((await client.PutAsync($"{scene}/{tile}", new ByteArrayContent(content))).IsSuccessStatusCode)
                tiles[tile] = ContentHash.Of(content);
            var changed = Encoding.UTF8.GetBytes($$$"""{"asset":{"version":"2.0"},"extras":{"tiles":{{{tiles.Count}}}}}""");
            await client.PutAsync($"{scene}/buoy.gltf", new ByteArrayContent(changed));
            await Task.Delay(random.Next(4) == 0 ? ShareTimes.Usual.Quiet * 1.5 : TimeSpan.FromMilliseconds(random.Next(50, 400)));
        };

    private static async Task OnShareAsync(Uri address, string secret, ServerProcess server, Func<HttpClient, Task> step)
    {
        using var client = new HttpClient { BaseAddress = new Uri(address, "/share/TIDES/") };
        client.DefaultRequestHeaders.Authorization = new("Basic", Convert.ToBase64String(Encoding.UTF8.GetBytes($"IK:{secret}")));
        try
        {
            while (true)
                await step(client);
        }
        catch (Exception) when (server.IsKilled)
        {
            // Whatever a dead server does to its clients is no news.
        }
    }

    private static async Task AcknowledgedAsync(List<(ContentHash, int)> acknowledged, int more)
    {
        int Count()
        {
            lock (acknowledged)
                return acknowledged.Count;
        }
        var enough = Count() + more;
        for (var waited = 0; Count() < enough && waited < 60_000; waited += 10)
            await Task.Delay(10);
    }

    private static async Task FoundAsync(Uri address)
    {
        var owner = await Visitor.WithProjectAsync(address);
        Assert.True((await owner.StartPieceAsync([1, 2, 3], "poster.lay")).IsSuccessStatusCode);
    }

    /// <summary>Saves and keeps until the server is gone.</summary>
    private static async Task WorkAsync(
        Visitor visitor,
        Random random,
        List<(ContentHash, int)> acknowledged,
        Action kept,
        Func<bool> isKilled
    )
    {
        try
        {
            await visitor.PostAsync("/sign-in", new() { ["initials"] = "IK", ["password"] = "ten letters and more" });
            while (true)
            {
                var content = Samples.Noise(random.Next(1, 900_000), random.Next());
                var response = await visitor.SaveAsync(content, "poster.lay");
                if (!response.IsSuccessStatusCode)
                    continue;
                lock (acknowledged)
                    acknowledged.Add((ContentHash.Of(content), content.Length));
                var answer = await visitor.ActAsync("Keep", []);
                // Somebody else's keep may have taken the newest save first; then nothing was numbered here.
                if (answer.StatusCode == HttpStatusCode.Redirect && (await visitor.PiecePageAsync()).Contains("Kept as "))
                    kept();
            }
        }
        catch (Exception) when (isKilled())
        {
            // Whatever a dead server does to its clients is no news.
        }
    }
}
