using System.Security.Claims;
using System.Text;
using System.Text.Encodings.Web;
using Chronotype.Studio.People;
using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;

namespace Chronotype.Web.Security;

/// <summary>Lets programs in by a person's initials and one of their device keys (RFC 7617, Basic).</summary>
public sealed class DeviceKeyHandler(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory log,
    UrlEncoder encoder,
    DeviceKeys keys
) : AuthenticationHandler<AuthenticationSchemeOptions>(options, log, encoder)
{
    public const string Name = "DeviceKey";

    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        var header = Request.Headers.Authorization.ToString();
        if (!header.StartsWith("Basic ", StringComparison.OrdinalIgnoreCase))
            return AuthenticateResult.NoResult();
        string[] given;
        try
        {
            given = Encoding.UTF8.GetString(Convert.FromBase64String(header[6..].Trim())).Split(':', 2);
        }
        catch (FormatException)
        {
            return AuthenticateResult.Fail("This is no name and key.");
        }
        if (
            given is not [var initials, var secret]
            || secret.Length > 200
            || await keys.OwnerAsync(
                initials.Trim(),
                secret,
                Context.Connection.RemoteIpAddress?.ToString() ?? "",
                Request.Headers.UserAgent.ToString(),
                Context.RequestAborted
            )
                is not var (person, key)
        )
            return AuthenticateResult.Fail("The key counts for nobody.");
        var identity = new ClaimsIdentity(
            [
                new Claim(ClaimTypes.NameIdentifier, person.Id.ToString()),
                new Claim("initials", person.Initials),
                new Claim("full-name", person.Name),
                new Claim(SignedIn.KeyClaim, key.ToString()),
            ],
            Name
        );
        return AuthenticateResult.Success(new AuthenticationTicket(new ClaimsPrincipal(identity), Name));
    }

    protected override async Task HandleChallengeAsync(AuthenticationProperties properties)
    {
        Response.StatusCode = StatusCodes.Status401Unauthorized;
        Response.Headers.WWWAuthenticate = "Basic realm=\"Chronotype\", charset=\"UTF-8\"";
        await Response.WriteAsync("Sign in with your initials and a device key of yours; they are made on your own page, /me.\n");
    }
}
