using System.Security.Claims;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Options;

namespace Chronotype.Web.Security;

/// <summary>
/// What a signed-in person's cookie says besides who they are, so that every page can show it without asking the database.
/// </summary>
public sealed class PersonClaims(UserManager<Person> people, IOptions<IdentityOptions> options)
    : UserClaimsPrincipalFactory<Person>(people, options)
{
    protected override async Task<ClaimsIdentity> GenerateClaimsAsync(Person person)
    {
        var identity = await base.GenerateClaimsAsync(person);
        identity.AddClaim(new Claim("initials", person.Initials));
        identity.AddClaim(new Claim("full-name", person.Name));
        identity.AddClaim(new Claim("theme", person.Theme.ToString()));
        identity.AddClaim(new Claim("dates", person.Dates.ToString()));
        if (person.IsOwner)
            identity.AddClaim(new Claim("owner", "yes"));
        return identity;
    }
}

public static class SignedIn
{
    /// <exception cref="InvalidOperationException">Nobody is signed in; pages that call this need sign-in.</exception>
    public static Guid PersonId(this ClaimsPrincipal user) =>
        Guid.Parse(user.FindFirstValue(ClaimTypes.NameIdentifier) ?? throw new InvalidOperationException("Nobody is signed in."));

    public static string Initials(this ClaimsPrincipal user) => user.FindFirstValue("initials") ?? "";

    public static string FullName(this ClaimsPrincipal user) => user.FindFirstValue("full-name") ?? "";

    /// <summary>How the rooms look to whoever is here; as the system says where nobody is signed in.</summary>
    public static Theme Theme(this ClaimsPrincipal user) =>
        Enum.TryParse<Theme>(user.FindFirstValue("theme"), out var theme) ? theme : Storage.Entities.Theme.System;

    public static DateStyle Dates(this ClaimsPrincipal user) =>
        Enum.TryParse<DateStyle>(user.FindFirstValue("dates"), out var dates) ? dates : DateStyle.DayFirst;

    /// <summary>The browser's own session; null where it began before sessions were told apart.</summary>
    public static Guid? SessionId(this ClaimsPrincipal user) => Guid.TryParse(user.FindFirstValue(SessionClaim), out var id) ? id : null;

    public const string SessionClaim = "session";

    /// <summary>Who does what this request asks for.</summary>
    public static Actor Actor(this ClaimsPrincipal user) =>
        Studio.Deeds.Actor.Person(user.PersonId(), Guid.TryParse(user.FindFirstValue(KeyClaim), out var key) ? key : null);

    /// <summary>The device key that a program came with.</summary>
    public const string KeyClaim = "key";

    public static bool IsOwner(this ClaimsPrincipal user) => user.HasClaim("owner", "yes");
}
