using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.SignIn;

[AllowAnonymous]
public sealed class SignInModel(StudioDb db, SignInManager<Person> signIn, SignInNow signInNow, SignInPace pace, KnownBrowser browser)
    : PageModel
{
    public string StudioName { get; private set; } = "";
    public IReadOnlyList<Person> DemoPeople { get; private set; } = [];
    public string? Initials { get; private set; }
    public string? Fault { get; private set; }
    public string ReturnUrl { get; private set; } = "/";

    public async Task OnGetAsync(string? returnUrl) => await LoadAsync(returnUrl);

    public async Task<IActionResult> OnPostAsync(string? initials, string? password, string? returnUrl, CancellationToken cancel)
    {
        await LoadAsync(returnUrl);
        Initials = TypedText.Cut(TypedText.Line(initials).ToUpperInvariant(), 16);
        using var turn = await pace.WaitAsync(HttpContext.Connection.RemoteIpAddress, Initials, browser.Of(HttpContext, Initials), cancel);
        if (turn is null)
        {
            Fault = "Very many tries come from where you are. Nobody is locked out: wait a moment and try again.";
            Response.StatusCode = StatusCodes.Status429TooManyRequests;
            return Page();
        }
        // Initials that nobody has take as long as those that somebody has.
        var person = await signIn.UserManager.FindByNameAsync(Initials);
        var isRight = await signIn.UserManager.CheckPasswordAsync(person ?? Nobody, TypedText.Cut(password ?? "", PasswordRule.MaxLength));
        if (person is not { IsOff: false } || !isRight)
        {
            turn.Failed();
            Fault = "These initials and this password do not go together.";
            return Page();
        }
        turn.Succeeded();
        await signInNow.DoAsync(HttpContext, person);
        browser.Remember(HttpContext, Initials);
        return LocalRedirect(ReturnUrl);
    }

    private static readonly Person Nobody = new()
    {
        Name = "",
        Initials = "",
        PasswordHash = new PasswordHasher<Person>().HashPassword(null!, Guid.NewGuid().ToString()),
    };

    public async Task<IActionResult> OnPostDemoAsync(string? initials, string? returnUrl)
    {
        await LoadAsync(returnUrl);
        var person = DemoPeople.FirstOrDefault(p => p.Initials == initials);
        if (person is null)
            return Page();
        await signInNow.DoAsync(HttpContext, person);
        return LocalRedirect(ReturnUrl);
    }

    private async Task LoadAsync(string? returnUrl)
    {
        var studio = await db.Studio.AsNoTracking().SingleAsync();
        StudioName = studio.Name;
        ReturnUrl = Url.IsLocalUrl(returnUrl) ? returnUrl : "/";
        if (studio.IsDemo)
            DemoPeople = await db.Users.Where(p => !p.IsOff).OrderByDescending(p => p.IsOwner).ThenBy(p => p.Name).ToListAsync();
    }
}
