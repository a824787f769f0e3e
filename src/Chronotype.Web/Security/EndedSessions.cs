using System.Security.Claims;
using Chronotype.Studio.People;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Options;

namespace Chronotype.Web.Security;

/// <summary>Refuses, at every request, a session that was ended somewhere else.</summary>
public static class EndedSessions
{
    public static async Task RefuseAsync(CookieValidatePrincipalContext context)
    {
        var services = context.HttpContext.RequestServices;
        var stamp = context.Principal?.FindFirstValue(
            services.GetRequiredService<IOptions<IdentityOptions>>().Value.ClaimsIdentity.SecurityStampClaimType
        );
        if (
            Guid.TryParse(context.Principal?.FindFirstValue(ClaimTypes.NameIdentifier), out var person)
            && await services
                .GetRequiredService<Sessions>()
                .CountsAsync(
                    person,
                    stamp,
                    context.Principal?.SessionId(),
                    context.HttpContext.Connection.RemoteIpAddress?.ToString() ?? "",
                    context.HttpContext.RequestAborted
                )
        )
            return;
        context.RejectPrincipal();
        await context.HttpContext.SignOutAsync(IdentityConstants.ApplicationScheme);
    }
}
