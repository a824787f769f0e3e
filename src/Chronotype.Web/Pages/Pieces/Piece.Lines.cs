using Chronotype.Core.Versions;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Saves;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

// The piece's lines: leaving one, going on on one, and what becomes of an alt.
public sealed partial class PieceModel
{
    /// <param name="goesOn">The line is left, and work goes on there; else a copy is set aside, and work stays.</param>
    public async Task<IActionResult> OnPostLeaveAsync(Guid save, string? alt, bool goesOn, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await leaveLine.DoAsync(User.Actor(), piece, save, alt ?? "", goesOn, cancel),
            begun =>
                Notice.Done(
                    goesOn
                        ? $"Work goes on on alt “{begun.Alt.Name}”, from {new VersionNumber(begun.Alt.LeftAt!.Value)}. The current file "
                            + "is its now: open it again in your program. The line that was left stays as it is."
                        : $"A copy of {new VersionNumber(begun.Alt.LeftAt!.Value)} is set aside as alt “{begun.Alt.Name}”. "
                            + "Work stays where it was."
                )
        );
    }

    public async Task<IActionResult> OnPostGoOnAsync(Guid line, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await tendAlts.GoOnAsync(User.Actor(), piece, line, cancel),
            l =>
                Notice.Done(
                    $"Work goes on on {(l.Name.Length == 0 ? "the main line" : $"alt “{l.Name}”")}. The current file is its now: "
                        + "open it again in your program."
                )
        );
    }

    public async Task<IActionResult> OnPostBringHomeAsync(Guid line, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await tendAlts.BringHomeAsync(User.Actor(), piece, line, cancel),
            home =>
                home.Kept is KeepResult.Kept kept
                    ? Notice.Done($"It is {kept.Number} of the main line now, and work goes on there. The alt stays as it is.")
                    : Notice.About(home.Kept)
        );
    }

    /// <summary>Ends locks that a program has forgotten: one's own, and an owner anybody's.</summary>
    public async Task<IActionResult> OnPostUnlockAsync(CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        var file = await db
            .Entries.Where(e => e.PieceId == piece && e.Kind == EntryKind.CurrentFile && e.DeletedAt == null)
            .Select(e => new { e.ProjectId, e.Path })
            .FirstOrDefaultAsync(cancel);
        var ended = file is null ? 0 : shareLocks.End(file.ProjectId, file.Path, User.IsOwner() ? null : User.PersonId());
        return Back(
            ended > 0
                ? Notice.Done("The lock is ended: other programs may write the file again.")
                : new Notice(
                    NoticeKind.Bad,
                    "No lock of yours is on it. Whoever has it, or an owner, can end it; it ends by itself within the hour."
                )
        );
    }

    public async Task<IActionResult> OnPostDropAltAsync(Guid line, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await tendAlts.DropAsync(User.Actor(), piece, line, cancel),
            l =>
                Notice.Done($"Alt “{l.Name}” is dropped. It can be taken back for {GracePeriod.Length.Days} days.") with
                {
                    Undo = $"/deleted?handler=TakeBack&alt={l.Id}",
                }
        );
    }
}
