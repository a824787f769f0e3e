using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Jobs;

/// <summary>Records how far a job is and what became of it.</summary>
internal sealed class JobEnds(RedoneContexts contexts, TimeProvider time, ILogger log)
{
    private const int MostTries = 8,
        ShownEnded = 40;

    private static readonly TimeSpan FirstWait = TimeSpan.FromMinutes(1);

    /// <summary>A job is so far, of so much.</summary>
    public Task ProgressAsync(long id, long done, long total) => SafelyAsync(() => WriteProgressAsync(id, done, total));

    /// <summary>A job was stopped: for good, or to wait again.</summary>
    public Task StoppedAsync(Job job, bool isOver) => SafelyAsync(() => WriteStoppedAsync(job, isOver));

    /// <summary>A job failed. What may pass is tried again later.</summary>
    /// <returns>What kind of failure it was.</returns>
    public async Task<JobError> FailedAsync(Job job, Exception e)
    {
        var error = ErrorOf(e);
        await SafelyAsync(() => WriteFailedAsync(job, error, e));
        return error;
    }

    /// <summary>A job came to its end with what it found, or with nothing to show, and is forgotten.</summary>
    /// <remarks>Throws what the database does: it is then as if the job had failed.</remarks>
    public async Task DoneAsync(Job job, string? result)
    {
        await using var db = contexts.CreateDbContext();
        // What failed before is done now.
        await db.Jobs.Where(j => j.Kind == job.Kind && j.Subject == job.Subject && j.State == JobState.Failed).ExecuteDeleteAsync();
        // A job asked for while it ran runs again, and sees the newest rows.
        if (
            await db
                .Jobs.Where(j => j.Id == job.Id && j.NotBefore == JobQueue.AskedWhileRunning)
                .ExecuteUpdateAsync(u =>
                    u.SetProperty(j => j.State, JobState.Waiting).SetProperty(j => j.NotBefore, DateTimeOffset.MinValue)
                ) == 1
        )
            return;
        if (result is null)
        {
            await db.Jobs.Where(j => j.Id == job.Id).ExecuteDeleteAsync();
            return;
        }
        var ended = time.GetUtcNow();
        await db
            .Jobs.Where(j => j.Id == job.Id)
            .ExecuteUpdateAsync(u =>
                u.SetProperty(j => j.State, JobState.Done).SetProperty(j => j.Result, result).SetProperty(j => j.EndedAt, ended)
            );
        var old = await db
            .Jobs.Where(j => j.Kind == job.Kind && j.State == JobState.Done)
            .OrderByDescending(j => j.Id)
            .Skip(job.Kind == JobKind.CountStorage ? 1 : ShownEnded)
            .Select(j => j.Id)
            .ToListAsync();
        await db.Jobs.Where(j => old.Contains(j.Id)).ExecuteDeleteAsync();
    }

    private async Task WriteStoppedAsync(Job job, bool isOver)
    {
        await using var db = contexts.CreateDbContext();
        var row = db.Jobs.Where(j => j.Id == job.Id);
        if (isOver)
            await row.ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Stopped).SetProperty(j => j.EndedAt, time.GetUtcNow()));
        else
            await row.ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Waiting));
    }

    private async Task WriteFailedAsync(Job job, JobError error, Exception e)
    {
        // The disk's trouble may pass; what nobody thought of does not by itself.
        var again = error is JobError.Disk or JobError.Full or JobError.Records && job.Tries < MostTries && job.IsNeeded;
        if (again)
            log.LogWarning("{Kind} of {Subject} is tried again later: {Message}", job.Kind, job.Subject, e.Message);
        else
            log.LogError(e, "{Kind} of {Subject} failed.", job.Kind, job.Subject);
        await using var db = contexts.CreateDbContext();
        var now = time.GetUtcNow();
        var notBefore = now + FirstWait * (1 << Math.Min(job.Tries - 1, 6));
        await db.Jobs.Where(j => j.Kind == job.Kind && j.Subject == job.Subject && j.State == JobState.Failed).ExecuteDeleteAsync();
        await db
            .Jobs.Where(j => j.Id == job.Id)
            .ExecuteUpdateAsync(u =>
                u.SetProperty(j => j.State, again ? JobState.Waiting : JobState.Failed)
                    .SetProperty(j => j.NotBefore, notBefore)
                    .SetProperty(j => j.Error, error)
                    .SetProperty(j => j.ErrorDetail, e.Message)
                    .SetProperty(j => j.EndedAt, now)
            );
    }

    private async Task WriteProgressAsync(long id, long done, long total)
    {
        await using var db = contexts.CreateDbContext();
        await db
            .Jobs.Where(j => j.Id == id && j.State == JobState.Running)
            .ExecuteUpdateAsync(u => u.SetProperty(j => j.Done, done).SetProperty(j => j.Total, total));
    }

    private async Task SafelyAsync(Func<Task> write)
    {
        try
        {
            await write();
        }
        catch (Exception e) when (e is DbUpdateException or SqliteException or IOException)
        {
            // It stays as running, and the next start takes it up.
            log.LogError(e, "What became of a job could not be recorded.");
        }
    }

    private static JobError ErrorOf(Exception e) =>
        e switch
        {
            DeedRefusedException => JobError.Refused,
            StorageFullException => JobError.Full,
            MissingContentException or DamagedContentException => JobError.Damaged,
            IOException or UnauthorizedAccessException => JobError.Disk,
            SqliteException { SqliteErrorCode: SQLitePCL.raw.SQLITE_FULL } => JobError.Full,
            DbUpdateException or SqliteException => JobError.Records,
            _ => JobError.Unexpected,
        };
}
