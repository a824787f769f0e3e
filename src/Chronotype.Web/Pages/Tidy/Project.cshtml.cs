using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Tidy;

/// <summary>Where a project is renamed, given to another client, put away and deleted.</summary>
public sealed class ProjectModel(
    StudioDb db,
    ContentStore store,
    FindPiece findPiece,
    RenameProject renameProject,
    CopyProject copyProject,
    PutAway putAway,
    Remove remove,
    Studio.StudioClock clock
) : PageModel
{
    // A code has twelve characters; the number behind it needs a few.
    private const int MostOfCode = 9;

    [FromRoute]
    public string Project { get; set; } = "";

    public Project Record { get; private set; } = null!;
    public IReadOnlyList<(string Code, string Name)> Clients { get; private set; } = [];
    public IReadOnlyList<FormerPlace> Former { get; private set; } = [];
    public int Pieces { get; private set; }
    public int Versions { get; private set; }
    public long Frees { get; private set; }
    public Notice? Notice { get; private set; }
    public DateTimeOffset Now => clock.Now;

    /// <summary>A code that a copy may have.</summary>
    public string FreeCode { get; private set; } = "";

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } found)
            return NotFound();
        if (found.Code != Project)
            return Redirect($"/tidy/{Uri.EscapeDataString(found.Code)}");
        Record = found;
        var codes = await db.Projects.IgnoreQueryFilters().Select(p => p.Code).ToListAsync(cancel);
        var stem = found.Code.Length > MostOfCode ? found.Code[..MostOfCode].TrimEnd('-') : found.Code;
        FreeCode = Enumerable.Range(2, codes.Count + 1).Select(n => $"{stem}-{n}").First(c => !codes.Contains(c));
        Notice = Notice.Take(TempData);
        Clients = (await db.Clients.OrderBy(c => c.Name).ToListAsync(cancel)).ConvertAll(c => (c.Code, c.Name));
        Former = await PieceModel.FormerAsync(
            db,
            db.RenameRuns.Where(r => r.ProjectId == found.Id && r.Cause == RenameCause.Project),
            clock,
            cancel
        );
        Pieces = await db.Pieces.CountAsync(p => p.ProjectId == found.Id, cancel);
        Versions = await db.Saves.CountAsync(s => s.Piece.ProjectId == found.Id && s.Number != null, cancel);
        Frees = await GracePeriod.FreesAsync(db, store, db.Saves.WithDeleted().Where(s => s.Piece.ProjectId == found.Id), cancel);
        return Page();
    }

    /// <summary>What would be renamed, while it is being typed.</summary>
    public async Task<IActionResult> OnGetPlanAsync(
        string? code,
        string? title,
        string? clientCode,
        string? clientName,
        CancellationToken cancel
    )
    {
        if (await FindAsync(cancel) is not { } found)
            return NotFound();
        var outcome = await renameProject.PlanAsync(found.Id, new(code ?? "", title ?? "", clientCode ?? "", clientName ?? ""), cancel);
        return Partial(
            "_Renames",
            outcome switch
            {
                { Refusal: { } refusal } => new RenamesView([], RefusalWords.Of(refusal), ""),
                { Result.Obstacles: [var first, ..] } => new RenamesView([], first.Message, ""),
                { Result.Names.Count: 0 } when title?.Trim() == found.Title && code?.Trim().ToUpperInvariant() == found.Code => null,
                _ => new RenamesView(
                    outcome.Result!.Names,
                    null,
                    outcome.Result.Names.Count == 0
                        ? "Change it; no file is renamed"
                        : $"Change it and rename {DisplayText.Count(outcome.Result.Names.Count, "file", "files")}"
                ),
            }
        );
    }

    public async Task<IActionResult> OnPostRenameAsync(
        string? code,
        string? title,
        string? clientCode,
        string? clientName,
        CancellationToken cancel
    )
    {
        if (await FindAsync(cancel) is not { } found)
            return NotFound();
        var outcome = await renameProject.DoAsync(
            User.Actor(),
            found.Id,
            new(code ?? "", title ?? "", clientCode ?? "", clientName ?? ""),
            cancel
        );
        return outcome.Done
            ? Back(
                Notice.Done($"It is {outcome.Result.Code}, {outcome.Result.Title}, now. What it was called before still finds it."),
                outcome.Result.Code
            )
            : Back(Notice.About(outcome.Refusal), found.Code);
    }

    public async Task<IActionResult> OnPostUndoAsync(Guid run, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } found)
            return NotFound();
        var outcome = await renameProject.UndoAsync(User.Actor(), found.Id, run, cancel);
        return outcome.Done
            ? Back(Notice.Done($"It is {outcome.Result.Code} again."), outcome.Result.Code)
            : Back(Notice.About(outcome.Refusal), found.Code);
    }

    /// <param name="goesOn">Work goes on in the copy; else the copy is put away.</param>
    public async Task<IActionResult> OnPostCopyAsync(string? code, string? title, bool goesOn, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } found)
            return NotFound();
        var outcome = await copyProject.DoAsync(User.Actor(), found.Id, code ?? "", title ?? "", goesOn, cancel);
        if (!outcome.Done)
            return Back(Notice.About(outcome.Refusal), found.Code);
        if (!goesOn)
            return Back(Notice.Done($"A copy is set aside as {outcome.Result.Code}, put away. Work stays here."), found.Code);
        Notice.Put(TempData, Notice.Done($"This is {outcome.Result.Code}, the copy. {found.Code} stays as it is."));
        return Redirect(Places.Of(outcome.Result));
    }

    public async Task<IActionResult> OnPostPutAwayAsync(bool away, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } found)
            return NotFound();
        var outcome = await putAway.ProjectAsync(User.Actor(), found.Id, away, cancel);
        return Back(
            outcome.Done
                ? Notice.Done(away ? $"{found.Code} is put away. Whatever arrives for it brings it back." : "It is on the go again.")
                : Notice.About(outcome.Refusal),
            found.Code
        );
    }

    public async Task<IActionResult> OnPostDeleteAsync(CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } found)
            return NotFound();
        var outcome = await remove.ProjectAsync(User.Actor(), found.Id, cancel);
        if (!outcome.Done)
            return Back(Notice.About(outcome.Refusal), found.Code);
        Notice.Put(
            TempData,
            Notice.Done($"{found.Code} is deleted. It can be taken back for {GracePeriod.Length.Days} days.") with
            {
                Undo = $"/deleted?handler=TakeBack&project={found.Id}",
            }
        );
        return Redirect("/projects");
    }

    private async Task<Project?> FindAsync(CancellationToken cancel) =>
        await findPiece.ProjectAsync(Project, cancel) is { } id
            ? await db.Projects.AsNoTracking().Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == id, cancel)
            : null;

    private RedirectResult Back(Notice notice, string code)
    {
        Notice.Put(TempData, notice);
        return Redirect($"/tidy/{Uri.EscapeDataString(code)}");
    }
}
