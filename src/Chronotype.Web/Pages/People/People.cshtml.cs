using Chronotype.Storage;
using Chronotype.Studio.People;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.People;

public sealed record PersonRow(string Name, string Initials, bool IsOwner, int Kept);

public sealed class PeopleModel(StudioDb db, AddPerson addPerson) : PageModel
{
    public IReadOnlyList<PersonRow> All { get; private set; } = [];
    public string? Name { get; private set; }
    public string? Initials { get; private set; }
    public string? Fault { get; private set; }

    public Task OnGetAsync() => LoadAsync();

    public async Task<IActionResult> OnPostAsync(string? name, string? initials, string? password)
    {
        if (!User.IsOwner()) return StatusCode(StatusCodes.Status403Forbidden);
        var outcome = await addPerson.DoAsync(new NewPerson(name ?? "", initials ?? "", password ?? ""));
        if (outcome.Done) return RedirectToPage();
        (Name, Initials, Fault) = (name, initials, outcome.Refusal);
        await LoadAsync();
        return Page();
    }

    private async Task LoadAsync() => All = await db.Users.OrderBy(p => p.Name)
        .Select(p => new PersonRow(p.Name, p.Initials, p.IsOwner, db.Saves.Count(s => s.KeptById == p.Id))).ToListAsync();
}
