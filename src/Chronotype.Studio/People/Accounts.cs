using Chronotype.Storage.Records;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

/// <summary>What a person does with their own way in, and an owner with others'. Each ends the sessions of whom it is about, at once.</summary>
public sealed class Accounts(UserManager<Person> people, Sessions sessions)
{
    /// <summary>Ends all sessions of a person, wherever they are signed in.</summary>
    public async Task EndSessionsAsync(Guid personId)
    {
        if (await FindAsync(personId) is not { } person) return;
        await people.UpdateSecurityStampAsync(person);
        sessions.Changed(personId);
    }

    /// <summary>Changes one's own password.</summary>
    public async Task<Outcome<Person>> ChangePasswordAsync(Guid personId, string current, string next)
    {
        if (await FindAsync(personId) is not { } person) return Outcome<Person>.Refused("You are not in this studio any more.");
        if (!await people.CheckPasswordAsync(person, current)) return Outcome<Person>.Refused("That is not your present password. Nothing was changed.", "current");
        if (current == next) return Outcome<Person>.Refused("That is the password that you have already. Nothing was changed.", "next");
        var result = await people.ChangePasswordAsync(person, current, next);
        sessions.Changed(personId);
        return result.Succeeded ? person : Outcome<Person>.Refused(result.Errors.First().Description, "next");
    }

    /// <summary>An owner gives somebody a new first password.</summary>
    public async Task<Outcome<Person>> ResetPasswordAsync(Guid ownerId, Guid personId, string next)
    {
        if (await OwnerMayAsync(ownerId, personId) is not { } person) return NotYours();
        if (PasswordRule.Fault(next, person) is { } fault) return Outcome<Person>.Refused(fault, "next");
        person.PasswordHash = people.PasswordHasher.HashPassword(person, next);
        await people.UpdateSecurityStampAsync(person);
        sessions.Changed(personId);
        return person;
    }

    /// <summary>An owner switches somebody off, or on again. What they made stays theirs.</summary>
    public async Task<Outcome<Person>> SwitchAsync(Guid ownerId, Guid personId, bool isOff)
    {
        if (await OwnerMayAsync(ownerId, personId) is not { } person) return NotYours();
        if (personId == ownerId) return Outcome<Person>.Refused("You cannot switch yourself off: nobody could let you in again.");
        person.IsOff = isOff;
        await people.UpdateSecurityStampAsync(person);
        sessions.Changed(personId);
        return person;
    }

    private static Outcome<Person> NotYours() => Outcome<Person>.Refused("Only the studio's owner may do that, and only with people of the studio. Nothing was changed.");

    private async Task<Person?> OwnerMayAsync(Guid ownerId, Guid personId) =>
        await FindAsync(ownerId) is { IsOwner: true, IsOff: false } ? await FindAsync(personId) : null;

    private Task<Person?> FindAsync(Guid id) => people.Users.FirstOrDefaultAsync(p => p.Id == id);
}
