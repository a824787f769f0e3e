using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Conventions;

/// <summary>Keeps the convention that a person is writing, so that a link, a reload or a closed browser loses nothing of it.</summary>
public sealed class KeepDraft(DeedRunner deeds, IDbContextFactory<StudioDb> contexts)
{
    /// <summary>The longest draft that is kept, in characters: as long as a convention's file may be.</summary>
    public const int MostCharacters = 4 << 20;

    /// <param name="draft">As JSON; null lets go of the one that is there.</param>
    public Task<Outcome<Done>> DoAsync(Actor actor, string? draft, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Own,
            async deed =>
            {
                var there = await deed.Db.ConventionDrafts.FirstOrDefaultAsync(d => d.PersonId == actor.PersonId, cancel);
                if (draft is null || draft.Length > MostCharacters)
                {
                    if (there is not null)
                        deed.Db.ConventionDrafts.Remove(there);
                }
                else if (there is null)
                    deed.Db.ConventionDrafts.Add(
                        new ConventionDraft
                        {
                            PersonId = actor.PersonId,
                            At = deed.Now,
                            Draft = draft,
                        }
                    );
                else
                    (there.Draft, there.At) = (draft, deed.Now);
                return Done.It;
            },
            cancel
        );

    /// <returns>Null where the person has none.</returns>
    public async Task<ConventionDraft?> OfAsync(Guid person, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.ConventionDrafts.AsNoTracking().FirstOrDefaultAsync(d => d.PersonId == person, cancel);
    }
}
