using Chronotype.Storage;
using Chronotype.Studio;
using Chronotype.Studio.Saves;
using Chronotype.Web.Pages.Pieces;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Bench;

/// <summary>The pieces on the go, most at risk first.</summary>
public sealed class BenchModel(StudioDb db, StudioClock clock, KeepSave keepSave) : PageModel
{
    /// <summary>How many pieces lie on the bench; older ones are found in their projects.</summary>
    private const int Most = 24;

    public IReadOnlyList<PieceCard> Cards { get; private set; } = [];
    public bool HasProjects { get; private set; }
    public DateTimeOffset Now { get; private set; }
    public StudioClock Clock => clock;
    public string? Notice { get; private set; }

    public string Summary =>
        Cards.Count(c => c.Standing.RiskSince is not null) switch
        {
            0 when Cards.Count == 0 => "",
            0 => "Everything is kept.",
            1 => "1 piece changed since it was kept.",
            var n => $"{n} pieces changed since they were kept.",
        };

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Now = clock.Now;
        Notice = Shared.Notice.Take(TempData)?.Sentence;
        HasProjects = await db.Projects.AnyAsync(cancel);
        var recent = db.Pieces.OrderByDescending(p => p.Saves.Max(s => (DateTimeOffset?)s.ArrivedAt) ?? p.StartedAt).Take(Most);
        Cards =
        [
            .. (await PieceCards.LoadAsync(db, recent, cancel))
                .OrderBy(c => c.Standing.RiskSince ?? DateTimeOffset.MaxValue)
                .ThenByDescending(c => c.LastAt),
        ];
    }

    public async Task<IActionResult> OnPostKeepAsync(Guid piece, Guid save, CancellationToken cancel)
    {
        var at = await db.Pieces.Where(p => p.Id == piece).Select(p => new { p.Project.Code, p.CurrentName }).FirstOrDefaultAsync(cancel);
        if (at is null)
            return NotFound();
        var outcome = await keepSave.DoAsync(User.Actor(), piece, save, null, cancel: cancel);
        var said = outcome.Done ? Shared.Notice.About(outcome.Result) : Shared.Notice.About(outcome.Refusal);
        Shared.Notice.Put(TempData, said);
        // A question is answered where the piece can be seen.
        return said.Kind == NoticeKind.Done
            ? RedirectToPage()
            : RedirectToPage("/Pieces/Piece", new { project = at.Code, piece = at.CurrentName });
    }
}
