using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

/// <summary>Who looks, for as long as one request takes: what is asked of its records is asked with their eyes.</summary>
public sealed class Viewer
{
    private IReadOnlyCollection<Guid>? projects = [];
    private bool wasAsked;
    private Guid? who;

    /// <summary>The projects that they see; null for all, and none before it is said who looks.</summary>
    public IReadOnlyCollection<Guid>? Projects
    {
        get
        {
            wasAsked = true;
            return projects;
        }
        private set =>
            projects = wasAsked ? throw new InvalidOperationException("Something was asked before it was said who looks.") : value;
    }

    /// <summary>They change nothing but what is their own.</summary>
    public bool IsReader { get; private set; }

    /// <summary>Says who looks, before anything is asked.</summary>
    public async Task IsAsync(Guid personId, IDbContextFactory<StudioDb> contexts, CancellationToken cancel = default)
    {
        // The page that tells of an error is asked for within the same request.
        if (who == personId)
            return;
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await db.Users.AsNoTracking().FirstOrDefaultAsync(p => p.Id == personId, cancel) is not { } person)
            return;
        Projects = await SeenProjects.OfAsync(db, person, cancel);
        IsReader = person.IsReader && !person.IsOwner;
        who = personId;
    }

    /// <summary>The same person looks as another time.</summary>
    public void Is(Viewer other) => (Projects, IsReader) = (other.projects, other.IsReader);

    /// <summary>The studio itself looks, at everything, for work of its own.</summary>
    public void IsStudio() => Projects = null;
}

/// <summary>Which projects a person sees.</summary>
public static class SeenProjects
{
    /// <returns>Null for all.</returns>
    public static async Task<IReadOnlyCollection<Guid>?> OfAsync(StudioDb db, Person? person, CancellationToken cancel = default) =>
        IsLimited(person) ? await db.ProjectAccess.Where(a => a.PersonId == person!.Id).Select(a => a.ProjectId).ToListAsync(cancel) : null;

    internal static bool IsLimited(Person? person) => person is { SeesSome: true, IsOwner: false };
}
