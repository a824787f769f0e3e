using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Maintenance;

/// <summary>Has an owner ask for the long work on the content store, or stop it.</summary>
public sealed class MaintainStorage(DeedRunner deeds, JobRunner runner)
{
    private static readonly JobKind[] Kinds = [JobKind.VerifyStore, JobKind.VerifySample, JobKind.CompactStore];

    /// <param name="kind">Verifying or compacting.</param>
    public Task<Outcome<Done>> AskAsync(Actor actor, JobKind kind, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.MaintainStorage,
            async deed =>
            {
                await deed.QueueAsync(JobRequest.Store(kind, JobPriority.Follows), cancel);
                return Done.It;
            },
            cancel
        );

    /// <summary>Ends what goes on. What it did so far stays.</summary>
    public async Task<Outcome<Done>> StopAsync(Actor actor, CancellationToken cancel = default)
    {
        var ids = new List<long>();
        var outcome = await deeds.DoAsync<Done>(
            actor,
            Right.MaintainStorage,
            async deed =>
            {
                ids = await deed
                    .Db.Jobs.Where(j => Kinds.Contains(j.Kind) && (j.State == JobState.Waiting || j.State == JobState.Running))
                    .Select(j => j.Id)
                    .ToListAsync(cancel);
                return Done.It;
            },
            cancel
        );
        foreach (var id in ids)
            await runner.StopJobAsync(id, cancel);
        return outcome;
    }
}
