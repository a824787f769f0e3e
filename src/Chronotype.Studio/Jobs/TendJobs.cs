using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Jobs;

/// <summary>What people do with jobs: stop one, try a failed one again, put it out of sight.</summary>
public sealed class TendJobs(DeedRunner deeds, JobRunner runner)
{
    private static readonly JobKind[] OwnersKinds = [JobKind.VerifyStore, JobKind.VerifySample, JobKind.CompactStore];

    /// <summary>Ends a job that waits or runs.</summary>
    public async Task<Outcome<Done>> StopAsync(Actor actor, long id, CancellationToken cancel = default)
    {
        var outcome = await WithAsync(actor, id, (_, _) => Task.FromResult<Refusal?>(null), cancel);
        if (outcome.Done)
            await runner.StopJobAsync(id, cancel);
        return outcome;
    }

    /// <summary>Asks for a job again that failed or was stopped.</summary>
    public Task<Outcome<Done>> TryAgainAsync(Actor actor, long id, CancellationToken cancel = default) =>
        WithAsync(
            actor,
            id,
            async (deed, job) =>
            {
                if (job.State is not (JobState.Failed or JobState.Stopped))
                    return new Refusal.NoSuchJob();
                deed.Db.Jobs.Remove(job);
                await deed.Db.SaveChangesAsync(cancel);
                await deed.QueueAsync(new JobRequest(job.Kind, job.Subject, job.Lane), cancel);
                return null;
            },
            cancel
        );

    /// <summary>Puts a job out of sight that is over.</summary>
    public Task<Outcome<Done>> ForgetAsync(Actor actor, long id, CancellationToken cancel = default) =>
        WithAsync(
            actor,
            id,
            (deed, job) =>
            {
                if (job.State is not (JobState.Failed or JobState.Stopped))
                    return Task.FromResult<Refusal?>(new Refusal.NoSuchJob());
                deed.Db.Jobs.Remove(job);
                return Task.FromResult<Refusal?>(null);
            },
            cancel
        );

    private async Task<Outcome<Done>> WithAsync(Actor actor, long id, Func<Deed, Job, Task<Refusal?>> act, CancellationToken cancel) =>
        await deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
            {
                // One of a project that they do not see is none for them.
                if (
                    await deed.Db.Jobs.FirstOrDefaultAsync(j => j.Id == id, cancel) is not { } job
                    || (await JobSight.SeenAsync(deed.Db, [job], cancel)).Count == 0
                )
                    return new Refusal.NoSuchJob();
                if (OwnersKinds.Contains(job.Kind) && deed.Person is not { IsOwner: true } && !actor.IsStudio)
                    return new Refusal.NotAllowed(Right.MaintainStorage);
                return await act(deed, job) is { } refusal ? refusal : Done.It;
            },
            cancel
        );
}
