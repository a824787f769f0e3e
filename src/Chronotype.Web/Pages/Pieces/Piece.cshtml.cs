using Chronotype.Content;
using Chronotype.Core.Comparing;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Lines;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Share;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

public sealed partial class PieceModel(
    StudioDb db,
    StudioClock clock,
    KeepSave keepSave,
    MarkMilestone markMilestone,
    MarkMaster markMaster,
    BringBack bringBack,
    WriteNote writeNote,
    SetKeepSetting setKeepSetting,
    Remove remove,
    FindPiece findPiece,
    SaveQuestion question,
    CompareSaves compareSaves,
    AttachFace attachFace,
    CompanionAsSave companionAsSave,
    ShareFiles shareFiles,
    ShareLocks shareLocks,
    LeaveLine leaveLine,
    TendAlts tendAlts,
    AltFiles altFiles,
    ContentStore store
) : PageModel
{
    public PieceView View { get; private set; } = null!;
    public Notice? Notice { get; private set; }

    [FromRoute]
    public string Project { get; set; } = "";

    [FromRoute]
    public string Piece { get; set; } = "";

    public async Task<IActionResult> OnGetAsync(
        string? a,
        string? b,
        int? from,
        int? to,
        bool table,
        string? look,
        Guid? save,
        [FromQuery(Name = "page")] int? page,
        int? layer,
        string? line,
        bool wait,
        bool measure,
        CancellationToken cancel
    )
    {
        View = new PieceView(db, clock, new PieceAsked(a, b, from, to, table, look, page ?? 1, layer, line));
        if (!await View.LoadAsync(Project, Piece, User.Initials(), cancel))
        {
            // A name from before the project's names were changed still finds its piece.
            return await findPiece.DoAsync(Project, Piece, cancel) is { } now
                ? Redirect(Url.Page(null, new { project = now.Project.Code, piece = now.CurrentName }) + Request.QueryString)
                : NotFound();
        }
        // Who knows a save and not its number is sent to it.
        if (save is { } id && View.Saves.FirstOrDefault(s => s.Id == id) is { } asked)
            return Redirect(View.Address + new PieceAsked(null, asked.Key, null, null, table, look).Query());
        // A page that only waits for a save to be read leaves what is to be said to the next that somebody asks for.
        Notice = wait || measure ? null : Notice.Take(TempData);
        if (measure && View is { Against: { } against, B.Row: { } later, Comparison: null })
            View.Measured(await compareSaves.DoAsync(against.Identity, later.Identity, View.Piece.Id, cancel));
        await View.LoadLocksAsync(shareLocks, cancel);
        foreach (var shown in new[] { View.A, View.B }.OfType<ShownSave>())
            shown.Damaged = await DamagedAsync(shown.Record, cancel);
        if (View.B is { } newest)
            newest.NewOnDisk = newest.Record.NewBytes;
        return Page();
    }

    // What a verification found, and what somebody met since.
    private async Task<IReadOnlyList<string>> DamagedAsync(Save save, CancellationToken cancel)
    {
        var found = (await FoundDamage.NowAsync(db, cancel)).Select(d => d.Hash).ToHashSet();
        return [.. save.Files.Where(f => found.Contains(f.Hash) || store.IsKnownDamaged(f.Hash)).Select(f => f.Path)];
    }

    /// <summary>What changed, measured now, for a ledger that had to wait for it.</summary>
    public async Task<IActionResult> OnGetCompareAsync(Guid before, Guid after, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        var saves = await db
            .Saves.Where(s => s.Id == before || (s.PieceId == piece && s.Id == after))
            .Select(s => new
            {
                s.Id,
                s.PieceId,
                s.Identity,
                s.Number,
                s.Sequence,
            })
            .ToDictionaryAsync(s => s.Id, cancel);
        if (saves.Count != 2)
            return NotFound();
        var (comparison, error) = await compareSaves.DoAsync(saves[before].Identity, saves[after].Identity, piece, cancel);
        if (comparison is null)
            return Partial("_NotMeasured", error);
        string Key(Guid id) =>
            saves[id].PieceId != piece ? id.ToString()
            : saves[id].Number is { } number ? number.ToString()
            : $"s{saves[id].Sequence}";
        ViewData["Asked"] = new PieceAsked(Key(before), Key(after), null, null, false, null);
        return Partial("_Changes", comparison);
    }

    /// <summary>Lays a save of another piece beside what is looked at.</summary>
    /// <param name="with">The other piece, as <c>PROJECT/name</c>.</param>
    /// <param name="number">The version's number; null for its newest save.</param>
    public async Task<IActionResult> OnGetAcrossAsync(string? with, int? number, string? b, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is null)
            return NotFound();
        var (project, name) = with?.Split('/', 2) is [var p, var n] ? (p.Trim(), n.Trim()) : (Project, with?.Trim() ?? "");
        if (await findPiece.DoAsync(project, name, cancel) is not { } other)
            return Back(new Notice(NoticeKind.Bad, $"There is no piece {name} in {project}. Choose one of the list."), b);
        var save = await db
            .Saves.Where(s => s.PieceId == other.Id && (number == null || s.Number == number))
            .OrderByDescending(s => s.LineId == other.Line.Id)
            .ThenByDescending(s => s.Sequence)
            .Select(s => (Guid?)s.Id)
            .FirstOrDefaultAsync(cancel);
        if (save is null)
            return Back(new Notice(NoticeKind.Bad, $"{name} has no version {number}."), b);
        return RedirectToPage(
            new
            {
                project = Project,
                piece = Piece,
                a = save,
                b,
            }
        );
    }

    public async Task<IActionResult> OnPostKeepAsync(
        Guid? save,
        string? note,
        string? reason,
        bool insist,
        bool inOrder,
        CancellationToken cancel
    )
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        if (!string.IsNullOrEmpty(reason))
            return await MilestoneAsync(piece, null, reason, insist, cancel);
        return Back(await keepSave.DoAsync(User.Actor(), piece, save, note, insist, inOrder, cancel), Notice.About);
    }

    public async Task<IActionResult> OnPostBringBackAsync(Guid save, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await bringBack.DoAsync(User.Actor(), piece, save, cancel),
            s =>
                Notice.Done(
                    $"{(s.BroughtBackFrom is { } n ? new VersionNumber(n).ToString() : "An older loose save")} is back as a loose save "
                        + $"on top, and in the current file: open it again in your program. Nothing was overwritten."
                )
        );
    }

    public async Task<IActionResult> OnPostDiscardAsync(Guid save, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await remove.SaveAsync(User.Actor(), piece, save, cancel),
            s =>
                Notice.Done($"The loose save is discarded. It can be taken back for {GracePeriod.Length.Days} days.") with
                {
                    Undo = $"/deleted?handler=TakeBack&save={s.Id}",
                }
        );
    }

    public async Task<IActionResult> OnPostExpectAsync(Guid save, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(await question.ExpectAsync(User.Actor(), piece, save, cancel: cancel), Notice.About);
    }

    public async Task<IActionResult> OnPostAskAgainAsync(CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await question.AskAgainAsync(User.Actor(), piece, cancel),
            _ => Notice.Done("From now on you are asked again whenever a save is unlike the last version.")
        );
    }

    public async Task<IActionResult> OnPostLeaveLooseAsync(Guid save, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await question.LeaveLooseAsync(User.Actor(), piece, save, cancel),
            _ => Notice.Done("It stays a loose save: stored, without a number. It can be kept at any time.")
        );
    }

    public async Task<IActionResult> OnPostOutputAsync(Guid save, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await question.TakeAsOutputAsync(User.Actor(), piece, save, cancel),
            placed =>
                Notice.Done($"It is an output now: {placed.Entry.Path}. It is no save of this piece any more.") with
                {
                    Undo = $"/deleted?handler=TakeBack&save={save}",
                }
        );
    }

    public async Task<IActionResult> OnPostFaceAsync(Guid save, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await attachFace.FromSaveAsync(User.Actor(), piece, save, cancel),
            faced =>
                Notice.Done($"It is the face of {Named(faced.Save)} now, and no save of its own any more.") with
                {
                    FaceAsSave = faced.Face.Id,
                }
        );
    }

    public async Task<IActionResult> OnPostTakeFaceOffAsync(Guid face, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await attachFace.TakeOffAsync(User.Actor(), piece, face, cancel),
            faced =>
                Notice.Done($"The face of {Named(faced.Save)} is taken off. Its file stays stored with it.") with
                {
                    FaceAsSave = faced.Face.Id,
                }
        );
    }

    public async Task<IActionResult> OnPostFaceAsSaveAsync(Guid face, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await attachFace.AsSaveAsync(User.Actor(), piece, face, cancel),
            _ => Notice.Done("It is a loose save of this piece now, and no face any more.")
        );
    }

    public async Task<IActionResult> OnPostCompanionAsSaveAsync(Guid entry, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(
            await companionAsSave.DoAsync(User.Actor(), piece, entry, cancel),
            _ => Notice.Done("It is a loose save of this piece now, and goes with its file no more.")
        );
    }

    private static string Named(Save save) => save.Number is { } number ? new VersionNumber(number).ToString() : "the loose save";

    public async Task<IActionResult> OnPostGiveAsync(Guid save, string? to, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        var outcome = await bringBack.GiveAsync(User.Actor(), piece, save, to ?? "", cancel);
        if (!outcome.Done)
            return Back(Notice.About(outcome.Refusal));
        Notice.Put(TempData, Notice.Done("It lies here as a loose save too. In the other piece it stays loose."));
        return RedirectToPage(new { project = Project, piece = to });
    }

    public async Task<IActionResult> OnPostNoteAsync(Guid save, string? note, string? b, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        return Back(await writeNote.DoAsync(User.Actor(), piece, save, note, cancel), _ => Notice.Done("The note is written."), b);
    }

    public async Task<IActionResult> OnPostSettingAsync(string? setting, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece)
            return NotFound();
        if (!Enum.TryParse<KeepSetting>(setting, out var chosen) || !Enum.IsDefined(chosen))
            return BadRequest();
        return Back(
            await setKeepSetting.DoAsync(User.Actor(), piece, chosen, cancel),
            _ =>
                Notice.Done(
                    chosen switch
                    {
                        KeepSetting.EveryChange => "From now on every save that changed something takes a number by itself.",
                        KeepSetting.OncePerSitting =>
                            "From now on the last save of a sitting takes a number by itself, 45 minutes after it came.",
                        _ => "From now on a save takes a number when you say so.",
                    }
                )
        );
    }

    // A page that was opened before the names changed still saves, keeps and marks.
    private async Task<Guid?> FindAsync(CancellationToken cancel) => (await findPiece.DoAsync(Project, Piece, cancel))?.Id;

    private IActionResult Back<T>(Outcome<T> outcome, Func<T, Notice> done, string? b = null, string? line = null)
        where T : class =>
        outcome switch
        {
            { Done: true } => Back(done(outcome.Result), b, line),
            { Refusal: Refusal.NoSuchSave or Refusal.NoSuchPiece } => NotFound(),
            _ => Back(Notice.About(outcome.Refusal), b, line),
        };

    private IActionResult Back(Notice notice, string? b = null, string? line = null)
    {
        Notice.Put(TempData, notice);
        return RedirectToPage(
            new
            {
                project = Project,
                piece = Piece,
                b,
                line,
            }
        );
    }
}
