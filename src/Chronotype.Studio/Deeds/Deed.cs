using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;

namespace Chronotype.Studio.Deeds;

/// <summary>A deed that is being done: fresh rows of its own, in one transaction, in which what follows it is queued too.</summary>
public sealed class Deed(StudioDb db, Actor actor, Person? person, DateTimeOffset now)
{
    /// <summary>Holds the records still for everybody else who wants to change them, from before the first look until the end.</summary>
    public StudioDb Db => db;

    public Actor Actor => actor;

    /// <summary>Who does it, as the records know them now; null for the studio by itself.</summary>
    public Person? Person => person;

    /// <summary>When it is done, in UTC.</summary>
    public DateTimeOffset Now => now;

    internal bool HasQueued { get; private set; }

    /// <summary>Has something done after the deed, if the deed is done, and not at all if it is not.</summary>
    public async Task QueueAsync(JobRequest job, CancellationToken cancel = default)
    {
        await JobQueue.AddAsync(db, job, actor.IsStudio || job.IsBySetting ? null : actor.PersonId, now, cancel);
        HasQueued = true;
    }
}
