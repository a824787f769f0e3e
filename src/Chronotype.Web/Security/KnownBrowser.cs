using Microsoft.AspNetCore.DataProtection;

namespace Chronotype.Web.Security;

/// <summary>Remembers, in the browser itself, who signed in from it, so that somebody else's guesses do not slow them down.</summary>
public sealed class KnownBrowser(IDataProtectionProvider protection)
{
    private const string Cookie = "chronotype-known";
    private static readonly TimeSpan Kept = TimeSpan.FromDays(365);

    private readonly ITimeLimitedDataProtector protector = protection
        .CreateProtector("Chronotype.KnownBrowser")
        .ToTimeLimitedDataProtector();

    /// <returns>What tells this browser from others, where this person signed in from it before; else null.</returns>
    public string? Of(HttpContext context, string initials)
    {
        if (!context.Request.Cookies.TryGetValue(Cookie, out var value) || value.Length > 2000)
            return null;
        try
        {
            var said = protector.Unprotect(value);
            return said.StartsWith($"{initials} ", StringComparison.Ordinal) ? said : null;
        }
        catch (System.Security.Cryptography.CryptographicException)
        {
            return null;
        }
    }

    public void Remember(HttpContext context, string initials) =>
        context.Response.Cookies.Append(
            Cookie,
            protector.Protect($"{initials} {Guid.NewGuid():N}", Kept),
            new CookieOptions
            {
                HttpOnly = true,
                SameSite = SameSiteMode.Strict,
                Secure = context.Request.IsHttps,
                MaxAge = Kept,
                IsEssential = true,
            }
        );
}
