using Chronotype.Studio.People;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Chronotype.Web.Pages.SignIn;

[AllowAnonymous]
public sealed class WelcomeModel(FoundStudio found, SignInNow signInNow) : PageModel
{
    public string? StudioName { get; private set; }
    public string? Name { get; private set; }
    public string? Initials { get; private set; }
    public string? Fault { get; private set; }
    public string? Field { get; private set; }

    public async Task<IActionResult> OnGetAsync() => await found.IsFoundedAsync() ? LocalRedirect("/") : Page();

    public async Task<IActionResult> OnPostAsync(string? studioName, string? name, string? initials, string? password)
    {
        (StudioName, Name, Initials) = (studioName, name, initials);
        var outcome = await found.DoAsync(studioName ?? "", new NewPerson(name ?? "", initials ?? "", password ?? ""));
        if (!outcome.Done)
        {
            (Fault, Field) = (RefusalWords.Of(outcome.Refusal), outcome.Refusal.Field);
            return Page();
        }
        await signInNow.DoAsync(HttpContext, outcome.Result);
        return LocalRedirect("/");
    }
}
