using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.People;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Deeds;

/// <summary>
/// Does every deed in the same way: looks up who does it and whether they may, in a transaction on a context of the deed's own,
/// so that nothing is decided on a row that somebody else has changed meanwhile; and keeps all of it or nothing.
/// </summary>
public sealed class DeedRunner(IDbContextFactory<StudioDb> contexts, JobQueue queue, TimeProvider time)
{
    /// <param name="right">What the actor must be allowed to do.</param>
    /// <param name="deed">Refusing undoes whatever it changed.</param>
    /// <exception cref="SqliteException">The records could not be read or written; nothing was changed.</exception>
    /// <exception cref="CommitNotFlushedException">It was recorded, and the disk did not keep it: it may not last.</exception>
    public async Task<Outcome<T>> DoAsync<T>(
        Actor actor,
        Right right,
        Func<Deed, Task<Outcome<T>>> deed,
        CancellationToken cancel = default
    )
        where T : class
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var isLimited = !actor.IsStudio && await IsLimitedAsync(actor, cancel);
        db.Sees = isLimited ? [] : null;
        db.GivesWay = actor.IsStudio;
        await using var transaction = await Writing.BeginAsync(db, cancel);
        var person = actor.PersonId == Guid.Empty ? null : await db.Users.FirstOrDefaultAsync(p => p.Id == actor.PersonId, cancel);
        if (!actor.IsStudio && Against(person, right) is { } refusal)
            return refusal;
        if (actor.KeyId is { } key && !await db.DeviceKeys.AnyAsync(k => k.Id == key && k.EndedAt == null, cancel))
            return new Refusal.KeyRevoked();
        if (!actor.IsStudio && SeenProjects.IsLimited(person))
        {
            // An owner has limited them in this very moment: what they see is asked for anew by the next deed.
            if (!isLimited)
                return new Refusal.NotAllowed(right);
            db.Sees = await SeenProjects.OfAsync(db, person, cancel);
        }
        var under = new Deed(db, actor, person, time.GetUtcNow());
        db.DoneAt = under.Now;
        var outcome = await deed(under);
        if (!outcome.Done)
            return outcome;
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(CancellationToken.None);
        if (under.HasQueued)
            queue.Wake();
        return outcome;
    }

    /// <summary>Whether a change was refused because the records have such a one already, and for no other reason.</summary>
    public static bool IsTwice(DbUpdateException e) =>
        e.InnerException
            is SqliteException
            {
                SqliteExtendedErrorCode: SQLitePCL.raw.SQLITE_CONSTRAINT_UNIQUE or SQLitePCL.raw.SQLITE_CONSTRAINT_PRIMARYKEY,
            };

    private async Task<bool> IsLimitedAsync(Actor actor, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Users.AnyAsync(p => p.Id == actor.PersonId && p.SeesSome && !p.IsOwner, cancel);
    }

    private static Refusal? Against(Person? person, Right right) =>
        person is not { IsOff: false } ? new Refusal.NotAllowed(right)
        : person.IsOwner || right == Right.Own ? null
        : right != Right.Work ? new Refusal.NotAllowed(right)
        : person.IsReader ? new Refusal.OnlyReads()
        : null;
}
