using Chronotype.Core.Naming;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

/// <summary>What a person is called, and how things look to them.</summary>
public sealed record Profile(string Name, string Initials, Theme Theme, DateStyle Dates);

/// <summary>
/// What a person does with their own way in, and an owner with others'. Each ends the sessions of whom it is about, at once.
/// </summary>
public sealed class Accounts(DeedRunner deeds, IPasswordHasher<Person> hasher, ILookupNormalizer normalizer, Sessions sessions)
{
    /// <summary>Ends all of one's own sessions, wherever one is signed in.</summary>
    public Task<Outcome<Person>> EndSessionsAsync(Actor actor, CancellationToken cancel = default) =>
        ChangeAsync(actor, Right.Own, actor.PersonId, _ => null, cancel);

    /// <summary>Changes one's own password.</summary>
    public Task<Outcome<Person>> ChangePasswordAsync(Actor actor, string current, string next, CancellationToken cancel = default) =>
        ChangeAsync(
            actor,
            Right.Own,
            actor.PersonId,
            person =>
            {
                if (
                    person.PasswordHash is null
                    || hasher.VerifyHashedPassword(person, person.PasswordHash, current) == PasswordVerificationResult.Failed
                )
                    return new Refusal.PasswordWrong();
                return current == next ? new Refusal.PasswordSame() : GivePassword(person, next);
            },
            cancel
        );

    /// <summary>Changes what one is called. Names that are given from now on have the new initials; those there keep the old.</summary>
    public async Task<Outcome<Person>> ChangeProfileAsync(Actor actor, Profile asked, CancellationToken cancel = default)
    {
        var name = TypedText.Line(asked.Name);
        var initials = TypedText.Line(asked.Initials).ToUpperInvariant();
        if (name.Length is < 1 or > AddPerson.MostCharacters)
            return new Refusal.Length("Name", 1, AddPerson.MostCharacters);
        if (!HandRule.AreInitials(initials))
            return new Refusal.InitialsNotLegal();
        return await deeds.DoAsync<Person>(
            actor,
            Right.Own,
            async deed =>
            {
                if (await deed.Db.Users.FirstOrDefaultAsync(p => p.Id == actor.PersonId, cancel) is not { } person)
                    return new Refusal.NoSuchPerson();
                if (await deed.Db.Users.FirstOrDefaultAsync(p => p.Initials == initials && p.Id != person.Id, cancel) is { } taken)
                    return new Refusal.InitialsTaken(initials, taken.Name);
                (person.Name, person.Theme, person.Dates) = (name, asked.Theme, asked.Dates);
                if (person.Initials == initials)
                    return person;
                var studio = new ConventionStore(deed.Db);
                var conflict = await studio.ConflictAsync(cancel);
                (person.Initials, person.UserName, person.NormalizedUserName) = (initials, initials, normalizer.NormalizeName(initials));
                // Hands stand in names, so the convention must still read each name in one way.
                await deed.Db.SaveChangesAsync(cancel);
                if (conflict is null && await studio.ConflictAsync(cancel) is { } now)
                    return new Refusal.CodesBreakConvention(now, "Initials");
                return person;
            },
            cancel
        );
    }

    /// <summary>An owner gives somebody a new first password.</summary>
    public Task<Outcome<Person>> ResetPasswordAsync(Actor actor, Guid personId, string next, CancellationToken cancel = default) =>
        ChangeAsync(actor, Right.ManagePeople, personId, person => GivePassword(person, next), cancel);

    /// <summary>An owner switches somebody off, or on again. What they made stays theirs.</summary>
    public Task<Outcome<Person>> SwitchAsync(Actor actor, Guid personId, bool isOff, CancellationToken cancel = default) =>
        ChangeAsync(
            actor,
            Right.ManagePeople,
            personId,
            person =>
            {
                if (personId == actor.PersonId)
                    return new Refusal.NotYourself();
                person.IsOff = isOff;
                return null;
            },
            cancel
        );

    internal static string NewStamp() => Guid.NewGuid().ToString("N").ToUpperInvariant();

    private async Task<Outcome<Person>> ChangeAsync(
        Actor actor,
        Right right,
        Guid personId,
        Func<Person, Refusal?> change,
        CancellationToken cancel
    )
    {
        var outcome = await deeds.DoAsync<Person>(
            actor,
            right,
            async deed =>
            {
                if (await deed.Db.Users.FirstOrDefaultAsync(p => p.Id == personId, cancel) is not { } person)
                    return new Refusal.NoSuchPerson();
                if (change(person) is { } refusal)
                    return refusal;
                (person.SecurityStamp, person.ConcurrencyStamp) = (NewStamp(), Guid.NewGuid().ToString());
                return person;
            },
            cancel
        );
        if (outcome.Done)
            await sessions.ChangedAsync(personId, CancellationToken.None);
        return outcome;
    }

    private Refusal? GivePassword(Person person, string next)
    {
        if (PasswordRule.Fault(next, person) is { } fault)
            return new Refusal.PasswordNotGood(fault, "next");
        person.PasswordHash = hasher.HashPassword(person, next);
        return null;
    }
}
