using System.Diagnostics;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Bench;

/// <summary>
/// How long a save waits at most, alone and while everything about the whole store goes on again and again: verifying, freeing,
/// counting, ending grace periods, and a backup by a program of its own.
/// </summary>
internal static class Waits
{
    private const int Pieces = 40,
        Saves = 8,
        Bytes = 4_000_000,
        SaveBytes = 200_000;

    private static readonly TimeSpan Stretch = TimeSpan.FromSeconds(45);

    public static async Task RunAsync()
    {
        await using var server = await BenchServer.OpenAsync();
        using var program = await server.ProgramAsync();
        await FillAsync(server, program);
        var alone = await SavedAsync(program, Stretch, seed: 1);
        using var stop = new CancellationTokenSource();
        var rounds = Task.Run(() => RoundsAsync(server, stop.Token));
        var backup = Task.Run(() => BackUpAsync(server, stop.Token));
        var beside = await SavedAsync(program, Stretch, seed: 2);
        await stop.CancelAsync();
        var (jobs, backups) = (await rounds, await backup);
        Console.WriteLine(
            $"Saves of {SaveBytes / 1000} kB on the share of a studio with {Pieces * Saves} saves, {Pieces * Saves * (long)Bytes / 1e9:0.0} GB:"
        );
        Tell("alone", alone);
        Tell("beside all", beside);
        Console.WriteLine($"  beside it: {jobs} jobs about the whole store asked for, {backups} backups; longest wanted under 300 ms");
    }

    private static void Tell(string what, List<double> times) =>
        Console.WriteLine(
            $"  {what, -10} {times.Count, 4} saves   median {times[times.Count / 2] * 1000, 5:0} ms   19 of 20 under "
                + $"{times[times.Count * 19 / 20] * 1000, 5:0} ms   longest {times[^1] * 1000, 5:0} ms"
        );

    private static async Task FillAsync(BenchServer server, HttpClient program)
    {
        for (var i = 0; i < Pieces; i++)
        {
            await Share.StartAsync(server, i);
            var random = new Random(i);
            var content = new byte[Bytes];
            random.NextBytes(content);
            for (var n = 0; n < Saves; n++)
            {
                random.NextBytes(content.AsSpan(random.Next(Bytes - 1_000_000), 1_000_000));
                await Share.SendAsync(program, $"assets/piece-{i}-{n}.bin", new MemoryStream(content));
            }
        }
    }

    private static async Task<List<double>> SavedAsync(HttpClient program, TimeSpan stretch, int seed)
    {
        var (random, times) = (new Random(seed), new List<double>());
        for (var until = Stopwatch.StartNew(); until.Elapsed < stretch; )
        {
            var content = new byte[SaveBytes];
            random.NextBytes(content);
            var clock = Stopwatch.StartNew();
            await Share.SendAsync(program, $"working/TIM_piece-{random.Next(Pieces)}_key.bin", new MemoryStream(content));
            times.Add(clock.Elapsed.TotalSeconds);
            await Task.Delay(random.Next(50, 150));
        }
        times.Sort();
        return times;
    }

    // The timers' jobs, asked for again and again; the queue looks for jobs of other processes now and then.
    private static async Task<int> RoundsAsync(BenchServer server, CancellationToken stop)
    {
        JobKind[] kinds = [JobKind.VerifyStore, JobKind.CompactStore, JobKind.CountStorage, JobKind.EndGrace, JobKind.VerifySample];
        var ended = 0;
        while (!stop.IsCancellationRequested)
        {
            ended += await server.ReadAsync(async db =>
            {
                var active = await db
                    .Jobs.Where(j => j.State == JobState.Waiting || j.State == JobState.Running)
                    .Select(j => j.Kind)
                    .ToListAsync();
                var missing = kinds.Where(k => !active.Contains(k)).ToList();
                foreach (var kind in missing)
                    db.Jobs.Add(
                        new Job
                        {
                            Kind = kind,
                            Subject = "",
                            Lane = kind == JobKind.CountStorage ? "count" : "store",
                            Priority = JobPriority.Background,
                            IsNeeded = true,
                            AskedAt = DateTimeOffset.UtcNow,
                        }
                    );
                await db.SaveChangesAsync();
                return missing.Count;
            });
            await Task.Delay(500, CancellationToken.None);
        }
        return ended;
    }

    private static async Task<int> BackUpAsync(BenchServer server, CancellationToken stop)
    {
        var made = 0;
        // The first copies all of it, each that follows what has come since.
        var to = Directory.CreateTempSubdirectory("chronotype-bench-backup-").FullName;
        try
        {
            while (!stop.IsCancellationRequested)
            {
                using var backup = Process.Start(
                    new ProcessStartInfo("dotnet", [Cli, "backup", "--data", server.Folder, "--to", to]) { RedirectStandardOutput = true }
                )!;
                await backup.WaitForExitAsync(CancellationToken.None);
                made += backup.ExitCode == 0 ? 1 : 0;
            }
            return made;
        }
        finally
        {
            Directory.Delete(to, recursive: true);
        }
    }

    private static string Cli => Path.Combine(AppContext.BaseDirectory, "chronotype.dll");
}
