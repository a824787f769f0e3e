using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

/// <summary>Makes an empty studio's owner. Nobody is there yet who could be asked for a right to it.</summary>
public sealed class FoundStudio(DeedRunner deeds, IDbContextFactory<StudioDb> contexts, AddPerson addPerson)
{
    public async Task<bool> IsFoundedAsync(CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Studio.AnyAsync(cancel);
    }

    public Task<Outcome<Person>> DoAsync(string studioName, NewPerson owner, bool isDemo = false, CancellationToken cancel = default) =>
        deeds.DoAsync<Person>(
            Actor.Studio,
            Right.ManagePeople,
            async deed =>
            {
                var name = TypedText.Line(studioName);
                if (name.Length is < 1 or > AddPerson.MostCharacters)
                    return new Refusal.Length(nameof(studioName), 1, AddPerson.MostCharacters);
                // Within the deed: of two first visits only one makes the owner.
                if (await deed.Db.Studio.AnyAsync(cancel))
                    return new Refusal.HasOwner();
                deed.Db.Studio.Add(new StudioRecord { Name = name, IsDemo = isDemo });
                return await addPerson.WithinAsync(deed, owner, isOwner: true, cancel);
            },
            cancel
        );
}
