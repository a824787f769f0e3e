using System.Security.Claims;
using Chronotype.Storage.Entities;
using Chronotype.Studio.People;
using Microsoft.AspNetCore.Identity;

namespace Chronotype.Web.Security;

/// <summary>Signs a person in, in this browser, as a session of its own that can be seen and ended from elsewhere.</summary>
public sealed class SignInNow(SignInManager<Person> signIn, Sessions sessions)
{
    public async Task DoAsync(HttpContext context, Person person)
    {
        var session = await sessions.BeginAsync(
            person.Id,
            context.Connection.RemoteIpAddress?.ToString() ?? "",
            context.Request.Headers.UserAgent.ToString()
        );
        await SignInAsync(person, session.Id);
    }

    /// <summary>The same session, with what is new about the person.</summary>
    public async Task RenewAsync(ClaimsPrincipal user, Person person) => await SignInAsync(person, user.SessionId());

    private Task SignInAsync(Person person, Guid? session) =>
        signIn.SignInWithClaimsAsync(
            person,
            isPersistent: true,
            session is { } id ? [new Claim(SignedIn.SessionClaim, id.ToString())] : []
        );
}
