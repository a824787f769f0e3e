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

/// <param name="Sees">The projects that they see; null for all.</param>
/// <param name="Kept">How many versions.</param>
public sealed record PersonRow(
    Guid Id,
    string Name,
    string Initials,
    bool IsOwner,
    bool IsOff,
    bool IsReader,
    IReadOnlyCollection<Guid>? Sees,
    int Kept
);

public sealed record ProjectChoice(Guid Id, string Code, string Title);

public sealed class PeopleModel(StudioDb db, AddPerson addPerson, Accounts accounts, SetAccess setAccess) : PageModel
{
    public IReadOnlyList<PersonRow> All { get; private set; } = [];

    /// <summary>Those that an owner can let people into.</summary>
    public IReadOnlyList<ProjectChoice> Projects { get; private set; } = [];

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

    public async Task<IActionResult> OnPostAccessAsync(Guid person, string? sees, Guid[] projects, bool reads)
    {
        var outcome = await setAccess.DoAsync(User.Actor(), person, new Access(sees == "some", projects, reads));
        return await AfterAsync(outcome, person, p => $"{p.Name} {AccessWords(p, projects.Length)}, from now on.");
    }

    /// <summary>What somebody may see and do, as the end of a sentence about them.</summary>
    private static string AccessWords(Person person, int projects) =>
        $"{(person.IsReader ? "sees, and changes nothing in, " : "sees and works on ")}"
        + (person.SeesSome ? DisplayText.Count(projects, "project", "projects") : "all projects");

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

    private async Task LoadAsync()
    {
        var access = (await db.ProjectAccess.AsNoTracking().ToListAsync()).ToLookup(a => a.PersonId, a => a.ProjectId);
        var people = await db
            .Users.AsNoTracking()
            .OrderBy(p => p.Name)
            .Select(Person => new { Person, Kept = db.Saves.Count(s => s.KeptById == Person.Id) })
            .ToListAsync();
        All = people.ConvertAll(p => new PersonRow(
            p.Person.Id,
            p.Person.Name,
            p.Person.Initials,
            p.Person.IsOwner,
            p.Person.IsOff,
            p.Person.IsReader,
            p.Person is { SeesSome: true, IsOwner: false } ? [.. access[p.Person.Id]] : null,
            p.Kept
        ));
        Projects = await db.Projects.OrderBy(p => p.Code).Select(p => new ProjectChoice(p.Id, p.Code, p.Title)).ToListAsync();
    }
}
