using System.Diagnostics;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Tests;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Bench;

/// <summary>
/// How long a save waits at most, alone and while everything about the whole store goes on again and again: verifying, freeing,
/// counting, ending grace periods, an output of a layered picture, and a backup by a program of its own.
/// </summary>
internal static class Waits
{
    private const int Pieces = 40,
        Saves = 8,
        Bytes = 4_000_000,
        SaveBytes = 200_000;

    private static readonly TimeSpan Stretch = TimeSpan.FromSeconds(45);

    /// <param name="which">Only rounds, outputs or backups go on beside; all of them where it is empty.</param>
    public static async Task RunAsync(string which)
    {
        await using var server = await BenchServer.OpenAsync();
        using var program = await server.ProgramAsync();
        await FillAsync(server, program);
        var poster = await PosterAsync(server);
        var alone = await SavedAsync(program, Stretch, seed: 1);
        using var stop = new CancellationTokenSource();
        var rounds = Task.Run(() => RoundsAsync(server, poster, which, stop.Token));
        var backup = which is "" or "backups" ? Task.Run(() => BackUpAsync(server, stop.Token)) : Task.FromResult(0);
        var beside = await SavedAsync(program, Stretch, seed: 2);
        await stop.CancelAsync();
        var ((jobs, outputs), backups) = (await rounds, await backup);
        Console.WriteLine(
            $"Saves of {SaveBytes / 1000} kB on the share of a studio with {Pieces * Saves} saves, {Pieces * Saves * (long)Bytes / 1e9:0.0} GB:"
        );
        Tell("alone", alone);
        Tell(which is "" ? "beside all" : $"beside {which}", beside);
        Console.WriteLine(
            $"  beside it: {jobs} jobs about the whole store asked for, {outputs} outputs, {backups} backups; longest wanted under 300 ms"
        );
    }

    private static void Tell(string what, List<double> times) =>
        Console.WriteLine(
            $"  {what, -14} {times.Count, 4} saves   median {times[times.Count / 2] * 1000, 5:0} ms   19 of 20 under "
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

    // A version of a picture from which outputs can be made.
    private static async Task<Guid> PosterAsync(BenchServer server)
    {
        var layers = Enumerable.Range(0, 12).Select(i => new Samples.OraLayer($"Layer {i}", 2400, 1800, X: i * 20, Y: i * 20)).ToArray();
        await Share.StartAsync(server, Pieces, "poster.ora", Samples.OpenRaster(3000, 2200, layers));
        for (var until = Stopwatch.StartNew(); until.Elapsed < TimeSpan.FromMinutes(2); await Task.Delay(500))
        {
            // It takes its number when it is read.
            var name = $"TIM_piece-{Pieces}_key";
            var kept = await server.ReadAsync(db =>
                db.Saves.Where(s => s.Piece.CurrentName == name && s.Number != null).Select(s => (Guid?)s.Id).FirstOrDefaultAsync()
            );
            if (kept is { } save)
                return save;
        }
        throw new InvalidOperationException("The picture was not kept.");
    }

    private static async Task<List<double>> SavedAsync(HttpClient program, TimeSpan stretch, int seed)
    {
        var (random, times) = (new Random(seed), new List<double>());
        for (var until = Stopwatch.StartNew(); until.Elapsed < stretch; )
        {
            var content = new byte[SaveBytes];
            random.NextBytes(content);
            var clock = Stopwatch.StartNew();
            // One after the other: who saves a piece twice within two seconds waits for the save before, too, whatever else goes on.
            await Share.SendAsync(program, $"working/TIM_piece-{times.Count % Pieces}_key.bin", new MemoryStream(content));
            times.Add(clock.Elapsed.TotalSeconds);
            await Task.Delay(random.Next(50, 150));
        }
        times.Sort();
        return times;
    }

    // The timers' jobs and an output, asked for again and again; the queue looks for jobs of other processes now and then.
    private static async Task<(int Rounds, int Outputs)> RoundsAsync(BenchServer server, Guid poster, string which, CancellationToken stop)
    {
        JobKind[] kinds = which is "" or "rounds"
            ? [JobKind.VerifyStore, JobKind.CompactStore, JobKind.CountStorage, JobKind.EndGrace, JobKind.VerifySample]
            : [];
        var (rounds, outputs) = (0, 0);
        while (!stop.IsCancellationRequested)
        {
            await server.ReadAsync(async db =>
            {
                var active = await db
                    .Jobs.Where(j => j.State == JobState.Waiting || j.State == JobState.Running)
                    .Select(j => j.Kind)
                    .ToListAsync();
                foreach (var kind in kinds.Except(active))
                {
                    rounds++;
                    Ask(db, kind, "", kind == JobKind.CountStorage ? "count" : "store");
                }
                if ((which is "" or "outputs") && !active.Contains(JobKind.MakeOutput))
                {
                    // An output that stands there already would not be made again.
                    outputs += await db.Outputs.ExecuteDeleteAsync();
                    Ask(db, JobKind.MakeOutput, $"{poster}/print-a2-300", "bench");
                }
                return await db.SaveChangesAsync();
            });
            await Task.Delay(500, CancellationToken.None);
        }
        return (rounds, outputs);

        static void Ask(StudioDb db, JobKind kind, string subject, string lane) =>
            db.Jobs.Add(
                new Job
                {
                    Kind = kind,
                    Subject = subject,
                    Lane = lane,
                    Priority = JobPriority.Background,
                    IsNeeded = true,
                    AskedAt = DateTimeOffset.UtcNow,
                }
            );
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
