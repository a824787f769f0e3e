using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

/// <summary>What somebody may see and do.</summary>
/// <param name="SeesSome">They see only some projects.</param>
/// <param name="Projects">Which ones, where they see only some.</param>
/// <param name="IsReader">They change nothing but what is their own.</param>
public sealed record Access(bool SeesSome, IReadOnlyCollection<Guid> Projects, bool IsReader);

/// <summary>An owner gives somebody all projects or some, and the right to work on them or to read only. It counts from the next request on.</summary>
public sealed class SetAccess(DeedRunner deeds)
{
    public Task<Outcome<Person>> DoAsync(Actor actor, Guid personId, Access access, CancellationToken cancel = default) =>
        deeds.DoAsync<Person>(
            actor,
            Right.ManagePeople,
            async deed =>
            {
                if (await deed.Db.Users.FirstOrDefaultAsync(p => p.Id == personId, cancel) is not { } person)
                    return new Refusal.NoSuchPerson();
                // Somebody must be left who can let people in.
                if (person.IsOwner)
                    return new Refusal.OwnerSeesAll();
                (person.SeesSome, person.IsReader) = (access.SeesSome, access.IsReader);
                var wanted = access.SeesSome ? access.Projects.Distinct().ToList() : [];
                if (await deed.Db.Projects.CountAsync(p => wanted.Contains(p.Id), cancel) < wanted.Count)
                    return new Refusal.NoSuchProject();
                // One that was deleted and may come back stays theirs.
                var there = await deed
                    .Db.ProjectAccess.Where(a => a.PersonId == personId && deed.Db.Projects.Any(p => p.Id == a.ProjectId))
                    .ToListAsync(cancel);
                deed.Db.ProjectAccess.RemoveRange(there.Where(a => !wanted.Contains(a.ProjectId)));
                foreach (var project in wanted.Except(there.Select(a => a.ProjectId)))
                    deed.Db.ProjectAccess.Add(new ProjectAccess { PersonId = personId, ProjectId = project });
                return person;
            },
            cancel
        );

    /// <summary>Whoever begins a project sees it.</summary>
    internal static void Began(Deed deed, Project project)
    {
        if (SeenProjects.IsLimited(deed.Person))
            deed.Db.ProjectAccess.Add(new ProjectAccess { PersonId = deed.Person!.Id, ProjectId = project.Id });
    }
}
