using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Studio;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Projects;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

public sealed class NewModel(StudioDb db, StartProject startProject, ConventionStore studio, StudioClock clock) : PageModel
{
    [BindProperty]
    public string? Code { get; set; }

    [BindProperty]
    public string? Title { get; set; }

    [BindProperty]
    public string? ClientName { get; set; }

    [BindProperty]
    public string? ClientCode { get; set; }

    [BindProperty]
    public string? Plan { get; set; } = "print";

    /// <summary>0 or 1; as the studio's convention says until somebody chooses.</summary>
    [BindProperty]
    public int? FirstNumber { get; set; }

    public IReadOnlyList<(string Code, string Name)> Clients { get; private set; } = [];
    public string? Fault { get; private set; }

    /// <summary>A first version's name, as names of the project will be.</summary>
    public FormattedName? Example { get; private set; }

    /// <summary>The slot that holds the client's code; null where names have none.</summary>
    public string? ClientSlot { get; private set; }
    public string? Field { get; private set; }

    public Task OnGetAsync() => LoadAsync();

    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        var outcome = await startProject.DoAsync(
            User.Actor(),
            new NewProject(Code ?? "", Title ?? "", ClientName ?? "", ClientCode ?? "", Plan ?? "", FirstNumber),
            cancel
        );
        if (outcome.Done)
            return Redirect($"/projects/{outcome.Result.Code}");
        (Fault, Field) = (RefusalWords.Of(outcome.Refusal), outcome.Refusal.Field);
        await LoadAsync();
        return Page();
    }

    private async Task LoadAsync()
    {
        var convention = ConventionStore.Read(await studio.JsonAsync());
        FirstNumber ??= convention.Version.Start;
        var start = FirstNumber is 0 ? 0 : 1;
        var piece = new ExamplePiece(
            null,
            ClientCode is { Length: > 0 } typed ? typed.ToUpperInvariant() : "SMT",
            "TIDES",
            new Dictionary<string, string> { ["subject"] = "tide-poster", ["function"] = "key" },
            User.Initials(),
            start,
            1,
            clock.Today,
            ""
        );
        Example = piece.Name(convention.StartingAt(start), NameForm.Working);
        ClientSlot = convention.Form(NameForm.Working).FirstOrDefault(s => s.Rule is CodeRule { List: ConventionStore.ClientList })?.Label;
        Clients = (await db.Clients.OrderBy(c => c.Name).Select(c => new { c.Code, c.Name }).ToListAsync()).ConvertAll(c =>
            (c.Code, c.Name)
        );
    }
}
