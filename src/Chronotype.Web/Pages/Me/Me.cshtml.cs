using Chronotype.Storage.Entities;
using Chronotype.Studio.People;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Chronotype.Web.Pages.Me;

public sealed class MeModel(Accounts accounts, SignInManager<Person> signIn) : PageModel
{
    public Notice? Notice { get; private set; }
    public string? Fault { get; private set; }
    public string? Field { get; private set; }

    public void OnGet() => Notice = Notice.Take(TempData);

    public async Task<IActionResult> OnPostAsync(string? current, string? next, string? again)
    {
        if (next != again)
            return Refused("The new password was typed in two different ways. Nothing was changed.", "again");
        var outcome = await accounts.ChangePasswordAsync(User.Actor(), current ?? "", next ?? "");
        if (!outcome.Done)
            return Refused(RefusalWords.Of(outcome.Refusal), outcome.Refusal.Field);
        // All sessions ended with the old password; this one goes on with the new.
        await signIn.SignInAsync(outcome.Result, isPersistent: true);
        Notice.Put(
            TempData,
            new Notice(NoticeKind.Done, "Your password is changed. Wherever else you were signed in, you are signed out now.")
        );
        return RedirectToPage();
    }

    private PageResult Refused(string sentence, string? field)
    {
        (Fault, Field) = (sentence, field);
        return Page();
    }
}
