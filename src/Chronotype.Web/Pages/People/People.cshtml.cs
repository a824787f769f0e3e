using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.People;

public sealed record PersonRow(Guid Id, string Name, string Initials, bool IsOwner, bool IsOff, int Kept);

public sealed class PeopleModel(StudioDb db, AddPerson addPerson, Accounts accounts) : PageModel
{
    public IReadOnlyList<PersonRow> All { get; private set; } = [];
    public string? Name { get; private set; }
    public string? Initials { get; private set; }
    public string? Fault { get; private set; }

    public Notice? Notice { get; private set; }

    /// <summary>Whom the fault is about; null where it is about somebody new.</summary>
    public Guid? FaultOf { get; private set; }

    public Task OnGetAsync()
    {
        Notice = Notice.Take(TempData);
        return LoadAsync();
    }

    public async Task<IActionResult> OnPostAsync(string? name, string? initials, string? password)
    {
        var outcome = await addPerson.DoAsync(User.Actor(), new NewPerson(name ?? "", initials ?? "", password ?? ""));
        if (outcome.Done)
            return RedirectToPage();
        if (outcome.Refusal is Refusal.NotAllowed)
            return StatusCode(StatusCodes.Status403Forbidden);
        (Name, Initials, Fault) = (name, initials, RefusalWords.Of(outcome.Refusal));
        await LoadAsync();
        return Page();
    }

    public async Task<IActionResult> OnPostPasswordAsync(Guid person, string? next)
    {
        var outcome = await accounts.ResetPasswordAsync(User.Actor(), person, next ?? "");
        return await AfterAsync(
            outcome,
            person,
            p => $"{p.Name} has a new password and is signed out everywhere. Tell it to them yourself."
        );
    }

    public async Task<IActionResult> OnPostSwitchAsync(Guid person, bool off)
    {
        var outcome = await accounts.SwitchAsync(User.Actor(), person, off);
        return await AfterAsync(
            outcome,
            person,
            p =>
                off
                    ? $"{p.Name} cannot sign in any more, and is signed out everywhere. What they made stays."
                    : $"{p.Name} can sign in again."
        );
    }

    private async Task<IActionResult> AfterAsync(Outcome<Person> outcome, Guid person, Func<Person, string> done)
    {
        if (outcome.Done)
        {
            Notice.Put(TempData, new Notice(NoticeKind.Done, done(outcome.Result)));
            return RedirectToPage();
        }
        if (outcome.Refusal is Refusal.NotAllowed)
            return StatusCode(StatusCodes.Status403Forbidden);
        (Fault, FaultOf) = (RefusalWords.Of(outcome.Refusal), person);
        await LoadAsync();
        return Page();
    }

    private async Task LoadAsync() =>
        All = await db
            .Users.OrderBy(p => p.Name)
            .Select(p => new PersonRow(p.Id, p.Name, p.Initials, p.IsOwner, p.IsOff, db.Saves.Count(s => s.KeptById == p.Id)))
            .ToListAsync();
}
