using Chronotype.Core.Naming;
using Chronotype.Storage.Records;
using Microsoft.AspNetCore.Identity;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

public sealed record NewPerson(string Name, string Initials, string Password);

/// <summary>Adds someone to the studio.</summary>
public sealed class AddPerson(UserManager<Person> people, TimeProvider time)
{
    public async Task<Outcome<Person>> DoAsync(NewPerson asked, bool isOwner = false, CancellationToken cancel = default)
    {
        var name = TypedText.Line(asked.Name);
        var initials = TypedText.Line(asked.Initials).ToUpperInvariant();
        if (name.Length is < 1 or > 120) return Outcome<Person>.Refused("A name has 1 to 120 characters.", nameof(asked.Name));
        if (!HandRule.AreInitials(initials)) return Outcome<Person>.Refused("Initials are 2 to 4 letters, A to Z: they stand in the names of what you keep.", nameof(asked.Initials));
        if (await people.Users.FirstOrDefaultAsync(p => p.Initials == initials, cancel) is { } taken)
            return Outcome<Person>.Refused($"{initials} are the initials of {taken.Name}. Choose others.", nameof(asked.Initials));

        var person = new Person { UserName = initials, Name = name, Initials = initials, IsOwner = isOwner, JoinedAt = time.GetUtcNow() };
        IdentityResult result;
        try
        {
            result = await people.CreateAsync(person, asked.Password);
        }
        catch (DbUpdateException e) when (e.InnerException is SqliteException { SqliteErrorCode: SQLitePCL.raw.SQLITE_CONSTRAINT })
        {
            // Somebody else was added under them in this very moment.
            return Outcome<Person>.Refused($"{initials} have just been taken by somebody else. Choose others.", nameof(asked.Initials));
        }
        return result.Succeeded ? person : Outcome<Person>.Refused(result.Errors.First().Description, nameof(asked.Password));
    }
}
