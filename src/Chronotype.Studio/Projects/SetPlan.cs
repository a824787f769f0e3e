using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Projects;

/// <summary>
/// Changes the folder plans that projects can start with. Projects that are there hold the plan that they began with.
/// </summary>
public sealed class SetPlan(DeedRunner deeds)
{
    /// <summary>Writes a plan: a new one, or what one of its key is from now on.</summary>
    /// <param name="isNew">Its key must be free.</param>
    public Task<Outcome<StudioPlan>> DoAsync(Actor actor, FolderPlan plan, bool isNew, CancellationToken cancel = default) =>
        deeds.DoAsync(actor, Right.SetConvention, deed => WithinAsync(deed, plan, isNew, cancel), cancel);

    /// <summary>Takes the last change of a plan back; of a usual one that was changed, this may be to how every studio begins.</summary>
    public Task<Outcome<StudioPlan>> UndoAsync(Actor actor, string key, CancellationToken cancel = default) =>
        deeds.DoAsync<StudioPlan>(
            actor,
            Right.SetConvention,
            async deed =>
            {
                var record = await deed.Db.Plans.FirstOrDefaultAsync(p => p.Key == key, cancel);
                var isUsual = FolderPlan.All.Any(u => u.Key == key);
                if (record is null || (record.FileBefore is null && !(isUsual && record.File is not null)))
                    return new Refusal.NoPlanBefore();
                (record.File, record.FileBefore) = (record.FileBefore, record.File);
                (record.ChangedAt, record.ChangedById) = (deed.Now, actor.PersonId);
                return record;
            },
            cancel
        );

    /// <summary>Takes a plan off the list, or puts it on again.</summary>
    public Task<Outcome<StudioPlan>> ListAsync(Actor actor, string key, bool isListed, CancellationToken cancel = default) =>
        deeds.DoAsync<StudioPlan>(
            actor,
            Right.SetConvention,
            async deed =>
            {
                var record = await deed.Db.Plans.FirstOrDefaultAsync(p => p.Key == key, cancel);
                if (record is null && FolderPlan.All.All(u => u.Key != key))
                    return new Refusal.NoSuchPlan();
                if (!isListed && (await new PlanStore(deed.Db).AllAsync(cancel)).Count == 1)
                    return new Refusal.LastPlan();
                if (record is null)
                    deed.Db.Plans.Add(record = new StudioPlan { Key = key });
                (record.RemovedAt, record.ChangedAt, record.ChangedById) = (isListed ? null : deed.Now, deed.Now, actor.PersonId);
                return record;
            },
            cancel
        );

    private static async Task<Outcome<StudioPlan>> WithinAsync(Deed deed, FolderPlan plan, bool isNew, CancellationToken cancel)
    {
        var faults = PlanRules.Check(plan).Concat(plan.Convention is { } c ? ConventionRules.CheckForStudio(c) : []).ToList();
        if (faults.Count > 0)
            return new Refusal.PlanFaults([.. faults.Select(f => f.ToString())]);
        var record = await deed.Db.Plans.FirstOrDefaultAsync(p => p.Key == plan.Key, cancel);
        if (isNew && (record is not null || FolderPlan.All.Any(u => u.Key == plan.Key)))
            return new Refusal.PlanIsThere(plan.Key);
        if (record is null)
            deed.Db.Plans.Add(record = new StudioPlan { Key = plan.Key });
        var file = PlanFile.Write(plan);
        if (file != record.File)
            (record.FileBefore, record.File) = (record.File, file);
        (record.RemovedAt, record.ChangedAt, record.ChangedById) = (null, deed.Now, deed.Actor.PersonId);
        return record;
    }
}
