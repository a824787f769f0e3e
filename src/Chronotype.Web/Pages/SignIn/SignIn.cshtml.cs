using Chronotype.Storage;
using Chronotype.Storage.Records;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.SignIn;

[AllowAnonymous]
public sealed class SignInModel(StudioDb db, SignInManager<Person> signIn) : PageModel
{
    public string StudioName { get; private set; } = "";
    public IReadOnlyList<Person> DemoPeople { get; private set; } = [];
    public string? Initials { get; private set; }
    public string? Fault { get; private set; }
    public string ReturnUrl { get; private set; } = "/";

    public async Task OnGetAsync(string? returnUrl) => await LoadAsync(returnUrl);

    public async Task<IActionResult> OnPostAsync(string? initials, string? password, string? returnUrl)
    {
        await LoadAsync(returnUrl);
        Initials = initials?.Trim().ToUpperInvariant();
        var result = await signIn.PasswordSignInAsync(Initials ?? "", password ?? "", isPersistent: true, lockoutOnFailure: true);
        if (result.Succeeded) return LocalRedirect(ReturnUrl);
        Fault = result.IsLockedOut
            ? "Too many tries. These initials can sign in again in five minutes."
            : "These initials and this password do not go together.";
        return Page();
    }

    public async Task<IActionResult> OnPostDemoAsync(string? initials, string? returnUrl)
    {
        await LoadAsync(returnUrl);
        var person = DemoPeople.FirstOrDefault(p => p.Initials == initials);
        if (person is null) return Page();
        await signIn.SignInAsync(person, isPersistent: true);
        return LocalRedirect(ReturnUrl);
    }

    private async Task LoadAsync(string? returnUrl)
    {
        var studio = await db.Studio.AsNoTracking().SingleAsync();
        StudioName = studio.Name;
        ReturnUrl = Url.IsLocalUrl(returnUrl) ? returnUrl : "/";
        if (studio.IsDemo) DemoPeople = await db.Users.OrderByDescending(p => p.IsOwner).ThenBy(p => p.Name).ToListAsync();
    }
}
