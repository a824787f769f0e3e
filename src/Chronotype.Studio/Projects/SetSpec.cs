using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Projects;

/// <summary>Says what a project's files must be. Nothing is changed by it: what is off is listed.</summary>
public sealed class SetSpec(DeedRunner deeds)
{
    /// <param name="spec">Empty where they may be anything.</param>
    public Task<Outcome<Project>> DoAsync(Actor actor, Guid projectId, ProjectSpec spec, CancellationToken cancel = default) =>
        deeds.DoAsync<Project>(
            actor,
            Right.Work,
            async deed =>
            {
                if (spec.OutOfRange() is { } point)
                    return new Refusal.SpecOutOfRange(point);
                if (await deed.Db.Projects.FirstOrDefaultAsync(p => p.Id == projectId, cancel) is not { } project)
                    return new Refusal.NoSuchProject();
                var trimmed = spec.Trimmed();
                project.Spec = trimmed.IsEmpty ? null : RecordJson.Write(trimmed);
                return project;
            },
            cancel
        );
}
