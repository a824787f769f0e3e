using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Pieces;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Uploads;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

public sealed class ProjectModel(StudioDb db, PlaceFile placeFile, StudioClock clock) : PageModel
{
    public Project Record { get; private set; } = null!;
    public IReadOnlyList<PieceCard> Cards { get; private set; } = [];
    public IReadOnlyList<TreeFolder> Tree { get; private set; } = [];
    public IReadOnlyList<AskedSlot> Asked { get; private set; } = [];
    public int Versions { get; private set; }
    public long Size { get; private set; }
    public DateTimeOffset Now { get; private set; }
    public Notice? Notice { get; private set; }

    public async Task<IActionResult> OnGetAsync(string project, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        Record = record;
        Now = clock.Now;
        Notice = Notice.Take(TempData);
        Asked = await AskedSlot.LoadAsync(db, record, cancel);
        Cards =
        [
            .. (await PieceCards.LoadAsync(db, db.Pieces.Where(p => p.ProjectId == record.Id), cancel)).OrderByDescending(c => c.LastAt),
        ];
        Tree = await TreeFolders.LoadAsync(db, record, cancel);
        Versions = await db.Saves.CountAsync(s => s.Piece.ProjectId == record.Id && s.Number != null, cancel);
        Size = await db.Saves.Where(s => s.Piece.ProjectId == record.Id).SumAsync(s => s.Size, cancel);
        return Page();
    }

    /// <summary>The full name that results, while it is being typed.</summary>
    public async Task<IActionResult> OnGetNameAsync(string project, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        var slots = SlotFields.From(Request.Query).ToDictionary(s => s.Key, s => PieceSlots.Bounded(s.Value));
        var names = PieceNames.Of(record, slots);
        var (current, faults) = names.Current();
        // What is not typed yet is no fault yet.
        if (current is null)
            return Partial(
                "_ResultingName",
                new ResultingName(
                    null,
                    null,
                    faults.FirstOrDefault(f => !string.IsNullOrWhiteSpace(slots.GetValueOrDefault(f.Slot)))?.Message
                )
            );
        var stem = current.Stem;
        var person = User.PersonId();
        var taken = await db.Pieces.AnyAsync(
            p => p.ProjectId == record.Id && p.CurrentName == stem && (p.HighestSequence > 0 || p.StartedById != person),
            cancel
        );
        var (first, wrong) = names.Working(User.Initials(), names.Next(null), clock.Today, "");
        return Partial(
            "_ResultingName",
            new ResultingName(
                first,
                stem,
                taken ? "A piece of this name is there already. Change what it is called, or drop the file on that piece."
                    : first is null ? wrong[0].Message
                    : null
            )
        );
    }

    /// <summary>What a dropped file's name says: where it belongs, and what a new piece would be called by.</summary>
    public async Task<IActionResult> OnGetFileAsync(string project, string? file, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        return Partial("_Proposal", new ProposalView(record.Code, await placeFile.DoAsync(record.Id, file ?? "", User.Initials(), cancel)));
    }

    private Task<Project?> FindAsync(string code, CancellationToken cancel) =>
        db.Projects.AsNoTracking().Include(p => p.Client).FirstOrDefaultAsync(p => p.Code == code, cancel);
}

/// <param name="First">The first version's name; null where there is none yet.</param>
/// <param name="Current">The current file's.</param>
public sealed record ResultingName(Core.Naming.FormattedName? First, string? Current, string? Fault);

/// <summary>A proposal with the project that it is for.</summary>
public sealed record ProposalView(string Project, Proposal Proposal)
{
    public string Address(ProposedPlace place) =>
        $"/projects/{Uri.EscapeDataString(Project)}/{Uri.EscapeDataString(place.CurrentName)}/saves";
}
