using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Web.Pages.Projects;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Pages.Tree;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Uses;

/// <summary>A project's web: who uses what, drawn and as a table.</summary>
public sealed class UsesModel(
    StudioDb db,
    FindPiece findPiece,
    ProjectWeb projectWeb,
    ProjectLinks projectLinks,
    ProjectHealth health,
    WhoUses whoUses,
    StudioClock clock
) : PageModel
{
    /// <summary>The node that is looked at.</summary>
    [BindProperty(SupportsGet = true, Name = "at")]
    public string? At { get; set; }

    /// <summary>Only what has to do with a piece, by its current name; empty for all.</summary>
    [BindProperty(SupportsGet = true, Name = "piece")]
    public string? Piece { get; set; }

    [BindProperty(SupportsGet = true, Name = "state")]
    public WebState State { get; set; }

    /// <summary>As a table instead of a drawing.</summary>
    [BindProperty(SupportsGet = true, Name = "table")]
    public bool IsTable { get; set; }

    public ProjectHead Head { get; private set; } = null!;
    public WebView Web { get; private set; } = null!;
    public HealthReport Health { get; private set; } = null!;

    /// <summary>The file that is looked at; null where that is none of the project's own.</summary>
    public FilePanel? Panel { get; private set; }

    public IReadOnlyList<string> Pieces { get; private set; } = [];
    public DateTimeOffset Now => clock.Now;

    /// <summary>The node that is looked at, with what it uses and what uses it.</summary>
    public ShownNode? Chosen => Web.Chosen is { } key ? Web.Nodes.First(k => k.Key == key) : null;

    public IEnumerable<(ShownNode Node, WebEdge Edge)> UsedBy(string key) =>
        Web.Edges.Where(t => t.From == key).Select(t => (Web.Nodes.First(k => k.Key == t.To), t));

    public IEnumerable<(ShownNode Node, WebEdge Edge)> UsesOf(string key) =>
        Web.Edges.Where(t => t.To == key).Select(t => (Web.Nodes.First(k => k.Key == t.From), t));

    public async Task<IActionResult> OnGetAsync(string project, CancellationToken cancel)
    {
        if (await findPiece.WholeProjectAsync(project, cancel) is not { } record)
            return NotFound();
        if (record.Code != project)
            return Redirect(Places.OfWeb(record.Code));
        if (string.IsNullOrEmpty(Piece))
            Piece = null;
        var current = await projectLinks.LoadAsync(record.Id, cancel);
        var web = await projectWeb.LoadAsync(record.Id, current, cancel);
        Health = await health.LookAsync(record, current, cancel);
        Web = await WebView.LoadAsync(db, clock, record, web, At, Piece, State, Health.OffSpec, cancel);
        Pieces = [.. web.Nodes.Where(k => k.Kind == NodeKind.Piece).Select(k => k.Name).Order(StringComparer.Ordinal)];
        Head = await ProjectHead.LoadAsync(db, record, ProjectView.Web, cancel);
        if (Chosen is { Record: { Kind: NodeKind.File, EntryId: { } file } })
            Panel = await FilePanel.LoadAsync(db, whoUses, clock, record, file, cancel);
        return Page();
    }

    /// <summary>The same page with another node looked at.</summary>
    public string AddressOf(ShownNode node) => With(("at", node.Key));

    /// <summary>The same page with something changed.</summary>
    public string With(params (string Name, string? Value)[] changed)
    {
        var query = new Dictionary<string, string?>
        {
            ["at"] = Web.Chosen,
            ["piece"] = Piece,
            ["state"] = State == WebState.All ? null : State.ToString(),
            ["table"] = IsTable ? "true" : null,
        };
        foreach (var (name, value) in changed)
            query[name] = value;
        return $"/web/{Uri.EscapeDataString(Head.Record.Code)}{QueryString.Create(query.Where(q => q.Value is not null))}";
    }
}
