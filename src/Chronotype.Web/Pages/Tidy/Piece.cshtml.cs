using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Web.Pages.Projects;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Uploads;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Tidy;

/// <summary>A rename that can be undone.</summary>
/// <param name="From">What it was called.</param>
public sealed record FormerPlace(Guid Run, string From, string To, DateTimeOffset At, string By, int Names);

/// <summary>What changes when a piece or a project is renamed, before it is done.</summary>
/// <param name="Fault">Why it cannot be done; null where it can.</param>
/// <param name="Button">What is pressed to do it.</param>
public sealed record RenamesView(IReadOnlyList<RenamedName> Names, string? Fault, string Button);

/// <summary>Where a piece is renamed, moved to another project, put away and deleted.</summary>
public sealed class PieceModel(
    StudioDb db,
    ContentStore store,
    FindPiece findPiece,
    RenamePiece renamePiece,
    SetTemplate setTemplate,
    MoveAndRelink moveAndRelink,
    WhoUses whoUses,
    PutAway putAway,
    Remove remove,
    Studio.StudioClock clock
) : PageModel
{
    [FromRoute]
    public string Project { get; set; } = "";

    [FromRoute]
    public string Piece { get; set; } = "";

    public Piece Record { get; private set; } = null!;
    public Project To { get; private set; } = null!;

    /// <summary>Who refers to its current file.</summary>
    public FileUsers? Users { get; private set; }
    public IReadOnlyList<(string Code, string Title)> Projects { get; private set; } = [];
    public IReadOnlyList<(AskedSlot Asked, string Value)> Slots { get; private set; } = [];
    public IReadOnlyList<FormerPlace> Former { get; private set; } = [];
    public int Versions { get; private set; }
    public int Loose { get; private set; }
    public long Frees { get; private set; }
    public Notice? Notice { get; private set; }
    public Studio.StudioClock Clock => clock;
    public DateTimeOffset Now => clock.Now;
    public string Address => Places.Of(Record);

    /// <param name="to">The code of the project that it is to stand in.</param>
    public async Task<IActionResult> OnGetAsync(string? to, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(Project, Piece, cancel) is not { } found)
            return NotFound();
        if (found.CurrentName != Piece || found.Project.Code != Project)
            return Redirect(Places.TidyOf(found));
        Notice = Notice.Take(TempData);
        await LoadAsync(found, to, cancel);
        if (
            await db.Entries.AsNoTracking().FirstOrDefaultAsync(e => e.PieceId == found.Id && e.Kind == EntryKind.CurrentFile, cancel) is
            { } file
        )
            Users = await whoUses.OfAsync(file, cancel);
        return Page();
    }

    /// <summary>What would be renamed, while it is being typed.</summary>
    public async Task<IActionResult> OnGetPlanAsync(string? to, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(Project, Piece, cancel) is not { } found)
            return NotFound();
        var outcome = await renamePiece.PlanAsync(found.Id, to ?? found.Project.Code, SlotFields.From(Request.Query), cancel);
        return Partial(
            "_Renames",
            outcome switch
            {
                { Refusal: Refusal.CalledSoAlready } => null,
                { Refusal: { } refusal } => new RenamesView([], RefusalWords.Of(refusal), ""),
                _ => new RenamesView(
                    outcome.Result!.Names,
                    null,
                    (outcome.Result.To.Id == found.ProjectId ? "Rename" : $"Move to {outcome.Result.To.Code} and rename")
                        + $" {DisplayText.Count(outcome.Result.Names.Count, "file", "files")}"
                ),
            }
        );
    }

    /// <param name="links">The links of current files are to lead to the new name.</param>
    public async Task<IActionResult> OnPostRenameAsync(string? to, bool links, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(Project, Piece, cancel) is not { } found)
            return NotFound();
        Task<Outcome<Piece>> Rename() =>
            renamePiece.DoAsync(
                User.Actor(),
                found.Id,
                to ?? Project,
                SlotFields.From(Request.Form.ToDictionary(f => f.Key, f => f.Value.ToString())),
                cancel
            );
        var outcome =
            links ? await moveAndRelink.RenameAsync(User.Actor(), found.Id, Rename, cancel)
            : await Rename() is var alone && alone.Done ? new RenamedWithLinks(alone.Result, [], [])
            : alone.Refusal;
        if (!outcome.Done)
            return Back(Notice.About(outcome.Refusal), found);
        var (piece, relinked, not) = outcome.Result;
        return Back(
            Notice.Done(
                $"It is {piece.CurrentName} now. Its old names still find it, and can be given back here."
                    + (relinked.Count > 0 ? $" {string.Join(", ", relinked)} refer to the new name, each in a new loose save." : "")
                    + (
                        not.Count > 0
                            ? $" The links of {string.Join(", ", not)} cannot be changed here: mend them in the program that made them."
                            : ""
                    )
            ),
            piece
        );
    }

    public async Task<IActionResult> OnPostUndoAsync(Guid run, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(Project, Piece, cancel) is not { } found)
            return NotFound();
        var outcome = await renamePiece.UndoAsync(User.Actor(), found.Id, run, cancel);
        return outcome.Done
            ? Back(Notice.Done($"It is {outcome.Result.CurrentName} again."), outcome.Result)
            : Back(Notice.About(outcome.Refusal), found);
    }

    public async Task<IActionResult> OnPostTemplateAsync(bool isTemplate, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(Project, Piece, cancel) is not { } found)
            return NotFound();
        var outcome = await setTemplate.DoAsync(User.Actor(), found.Id, isTemplate, cancel);
        return Back(
            !outcome.Done ? Notice.About(outcome.Refusal)
                : isTemplate ? Notice.Done("Pieces of every project can be started with its newest version now.")
                : Notice.Done("It is no template any more. Pieces that were started from it stay as they are."),
            found
        );
    }

    public async Task<IActionResult> OnPostPutAwayAsync(bool away, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(Project, Piece, cancel) is not { } found)
            return NotFound();
        var outcome = await putAway.PieceAsync(User.Actor(), found.Id, away, cancel);
        return Back(
            outcome.Done
                ? Notice.Done(away ? $"{found.CurrentName} is put away. Whatever arrives for it brings it back." : "It is on the go again.")
                : Notice.About(outcome.Refusal),
            found
        );
    }

    public async Task<IActionResult> OnPostDeleteAsync(CancellationToken cancel)
    {
        if (await findPiece.DoAsync(Project, Piece, cancel) is not { } found)
            return NotFound();
        var outcome = await remove.PieceAsync(User.Actor(), found.Id, cancel);
        if (!outcome.Done)
            return Back(Notice.About(outcome.Refusal), found);
        Notice.Put(
            TempData,
            Notice.Done($"{found.CurrentName} is deleted. It can be taken back for {GracePeriod.Length.Days} days.") with
            {
                Undo = $"/deleted?handler=TakeBack&piece={found.Id}",
            }
        );
        return Redirect(Places.Of(found.Project));
    }

    private async Task LoadAsync(Piece found, string? to, CancellationToken cancel)
    {
        Record = found;
        var projects = await db.Projects.AsNoTracking().Include(p => p.Client).OrderBy(p => p.Code).ToListAsync(cancel);
        To = projects.Find(p => p.Code == to) ?? projects.Find(p => p.Id == found.ProjectId) ?? found.Project;
        Projects = projects.Where(p => p.PutAwayAt is null || p.Id == found.ProjectId).Select(p => (p.Code, p.Title)).ToList();
        var own = PieceNames.SlotsOf(found);
        Slots = (await AskedSlot.LoadAsync(db, To, cancel)).Select(a => (a, own.GetValueOrDefault(a.Slot.Label, ""))).ToList();
        var saves = db.Saves.Where(s => s.PieceId == found.Id);
        Versions = await saves.CountAsync(s => s.Number != null, cancel);
        Loose = await saves.CountAsync(s => s.Number == null, cancel);
        Frees = await GracePeriod.FreesAsync(db, store, db.Saves.WithDeleted().Where(s => s.PieceId == found.Id), cancel);
        Former = await FormerAsync(db, db.RenameRuns.Where(r => r.PieceId == found.Id), clock, cancel);
    }

    internal static async Task<IReadOnlyList<FormerPlace>> FormerAsync(
        StudioDb db,
        IQueryable<RenameRun> runs,
        Studio.StudioClock clock,
        CancellationToken cancel
    )
    {
        var standing = runs.Where(r => r.UndoneAt == null);
        var found = await standing
            .OrderByDescending(r => r.At)
            .Select(r => new
            {
                r.Id,
                r.At,
                r.Names.Count,
                By = db.Users.Where(u => u.Id == r.ById).Select(u => u.Initials).FirstOrDefault(),
            })
            .ToListAsync(cancel);
        var names = (
            await db
                .RenamedNames.Where(n =>
                    standing.Any(r =>
                        r.Id == n.RunId
                        && (n.Thing == NamedThing.Project || (n.Thing == NamedThing.Current && r.Cause == RenameCause.Piece))
                    )
                )
                .Select(n => new
                {
                    n.RunId,
                    n.From,
                    n.To,
                })
                .ToListAsync(cancel)
        ).ToLookup(n => n.RunId);
        return found.ConvertAll(r =>
        {
            var name = names[r.Id].FirstOrDefault();
            return new FormerPlace(r.Id, name?.From ?? "", name?.To ?? "", clock.At(r.At), r.By ?? "", r.Count);
        });
    }

    private RedirectResult Back(Notice notice, Piece piece)
    {
        Notice.Put(TempData, notice);
        return Redirect(Places.TidyOf(piece));
    }
}
