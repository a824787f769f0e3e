using Chronotype.Core.Structure;
using Chronotype.Storage;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

public sealed record ProjectRow(string Code, string Title, string Client, string Plan, int Pieces, long Size);

public sealed class ProjectsModel(StudioDb db) : PageModel
{
    public IReadOnlyList<ProjectRow> All { get; private set; } = [];

    public async Task OnGetAsync(CancellationToken cancel)
    {
        var rows = await db
            .Projects.AsNoTracking()
            .OrderByDescending(p => p.StartedAt)
            .Select(p => new
            {
                p.Code,
                p.Title,
                Client = p.Client.Name,
                p.Plan,
                Pieces = p.Pieces.Count,
                Size = p.Pieces.SelectMany(x => x.Saves).Sum(s => s.Size),
            })
            .ToListAsync(cancel);
        All = rows.ConvertAll(p => new ProjectRow(p.Code, p.Title, p.Client, FolderPlan.Of(p.Plan).Title, p.Pieces, p.Size));
    }
}
