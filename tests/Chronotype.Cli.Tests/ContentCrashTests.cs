using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using Chronotype.Content;
using Chronotype.Core.Content;

namespace Chronotype.Cli.Tests;

/// <summary>
/// The real program is killed at random moments while it keeps, drops, compacts, repairs and rebuilds, again and again on the
/// same stores, and after each kill the promises are held against what it had said. <c>./check --kills N</c> does it N times.
/// </summary>
public sealed class ContentCrashTests
{
    private const int Lanes = 4,
        CheckAllEach = 15;

    [Fact]
    public async Task A_program_killed_at_any_moment_keeps_to_what_it_said()
    {
        var kills = int.TryParse(Environment.GetEnvironmentVariable("CHRONOTYPE_KILLS"), CultureInfo.InvariantCulture, out var more)
            ? more
            : Thorough.Times(100, 300);
        var seed = Environment.TickCount & 0xFFFFFF;
        var lanes = Enumerable.Range(0, Lanes).Select(i => new Lane(seed + i)).ToList();
        try
        {
            await Task.WhenAll(lanes.Select(l => Task.Run(() => l.RunAsync((kills + Lanes - 1) / Lanes))));
            Assert.True(lanes.Sum(l => l.Kills) >= kills);
            Assert.True(
                lanes.Sum(l => l.Acknowledged) > kills / 2,
                $"Only {lanes.Sum(l => l.Acknowledged)} contents were acknowledged, too few to say anything (seed {seed})."
            );
            Assert.True(
                lanes.Sum(l => l.KilledAtWork) > kills / 3,
                $"Only {lanes.Sum(l => l.KilledAtWork)} kills met the program at work (seed {seed})."
            );
        }
        finally
        {
            foreach (var lane in lanes)
                lane.Dispose();
        }
    }

    /// <summary>One store, and all that the program ever said about it.</summary>
    private sealed class Lane : IDisposable
    {
        private readonly int seed;
        private readonly Random random;
        private readonly DirectoryInfo folder = Directory.CreateTempSubdirectory("chronotype-crash-");
        private readonly string store;
        private readonly HashSet<string> kept = [],
            dropped = [],
            unsure = [];
        private readonly List<string> newest = [];
        private byte[] content;

        public Lane(int seed)
        {
            (this.seed, random) = (seed, new Random(seed));
            store = Path.Combine(folder.FullName, "store");
            Directory.CreateDirectory(store);
            // Segments of the least size, so that ending one is met as often as anything else.
            File.WriteAllText(Path.Combine(store, StoreConfiguration.FileName), """{"segmentMegabytes": 1}""");
            content = Noise(400_000);
        }

        public int Kills { get; private set; }
        public int KilledAtWork { get; private set; }
        public int Acknowledged { get; private set; }

        public void Dispose() => folder.Delete(recursive: true);

        public async Task RunAsync(int kills)
        {
            while (Kills < kills)
            {
                await KillAsync(Words());
                // Half of the time the next program is the first to see what was left.
                if (Kills % CheckAllEach == 0)
                    Check(all: true);
                else if (random.Next(2) == 0)
                    Check(all: false);
            }
            Check(all: true);
        }

        /// <summary>
        /// What the program is asked to do next; what it may or may not have done by the time it dies is not known any more.
        /// </summary>
        private string[] Words()
        {
            var chance = random.Next(100);
            if (chance < 12)
                return ["compact"];
            if (chance < 16)
                return ["rebuild"];
            if (chance < 30 && kept.Count > 6)
            {
                var going = kept.Order().OrderBy(_ => random.Next()).Take(kept.Count / 3).ToList();
                foreach (var hash in going)
                {
                    kept.Remove(hash);
                    unsure.Add(hash);
                }
                return ["drop", .. going];
            }
            var files = Enumerable.Range(0, random.Next(1, 6)).Select(NextFile).ToList();
            return [chance < 36 ? "repair" : "put", .. files];
        }

        private string NextFile(int index)
        {
            var at = random.Next(content.Length);
            content =
                random.Next(5) == 0 || content.Length > 3_000_000
                    ? Noise(random.Next(1, 900_000))
                    : [.. content[..at], .. Noise(random.Next(1, 200_000)), .. content[at..]];
            var path = Path.Combine(folder.FullName, $"save-{index}");
            File.WriteAllBytes(path, content);
            var hash = ContentHash.Of(content).ToString();
            if (!kept.Contains(hash))
                unsure.Add(hash);
            return path;
        }

        private byte[] Noise(int length)
        {
            var bytes = new byte[length];
            random.NextBytes(bytes);
            return bytes;
        }

        private async Task KillAsync(string[] words)
        {
            using var process = Program.Start(["content", .. words, "--store", store]);
            process.StandardInput.Close();
            var errors = process.StandardError.ReadToEndAsync();
            // Some die before they have begun; most when they have just said something, or are about to.
            var lines = random.Next(4) == 0 ? 0 : random.Next(0, 4);
            var pause = TimeSpan.FromMilliseconds(lines == 0 ? random.Next(40, 450) : random.NextDouble() * 25);
            for (; lines > 0 && await process.StandardOutput.ReadLineAsync() is { } line; lines--)
                Take(line);
            await Task.Delay(pause);
            if (!process.HasExited)
                KilledAtWork++;
            process.Kill();
            while (await process.StandardOutput.ReadLineAsync() is { } line)
                Take(line);
            await process.WaitForExitAsync();
            Kills++;
            Assert.DoesNotContain("damaged", await errors);
            Assert.DoesNotContain("Unhandled", await errors);
        }

        /// <summary>From here on the program is bound by what it said. A line that was cut off in the middle says nothing.</summary>
        private void Take(string line)
        {
            JsonElement said;
            try
            {
                said = JsonDocument.Parse(line).RootElement;
            }
            catch (JsonException)
            {
                return;
            }
            if (!said.TryGetProperty("hash", out var element))
                return;
            var hash = element.GetString()!;
            unsure.Remove(hash);
            if (said.TryGetProperty("dropped", out _))
            {
                dropped.Add(hash);
                return;
            }
            dropped.Remove(hash);
            kept.Add(hash);
            newest.Add(hash);
            Acknowledged++;
        }

        private void Check(bool all)
        {
            using var opened = ContentStore.Open(store);
            foreach (var hash in kept)
                Assert.True(opened.Has(ContentHash.Parse(hash)), $"{hash} was acknowledged and is gone (seed {seed}, kill {Kills}).");
            foreach (var hash in dropped)
                Assert.False(opened.Has(ContentHash.Parse(hash)), $"{hash} was dropped and is there (seed {seed}, kill {Kills}).");
            foreach (var entry in opened.Maintenance.Contents())
            {
                var hash = entry.Hash.ToString();
                Assert.True(
                    kept.Contains(hash) || unsure.Contains(hash),
                    $"{hash} is there, and nobody kept it (seed {seed}, kill {Kills})."
                );
                if (!all && !newest.TakeLast(4).Contains(hash))
                    continue;
                using var stream = opened.OpenRead(entry.Hash);
                Assert.Equal(hash, Convert.ToHexStringLower(SHA256.HashData(stream)));
            }
            if (all)
                Assert.True(opened.Maintenance.Verify().IsSound, $"The store is damaged (seed {seed}, kill {Kills}).");
        }
    }
}
