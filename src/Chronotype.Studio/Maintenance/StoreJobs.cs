using Chronotype.Content;
using Chronotype.Content.Maintenance;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Maintenance;

/// <summary>What the newest verification found in the segments, as long as the program runs: compacting clears the damage away.</summary>
public sealed class LastVerification
{
    public Verified? Found { get; set; }
}

/// <summary>What compacting came to.</summary>
/// <param name="Freed">Bytes.</param>
/// <param name="Dropped">Contents that no record held for longer than a day, and that were let go first.</param>
/// <param name="Kept">Segments that hold something damaged that is still needed.</param>
public sealed record Compacted(long Freed, int Dropped, int Kept);

/// <summary>Reads the store, or a sample of it, and records what is damaged or missing.</summary>
public sealed class VerifyStore(
    ContentStore store,
    LastVerification last,
    IDbContextFactory<StudioDb> contexts,
    TimeProvider time,
    ILogger<VerifyStore> log
) : IJobWork
{
    /// <summary>The share of the segments that a sample reads: each of them about once in three weeks of daily samples.</summary>
    public const double SampleShare = 0.05;

    // People who work meanwhile come first, and have half of the processors to themselves.
    private static readonly int AtOnce = Math.Clamp(Environment.ProcessorCount / 2, 1, 4);

    public async Task<string?> DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var started = time.GetUtcNow();
        var found = store.Maintenance.Verify(
            job.Kind == JobKind.VerifySample ? SampleShare : 1,
            new StepProgress(progress),
            cancel,
            AtOnce
        );
        last.Found = found;
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var check = new StoreCheck
        {
            StartedAt = started,
            EndedAt = time.GetUtcNow(),
            Share = found.Share,
            BytesRead = found.BytesRead,
            DamagedPlaces = found.Places.Count,
            IndexFault = found.IndexFault,
            Damaged = [.. found.Damaged.Select(d => new CheckDamage { Hash = d.Hash, UnreadableBytes = d.UnreadableBytes })],
        };
        var known = found.Damaged.Select(d => d.Hash).ToHashSet();
        foreach (var hash in await HeldContent.AllAsync(db, cancel))
        {
            if (!known.Contains(hash) && !store.Has(hash))
                check.Damaged.Add(new CheckDamage { Hash = hash });
        }
        // Every content that a record names is there and whole, so what a missing segment held is needed by none.
        if (check.Damaged.Count == 0 && check.Share >= 1)
            store.Maintenance.GiveUpMissing();
        db.StoreChecks.Add(check);
        await db.SaveChangesAsync(cancel);
        if (check.Damaged.Count > 0)
            log.LogError("{Count} contents are damaged or missing; the Storage screen says which.", check.Damaged.Count);
        else if (!found.IsSound)
            log.LogWarning(
                "The content store has damage that nothing needs: {Places} places, {Index}.",
                found.Places.Count,
                found.IndexFault ?? "index sound"
            );
        // What it found stands in the record of the check.
        return null;
    }
}

/// <summary>Lets go of contents that no record holds, and frees what nothing needs.</summary>
public sealed class CompactStore(ContentStore store, LastVerification last, HeldContent held, ILogger<CompactStore> log) : IJobWork
{
    public async Task<string?> DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var dropped = await held.DropUnheldAsync(cancel);
        var result = store.Maintenance.Compact(last.Found, new StepProgress(progress), cancel);
        last.Found = null;
        var freed = Math.Max(0, result.BytesBefore - result.BytesAfter);
        log.LogInformation(
            "Compacting freed {Freed} bytes in {Deleted} segments, after {Dropped} contents that no record held were let go.",
            freed,
            result.Deleted,
            dropped
        );
        return RecordJson.Write(new Compacted(freed, dropped, result.Skipped.Count));
    }
}

internal sealed class StepProgress(IProgress<(long Done, long Total)> inner) : IProgress<StoreProgress>
{
    public void Report(StoreProgress value) => inner.Report((value.Done, value.Total));
}
