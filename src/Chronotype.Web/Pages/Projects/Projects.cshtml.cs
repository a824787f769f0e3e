using Chronotype.Storage;
using Chronotype.Studio;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Web.Pages.Shared;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

/// <summary>A project as its list shows it.</summary>
/// <param name="LastAt">When something of it was last worked on.</param>
/// <param name="AtRisk">How many of its pieces are not all kept.</param>
/// <param name="Faces">The pieces that were worked on last, with a picture of each that has one.</param>
public sealed record ProjectRow(
    string Code,
    string Title,
    string Client,
    string Plan,
    int Pieces,
    DateTimeOffset LastAt,
    string? LastBy,
    string? LastPiece,
    int AtRisk,
    IReadOnlyList<PieceCard> Faces
);

public sealed class ProjectsModel(StudioDb db, StudioClock clock) : PageModel
{
    private const int MostFaces = 4;

    /// <summary>Whether what was put away is shown, and nothing else.</summary>
    [BindProperty(SupportsGet = true, Name = "away")]
    public bool IsAway { get; set; }

    public IReadOnlyList<ProjectRow> All { get; private set; } = [];
    public int Away { get; private set; }
    public int Deleted { get; private set; }
    public Notice? Notice { get; private set; }
    public DateTimeOffset Now => clock.Now;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Notice = Notice.Take(TempData);
        Away = await db.Projects.CountAsync(p => p.PutAwayAt != null, cancel);
        Deleted =
            await db.Projects.WithDeleted().CountAsync(p => p.DeletedAt != null, cancel)
            + await db.Pieces.WithDeleted().CountAsync(p => p.DeletedAt != null, cancel)
            + await db.Entries.CountAsync(
                e => e.DeletedAt != null && e.PieceId == null && db.Projects.Any(p => p.Id == e.ProjectId),
                cancel
            );
        var projects = db.Projects.Where(p => p.PutAwayAt != null == IsAway);
        var rows = await projects
            .AsNoTracking()
            .Select(p => new
            {
                p.Id,
                p.Code,
                p.Title,
                Client = p.Client.Name,
                p.Plan,
                p.PlanFile,
                p.StartedAt,
                Pieces = p.Pieces.Count,
            })
            .ToListAsync(cancel);
        var pieces = db.Pieces.Where(i => projects.Any(p => p.Id == i.ProjectId) && i.PutAwayAt == null);
        var worked = await pieces
            .Select(i => new
            {
                i.Id,
                i.ProjectId,
                i.CurrentName,
                Last = i
                    .Saves.OrderByDescending(s => s.Sequence)
                    .Select(s => new { At = s.KeptAt ?? s.ArrivedAt, By = s.KeptById ?? s.ArrivedById })
                    .FirstOrDefault(),
            })
            .ToListAsync(cancel);
        var ofProject = worked.Where(w => w.Last is not null).OrderByDescending(w => w.Last!.At).ToLookup(w => w.ProjectId);
        var shown = ofProject.SelectMany(p => p.Take(MostFaces).Select(w => w.Id)).ToList();
        var cards = (await PieceCards.LoadAsync(db, shown, withBars: false, cancel)).ToDictionary(c => c.Id);
        var risky = (
            await pieces.AtRisk().GroupBy(p => p.ProjectId).Select(g => new { g.Key, Count = g.Count() }).ToListAsync(cancel)
        ).ToDictionary(g => g.Key, g => g.Count);
        var hands = await db.Users.ToDictionaryAsync(p => p.Id, p => p.Initials, cancel);
        All =
        [
            .. rows.Select(p =>
                {
                    var last = ofProject[p.Id].FirstOrDefault();
                    return new ProjectRow(
                        p.Code,
                        p.Title,
                        p.Client,
                        PlanStore.Of(p.Plan, p.PlanFile).Title,
                        p.Pieces,
                        clock.At(last?.Last!.At ?? p.StartedAt),
                        last is null ? null : hands.GetValueOrDefault(last.Last!.By),
                        last?.CurrentName,
                        risky.GetValueOrDefault(p.Id),
                        [
                            .. ofProject[p.Id]
                                .Take(MostFaces)
                                .Select(w => cards.GetValueOrDefault(w.Id))
                                .OfType<PieceCard>()
                                .Where(c => c.HasFace),
                        ]
                    );
                })
                .OrderByDescending(p => p.LastAt),
        ];
    }
}
