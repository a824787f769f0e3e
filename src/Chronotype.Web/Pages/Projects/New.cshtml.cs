using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

/// <summary>What an earlier project has that can come along.</summary>
public sealed record ComesAlong(
    Guid Id,
    string Code,
    string Title,
    FolderPlan AsItStands,
    int Assets,
    IReadOnlyList<(Guid Id, string Name, bool IsTemplate)> Pieces
);

public sealed class NewModel(
    StudioDb db,
    StartProject startProject,
    PlanStore plans,
    FindPiece findPiece,
    ConventionStore studio,
    StudioClock clock
) : PageModel
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

    /// <summary>The code of the earlier project that it begins like; empty for none.</summary>
    [BindProperty(SupportsGet = true, Name = "from")]
    public string? From { get; set; }

    [BindProperty]
    public bool Folders { get; set; } = true;

    [BindProperty]
    public bool Assets { get; set; } = true;

    [BindProperty]
    public bool Spec { get; set; } = true;

    [BindProperty]
    public bool Convention { get; set; } = true;

    /// <summary>The pieces that come along.</summary>
    [BindProperty]
    public List<Guid> Pieces { get; set; } = [];

    /// <summary>Stands for the earlier project's own folders among those of plans.</summary>
    private const string LikeEarlier = "-";

    public IReadOnlyList<FolderPlan> Plans { get; private set; } = [];
    public ComesAlong? Earlier { get; private set; }
    public IReadOnlyList<(string Code, string Title)> Projects { get; private set; } = [];
    public IReadOnlyList<(string Code, string Name)> Clients { get; private set; } = [];
    public string? Fault { get; private set; }

    /// <summary>A first version's name, as names of the project will be.</summary>
    public FormattedName? Example { get; private set; }

    /// <summary>The slot that holds the client's code; null where names have none.</summary>
    public string? ClientSlot { get; private set; }
    public string? Field { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        await LoadAsync(cancel);
        Pieces = Earlier is null ? [] : [.. Earlier.Pieces.Where(p => p.IsTemplate).Select(p => p.Id)];
    }

    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        var from = From is { Length: > 0 } ? await findPiece.ProjectAsync(From, cancel) : null;
        var outcome = await startProject.DoAsync(
            User.Actor(),
            new NewProject(
                Code ?? "",
                Title ?? "",
                ClientName ?? "",
                ClientCode ?? "",
                Plan ?? "",
                FirstNumber,
                from is { } id ? new EarlierProject(id, Folders, Assets, Spec, Convention, Pieces) : null
            ),
            cancel
        );
        if (outcome.Done)
            return Redirect($"/projects/{outcome.Result.Code}");
        (Fault, Field) = (RefusalWords.Of(outcome.Refusal), outcome.Refusal.Field);
        await LoadAsync(cancel);
        return Page();
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        Plans = [.. (await plans.AllAsync(cancel)).Select(p => p.Plan)];
        if (Plans.All(p => p.Key != Plan))
            Plan = Plans[0].Key;
        Projects = (
            await db.Projects.OrderByDescending(p => p.StartedAt).Select(p => new { p.Code, p.Title }).ToListAsync(cancel)
        ).ConvertAll(p => (p.Code, p.Title));
        Earlier = From is { Length: > 0 } && await findPiece.ProjectAsync(From, cancel) is { } id ? await EarlierAsync(id, cancel) : null;
        var convention = ConventionStore.Read(await studio.JsonAsync(cancel));
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

    private async Task<ComesAlong> EarlierAsync(Guid id, CancellationToken cancel)
    {
        var project = await db.Projects.AsNoTracking().FirstAsync(p => p.Id == id, cancel);
        var there = db.Entries.Where(e => e.ProjectId == id && e.DeletedAt == null);
        return new ComesAlong(
            id,
            project.Code,
            project.Title,
            await plans.AsItStandsAsync(project, cancel) with
            {
                Key = LikeEarlier,
                Title = $"As in {project.Code}",
            },
            await there.CountAsync(e => e.Kind == EntryKind.OwnFile && e.Role == FolderRole.Assets, cancel),
            (
                await db
                    .Pieces.Where(p => p.ProjectId == id && p.HighestSequence > 0)
                    .OrderByDescending(p => p.TemplateSince != null)
                    .ThenBy(p => p.CurrentName)
                    .Select(p => new
                    {
                        p.Id,
                        p.CurrentName,
                        IsTemplate = p.TemplateSince != null,
                    })
                    .ToListAsync(cancel)
            ).ConvertAll(p => (p.Id, p.CurrentName, p.IsTemplate))
        );
    }
}
