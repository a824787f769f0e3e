using Chronotype.Storage.Entities;
using Chronotype.Studio.People;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Chronotype.Web.Pages.SignIn;

public sealed class SignOutModel(SignInManager<Person> signIn, Accounts accounts) : PageModel
{
    public IActionResult OnGet() => LocalRedirect("/");

    public async Task<IActionResult> OnPostAsync()
    {
        // Everywhere: who signs out does not think of the machine in the other room.
        await accounts.EndSessionsAsync(User.Actor());
        await signIn.SignOutAsync();
        return LocalRedirect("/sign-in");
    }
}
