using System.Collections.Concurrent;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Readers;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Jobs;

/// <summary>
/// Does the jobs: what somebody looks at first, then in the order in which they were asked for, one of each lane at a time, and
/// so many beside one another as the machine is given. What a stop left undone is taken up by the next start.
/// </summary>
public sealed class JobRunner(
    JobQueue queue,
    JobStart start,
    ReaderLimits limits,
    RedoneContexts contexts,
    IServiceProvider services,
    TimeProvider time,
    ILogger<JobRunner> log
) : BackgroundService
{
    private static readonly TimeSpan Look = TimeSpan.FromSeconds(20),
        BetweenWrites = TimeSpan.FromSeconds(1);

    private static readonly JobKind[] ReaderKinds =
    [
        JobKind.ReadContent,
        JobKind.DrawPreview,
        JobKind.CompareContents,
        JobKind.CutTiles,
        JobKind.PrepareSound,
        JobKind.MakeOutput,
        JobKind.MatchOutput,
        JobKind.MendSpec,
        JobKind.PutParts,
    ];
    private static readonly JobKind[] StoreKinds =
    [
        JobKind.VerifyStore,
        JobKind.VerifySample,
        JobKind.CompactStore,
        JobKind.CountStorage,
        JobKind.EndGrace,
    ];

    private readonly JobEnds ends = new(contexts, time, log);
    private readonly ConcurrentDictionary<long, Running> running = new();
    private readonly SemaphoreSlim woken = new(0);
    private readonly Lock idleGate = new();
    private List<TaskCompletionSource> waitingForIdle = [];

    private sealed record Running(Job Job, CancellationTokenSource Stop)
    {
        public bool IsStopped { get; set; }
    }

    /// <summary>What goes on now, with how far it is.</summary>
    public IReadOnlyList<Job> Now => [.. running.Values.Select(r => r.Job).OrderByDescending(j => j.Priority).ThenBy(j => j.Id)];

    /// <summary>Waits until nothing is left that could be done now.</summary>
    public async Task IdleAsync(CancellationToken cancel = default)
    {
        var idle = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        lock (idleGate)
            waitingForIdle.Add(idle);
        Wake();
        await idle.Task.WaitAsync(cancel);
    }

    /// <summary>Stops a job that waits or runs. What it did so far stays.</summary>
    /// <returns>False where it is over already.</returns>
    public async Task<bool> StopJobAsync(long id, CancellationToken cancel = default)
    {
        if (running.TryGetValue(id, out var under))
        {
            under.IsStopped = true;
            Cancel(under);
            return true;
        }
        await using var db = contexts.CreateDbContext();
        var job = await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id, cancel);
        var stopped =
            await db
                .Jobs.Where(j => j.Id == id && j.State == JobState.Waiting)
                .ExecuteUpdateAsync(
                    u => u.SetProperty(j => j.State, JobState.Stopped).SetProperty(j => j.EndedAt, time.GetUtcNow()),
                    cancel
                ) == 1;
        if (stopped)
            queue.Ended(job!.Kind, job.Subject, JobError.None);
        return stopped;
    }

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        // The start of the program does not wait for what is looked up here.
        await Task.Yield();
        queue.Woken += Wake;
        queue.Abandoned += Abandon;
        try
        {
            await TakeUpAsync(stopping);
            while (true)
            {
                List<TaskCompletionSource> asked;
                lock (idleGate)
                    asked = [.. waitingForIdle];
                // Asked before: a job that ends meanwhile may have left another of its lane waiting.
                var wasIdle = running.IsEmpty;
                var begun = await BeginAsync(stopping);
                if (begun == 0 && wasIdle)
                    SayIdle(asked);
                await woken.WaitAsync(Look, stopping);
                // One look answers however many called.
                while (woken.Wait(0, CancellationToken.None)) { }
            }
        }
        catch (OperationCanceledException)
        {
            // Stopping.
        }
        finally
        {
            queue.Woken -= Wake;
            queue.Abandoned -= Abandon;
            while (!running.IsEmpty)
                await Task.Delay(10, CancellationToken.None);
        }
    }

    private void Wake() => woken.Release();

    private async Task TakeUpAsync(CancellationToken stopping)
    {
        while (true)
        {
            try
            {
                await start.RunAsync(stopping);
                return;
            }
            catch (Exception e) when (e is DbUpdateException or SqliteException or IOException)
            {
                log.LogError(e, "The jobs that a stop left could not be taken up; it is tried again.");
                await Task.Delay(Look, time, stopping);
            }
        }
    }

    private async Task<int> BeginAsync(CancellationToken stopping)
    {
        try
        {
            var begun = 0;
            begun += await BeginAsync(ReaderKinds, limits.Readers, stopping);
            begun += await BeginAsync([JobKind.KeepBySetting], 2, stopping);
            begun += await BeginAsync(StoreKinds, 2, stopping);
            return begun;
        }
        catch (Exception e) when (e is DbUpdateException or SqliteException)
        {
            log.LogError(e, "The queue of jobs could not be read; it is looked at again.");
            return 0;
        }
    }

    private async Task<int> BeginAsync(JobKind[] kinds, int most, CancellationToken stopping)
    {
        var now = running.Values.Where(r => kinds.Contains(r.Job.Kind)).ToList();
        if (now.Count >= most)
            return 0;
        await using var db = contexts.CreateDbContext();
        var lanes = running.Values.Select(r => r.Job.Lane).ToHashSet();
        var begun = 0;
        foreach (var job in await NextAsync(db, kinds, lanes, stopping))
        {
            var count = now.Count + begun;
            if (count >= most)
                break;
            // One place stays free for whoever waits at a page, and for what is read before it is kept.
            if (
                job.Priority != JobPriority.Looked
                && job.Kind != JobKind.ReadContent
                && most > 1
                && kinds == ReaderKinds
                && count >= most - 1
            )
                continue;
            if (lanes.Contains(job.Lane) || await IsUnwantedAsync(job))
                continue;
            lanes.Add(job.Lane);
            var claimed = await db
                .Jobs.Where(j => j.Id == job.Id && j.State == JobState.Waiting)
                .ExecuteUpdateAsync(
                    u =>
                        u.SetProperty(j => j.State, JobState.Running)
                            .SetProperty(j => j.Tries, job.Tries + 1)
                            .SetProperty(j => j.StartedAt, time.GetUtcNow()),
                    stopping
                );
            if (claimed == 0)
                continue;
            (job.State, job.Tries, job.StartedAt) = (JobState.Running, job.Tries + 1, time.GetUtcNow());
            var under = new Running(job, CancellationTokenSource.CreateLinkedTokenSource(stopping));
            running[job.Id] = under;
            // Who wanted to look may have gone away between its being claimed and its being seen to run.
            if (!job.IsNeeded && !queue.IsWatched(job.Kind, job.Subject))
                Cancel(under);
            begun++;
            _ = Task.Run(() => RunAsync(under, stopping), CancellationToken.None);
        }
        return begun;
    }

    // The first few are those of many lanes, nearly always; only where they are not are those of other lanes asked for.
    private async Task<List<Job>> NextAsync(StudioDb db, JobKind[] kinds, HashSet<string> busy, CancellationToken cancel)
    {
        var now = time.GetUtcNow();
        var waiting = db.Jobs.AsNoTracking().Where(j => j.State == JobState.Waiting && kinds.Contains(j.Kind) && j.NotBefore <= now);
        var first = await waiting.OrderByDescending(j => j.Priority).ThenBy(j => j.Id).Take(32).ToListAsync(cancel);
        if (first.Count < 32 || first.Exists(j => !busy.Contains(j.Lane)))
            return first;
        var (next, taken) = (new List<Job>(), busy.ToList());
        while (
            next.Count < MostLanes
            && await waiting
                .Where(j => !taken.Contains(j.Lane))
                .OrderByDescending(j => j.Priority)
                .ThenBy(j => j.Id)
                .FirstOrDefaultAsync(cancel)
                is { } job
        )
        {
            next.Add(job);
            taken.Add(job.Lane);
        }
        return next;
    }

    // More than are begun at once.
    private const int MostLanes = 16;

    // Ends without an exception, whatever happens.
    private async Task RunAsync(Running under, CancellationToken stopping)
    {
        var job = under.Job;
        var (error, goesOn) = (JobError.None, false);
        var told = Task.CompletedTask;
        try
        {
            var work = services.GetRequiredKeyedService<IJobWork>(job.Kind);
            var result = await work.DoAsync(
                job,
                new Progress(job, time, (done, total) => told = Task.WhenAll(told, ends.ProgressAsync(job.Id, done, total))),
                under.Stop.Token
            );
            await ends.DoneAsync(job, result);
        }
        catch (OperationCanceledException) when (under.Stop.IsCancellationRequested)
        {
            // Of a stop of the whole studio the row stays as it is: the next start takes it up. One that nobody looked at any more waits
            // again, and is forgotten or, where somebody has come back, begun anew.
            goesOn = !stopping.IsCancellationRequested && !under.IsStopped;
            if (!stopping.IsCancellationRequested)
                await ends.StoppedAsync(job, isOver: under.IsStopped);
        }
        catch (Exception e)
        {
            error = await ends.FailedAsync(job, e);
        }
        finally
        {
            // Nothing of it is written once it has come to its end.
            await told.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            running.TryRemove(job.Id, out _);
            under.Stop.Dispose();
            if (!goesOn)
                queue.Ended(job.Kind, job.Subject, error);
            Wake();
        }
    }

    /// <summary>Forgets a job that was only wanted to be looked at, by somebody who went away.</summary>
    private async Task<bool> IsUnwantedAsync(Job job)
    {
        if (job.IsNeeded || queue.IsWatched(job.Kind, job.Subject))
            return false;
        await using var db = contexts.CreateDbContext();
        var gone = await db.Jobs.Where(j => j.Id == job.Id && j.State == JobState.Waiting && !j.IsNeeded).ExecuteDeleteAsync() == 1;
        // Whoever asked for it in this very moment found it there, and must not wait for nothing.
        if (gone && queue.IsWatched(job.Kind, job.Subject))
            await queue.AddAsync([new JobRequest(job.Kind, job.Subject, job.Lane, JobPriority.Looked)]);
        return gone;
    }

    // What waits is forgotten when its turn comes.
    private void Abandon(JobKind kind, string subject)
    {
        if (running.Values.FirstOrDefault(r => r.Job.Kind == kind && r.Job.Subject == subject && !r.Job.IsNeeded) is { } under)
            Cancel(under);
        Wake();
    }

    private static void Cancel(Running under)
    {
        try
        {
            under.Stop.Cancel();
        }
        catch (ObjectDisposedException)
        {
            // It has come to its end by itself.
        }
    }

    private void SayIdle(List<TaskCompletionSource> asked)
    {
        lock (idleGate)
            waitingForIdle = [.. waitingForIdle.Except(asked)];
        foreach (var idle in asked)
            idle.TrySetResult();
    }

    // The row says how far a job is at most once a second; who is in this process sees it as it goes.
    private sealed class Progress(Job job, TimeProvider time, Action<long, long> write) : IProgress<(long Done, long Total)>
    {
        private DateTimeOffset written = time.GetUtcNow();

        public void Report((long Done, long Total) value)
        {
            (job.Done, job.Total) = value;
            var now = time.GetUtcNow();
            if (now - written < BetweenWrites)
                return;
            written = now;
            write(value.Done, value.Total);
        }
    }
}
