using Chronotype.Core.Naming;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

public sealed record NewPerson(string Name, string Initials, string Password);

/// <summary>Adds someone to the studio.</summary>
public sealed class AddPerson(DeedRunner deeds, IPasswordHasher<Person> hasher, ILookupNormalizer normalizer)
{
    internal const int MostCharacters = 120;

    public Task<Outcome<Person>> DoAsync(Actor actor, NewPerson asked, CancellationToken cancel = default) =>
        deeds.DoAsync(actor, Right.ManagePeople, deed => WithinAsync(deed, asked, isOwner: false, cancel), cancel);

    internal async Task<Outcome<Person>> WithinAsync(Deed deed, NewPerson asked, bool isOwner, CancellationToken cancel)
    {
        var name = TypedText.Line(asked.Name);
        var initials = TypedText.Line(asked.Initials).ToUpperInvariant();
        if (name.Length is < 1 or > MostCharacters)
            return new Refusal.Length(nameof(asked.Name), 1, MostCharacters);
        if (!HandRule.AreInitials(initials))
            return new Refusal.InitialsNotLegal();
        if (await deed.Db.Users.FirstOrDefaultAsync(p => p.Initials == initials, cancel) is { } taken)
            return new Refusal.InitialsTaken(initials, taken.Name);

        var person = new Person
        {
            UserName = initials,
            NormalizedUserName = normalizer.NormalizeName(initials),
            Name = name,
            Initials = initials,
            IsOwner = isOwner,
            JoinedAt = deed.Now,
            SecurityStamp = Accounts.NewStamp(),
        };
        if (PasswordRule.Fault(asked.Password, person) is { } fault)
            return new Refusal.PasswordNotGood(fault, nameof(asked.Password));
        person.PasswordHash = hasher.HashPassword(person, asked.Password);
        deed.Db.Users.Add(person);
        return person;
    }
}
