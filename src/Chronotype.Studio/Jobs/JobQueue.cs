using System.Collections.Concurrent;
using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Jobs;

/// <summary>
/// Everything that takes time, in the order in which it is wanted. The jobs themselves are in the records; here is who waits for them.
/// </summary>
public sealed class JobQueue(IDbContextFactory<StudioDb> contexts, TimeProvider time)
{
    private readonly ConcurrentDictionary<(JobKind Kind, string Subject), Watch> watched = new();

    private sealed class Watch
    {
        public readonly TaskCompletionSource<JobError> Ended = new(TaskCreationOptions.RunContinuationsAsynchronously);
        public int Watchers;
        public bool IsOver;
    }

    /// <summary>Stands in a running job's <see cref="Job.NotBefore"/> where it was asked for once more since it began.</summary>
    internal static readonly DateTimeOffset AskedWhileRunning = new(1, TimeSpan.Zero);

    /// <summary>Tells whoever runs the jobs that there may be something to do.</summary>
    public event Action? Woken;

    /// <summary>
    /// Asks for a job, within a transaction of the caller's or by itself. One that waits already goes further to the front, if this is
    /// wanted sooner.
    /// </summary>
    public static async Task AddAsync(StudioDb db, JobRequest job, Guid? askedBy, DateTimeOffset now, CancellationToken cancel = default)
    {
        // What is only looked at is not done for its own sake.
        // The other kinds depend on their content alone, and would come to the same again.
        var looksAtRows =
            job.Kind is JobKind.KeepBySetting or JobKind.MakeOutput or JobKind.MatchOutput or JobKind.MendSpec or JobKind.CountStorage;
        var (kind, priority, isNeeded, at) = ((int)job.Kind, (int)job.Priority, job.IsNeeded, now.UtcTicks);
        await db.Database.ExecuteSqlAsync(
            $"""
            INSERT INTO Jobs (Kind, Subject, Lane, State, Priority, IsNeeded, Done, Total, Tries, NotBefore, Error, AskedById, AskedAt)
            VALUES ({kind}, {job.Subject}, {job.Lane}, 0, {priority}, {isNeeded}, 0, 0, 0, 0, 0, {askedBy}, {at})
            ON CONFLICT (Kind, Subject) WHERE State IN (0, 1) DO UPDATE
                SET Priority = max(Priority, excluded.Priority), IsNeeded = max(IsNeeded, excluded.IsNeeded),
                    AskedById = coalesce(AskedById, excluded.AskedById),
                    NotBefore = CASE WHEN State = 1 AND {looksAtRows} THEN 1 ELSE 0 END
            """,
            cancel
        );
    }

    /// <summary>Asks for jobs in a transaction of their own.</summary>
    public async Task AddAsync(IReadOnlyList<JobRequest> jobs, Guid? askedBy = null, CancellationToken cancel = default)
    {
        if (jobs.Count == 0)
            return;
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await Writing.BeginAsync(db, cancel);
        foreach (var job in jobs)
            await AddAsync(db, job, askedBy, time.GetUtcNow(), cancel);
        await transaction.CommitAsync(cancel);
        Wake();
    }

    /// <summary>
    /// Asks for a job and waits for its end, whatever that is. When the last who waits goes away, what nobody else wanted is not begun.
    /// </summary>
    /// <returns>Why it was not done; <see cref="JobError.None"/> where it was.</returns>
    public async Task<JobError> DoAsync(JobRequest job, CancellationToken cancel = default)
    {
        while (true)
        {
            var error = await OnceAsync(job, cancel);
            // The end that was told may have been that of the job before, of the same name.
            if (error != JobError.None || !await IsActiveAsync(job.Kind, job.Subject, cancel))
                return error;
        }
    }

    private async Task<JobError> OnceAsync(JobRequest job, CancellationToken cancel)
    {
        var key = (job.Kind, job.Subject);
        var watch = Join(key);
        try
        {
            await AddAsync([job], cancel: cancel);
            return await watch.Ended.Task.WaitAsync(cancel);
        }
        finally
        {
            if (Leave(key, watch) && cancel.IsCancellationRequested && !job.IsNeeded)
                Abandoned?.Invoke(job.Kind, job.Subject);
        }
    }

    private async Task<bool> IsActiveAsync(JobKind kind, string subject, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Jobs.AnyAsync(
            j => j.Kind == kind && j.Subject == subject && (j.State == JobState.Waiting || j.State == JobState.Running),
            cancel
        );
    }

    /// <summary>Waits for the end of a job, if it waits or runs.</summary>
    /// <param name="patience">How long at most.</param>
    /// <returns>Whether it has ended, or was not there.</returns>
    public async Task<bool> EndedAsync(JobKind kind, string subject, TimeSpan patience, CancellationToken cancel = default)
    {
        var watch = Join((kind, subject));
        try
        {
            // Looked at after joining, so that an end between the two is not missed.
            if (!await IsActiveAsync(kind, subject, cancel))
                return true;
            // A person waits, by the clock on the wall.
            await watch.Ended.Task.WaitAsync(patience, cancel);
            return true;
        }
        catch (TimeoutException)
        {
            return false;
        }
        finally
        {
            Leave((kind, subject), watch);
        }
    }

    public void Wake() => Woken?.Invoke();

    /// <summary>Tells that nobody waits any more for something that was only wanted to be looked at.</summary>
    internal event Action<JobKind, string>? Abandoned;

    internal void Ended(JobKind kind, string subject, JobError error)
    {
        if (!watched.TryRemove((kind, subject), out var watch))
            return;
        lock (watch)
            watch.IsOver = true;
        watch.Ended.TrySetResult(error);
    }

    /// <summary>Whether somebody waits for a job's end.</summary>
    internal bool IsWatched(JobKind kind, string subject) => watched.ContainsKey((kind, subject));

    private Watch Join((JobKind, string) key)
    {
        while (true)
        {
            var watch = watched.GetOrAdd(key, _ => new Watch());
            lock (watch)
            {
                // It is being taken away; the next look finds another.
                if (watch.IsOver)
                    continue;
                watch.Watchers++;
                return watch;
            }
        }
    }

    /// <returns>Whether nobody is left.</returns>
    private bool Leave((JobKind, string) key, Watch watch)
    {
        lock (watch)
        {
            if (--watch.Watchers > 0)
                return false;
            watch.IsOver = true;
        }
        watched.TryRemove(new(key, watch));
        return true;
    }
}
