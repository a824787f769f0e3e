using Chronotype.Storage;
using Chronotype.Studio.Projects;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

public sealed class NewModel(StudioDb db, StartProject startProject) : PageModel
{
    [BindProperty] public string? Code { get; set; }
    [BindProperty] public string? Title { get; set; }
    [BindProperty] public string? ClientName { get; set; }
    [BindProperty] public string? ClientCode { get; set; }
    [BindProperty] public string? Plan { get; set; } = "print";
    [BindProperty] public int FirstNumber { get; set; } = 1;
    public IReadOnlyList<(string Code, string Name)> Clients { get; private set; } = [];
    public string? Fault { get; private set; }
    public string? Field { get; private set; }

    public Task OnGetAsync() => LoadAsync();

    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        var outcome = await startProject.DoAsync(
            new NewProject(Code ?? "", Title ?? "", ClientName ?? "", ClientCode ?? "", Plan ?? "", FirstNumber), User.PersonId(), cancel);
        if (outcome.Done) return Redirect($"/projects/{outcome.Result.Code}");
        (Fault, Field) = (outcome.Refusal, outcome.Field);
        await LoadAsync();
        return Page();
    }

    private async Task LoadAsync() =>
        Clients = (await db.Clients.OrderBy(c => c.Name).Select(c => new { c.Code, c.Name }).ToListAsync()).ConvertAll(c => (c.Code, c.Name));
}
