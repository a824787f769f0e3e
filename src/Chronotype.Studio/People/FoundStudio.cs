using Chronotype.Storage;
using Chronotype.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

/// <summary>Makes an empty studio's owner.</summary>
public sealed class FoundStudio(StudioDb db, AddPerson addPerson)
{
    public async Task<bool> IsFoundedAsync(CancellationToken cancel = default) => await db.Studio.AnyAsync(cancel);

    public async Task<Outcome<Person>> DoAsync(string studioName, NewPerson owner, bool isDemo = false, CancellationToken cancel = default)
    {
        var name = TypedText.Line(studioName);
        if (name.Length is < 1 or > 120) return Outcome<Person>.Refused("A studio's name has 1 to 120 characters.", nameof(studioName));
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        // Inside the transaction: of two first visits only one makes the owner.
        if (await IsFoundedAsync(cancel)) return Outcome<Person>.Refused("This studio has its owner already. Sign in instead.");
        db.Studio.Add(new StudioRecord { Name = name, IsDemo = isDemo });
        var outcome = await addPerson.DoAsync(owner, isOwner: true, cancel);
        if (outcome.Done) await transaction.CommitAsync(cancel);
        return outcome;
    }
}
