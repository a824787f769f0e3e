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

    /// <summary>Has an alt stand beside the current file under a name of its own, or takes that away.</summary>
    public async Task<IActionResult> OnPostAltFileAsync(Guid line, bool stands, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await altFiles.HaveAsync(User.Actor(), piece, line, stands, cancel),
            path =>
                Notice.Done(
                    stands
                        ? $"{path} is this alt’s own file now: what you save in it is a save of the alt, whatever line work goes on on."
                        : $"{path} is no file of its own any more. All of the alt’s saves are as they were."
                ),
            line: await db.Lines.Where(l => l.Id == line).Select(l => l.Name).FirstOrDefaultAsync(cancel)
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
        var files = await db
            .Entries.Where(e => e.PieceId == piece && e.DeletedAt == null)
            .Where(e => e.Kind == EntryKind.CurrentFile || e.Kind == EntryKind.AltFile)
            .Select(e => new { e.ProjectId, e.Path })
            .ToListAsync(cancel);
        var ended = files.Sum(f => shareLocks.End(f.ProjectId, f.Path, User.IsOwner() ? null : User.PersonId()));
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
