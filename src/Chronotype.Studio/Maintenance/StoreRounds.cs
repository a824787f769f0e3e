using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Arrivals;
using Chronotype.Studio.Jobs;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Maintenance;

/// <summary>Once a day has a sample of the content store verified, and then what nothing needs freed where that is much.</summary>
public sealed class StoreRounds(
    JobQueue queue,
    ContentStore store,
    HeldUploads uploads,
    IDbContextFactory<StudioDb> contexts,
    TimeProvider time,
    ILogger<StoreRounds> log
) : BackgroundService
{
    private const long WorthFreeing = 256L << 20;
    private const int ShareWorthFreeing = 5;

    private static readonly TimeSpan Look = TimeSpan.FromHours(1),
        Between = TimeSpan.FromHours(24);

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(Look, time);
        while (await timer.WaitForNextTickAsync(stopping))
        {
            try
            {
                await RoundAsync(stopping);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "The daily round of the content store could not be asked for; it is tried again in an hour.");
            }
        }
    }

    private async Task RoundAsync(CancellationToken stopping)
    {
        await using var db = await contexts.CreateDbContextAsync(stopping);
        db.GivesWay = true;
        if (!await IsDueAsync(db, stopping))
            return;
        uploads.DropOld();
        // Of one lane: the second comes when the first is done.
        var jobs = new List<JobRequest> { JobRequest.Store(JobKind.VerifySample), JobRequest.Store(JobKind.EndGrace) };
        // It walks through the store, so that no transaction may be open meanwhile.
        var stat = store.Maintenance.Stat();
        if (stat.FreeBytes >= WorthFreeing && stat.FreeBytes >= stat.SegmentBytes / ShareWorthFreeing)
            jobs.Add(JobRequest.Store(JobKind.CompactStore));
        // As a writer: a check that ends meanwhile is seen either as one that runs or as the last.
        await using var transaction = await Writing.BeginAsync(db, stopping);
        if (!await IsDueAsync(db, stopping))
            return;
        foreach (var job in jobs)
            await JobQueue.AddAsync(db, job, null, time.GetUtcNow(), stopping);
        await transaction.CommitAsync(stopping);
        queue.Wake();
    }

    private async Task<bool> IsDueAsync(StudioDb db, CancellationToken stopping)
    {
        var last = await db
            .StoreChecks.OrderByDescending(c => c.EndedAt)
            .Select(c => (DateTimeOffset?)c.EndedAt)
            .FirstOrDefaultAsync(stopping);
        return last is not { } at || time.GetUtcNow() - at >= Between;
    }
}
