using Chronotype.Core.Comparing;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Content;
using Chronotype.Storage.Records;
using Chronotype.Studio.Background;
using Chronotype.Studio.Care;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

public sealed class PieceModel(
    StudioDb db, TimeProvider time, KeepSave keepSave, MarkMilestone markMilestone, BringBack bringBack, WriteNote writeNote,
    SetKeepSetting setKeepSetting, FindPiece findPiece, CompareSaves compareSaves, SaveQueue queue, ContentStore store) : PageModel
{
    public PieceView View { get; private set; } = null!;
    public Said? Said { get; private set; }

    [FromRoute]
    public string Project { get; set; } = "";

    [FromRoute]
    public string Piece { get; set; } = "";

    public async Task<IActionResult> OnGetAsync(string? a, string? b, int? from, int? to, bool table, string? look, CancellationToken cancel)
    {
        View = new PieceView(db, time, new PieceAsked(a, b, from, to, table, look));
        if (!await View.LoadAsync(Project, Piece, User.Initials(), cancel))
        {
            // A name from before the project's names were changed still finds its piece.
            return await findPiece.DoAsync(Project, Piece, cancel) is { } now ? Redirect(Url.Page(null, new { project = Project, piece = now.CurrentName }) + Request.QueryString) : NotFound();
        }
        Said = Said.Take(TempData);
        foreach (var shown in new[] { View.A, View.B }.OfType<ShownSave>()) shown.Damaged = await DamagedAsync(shown.Record, cancel);
        if (View.B is { } newest) newest.NewOnDisk = NewBytesOf(newest.Record);
        return Page();
    }

    // What a verification found, and what somebody met since.
    private async Task<IReadOnlyList<string>> DamagedAsync(Save save, CancellationToken cancel)
    {
        var found = (await FoundDamage.NowAsync(db, cancel)).Select(d => d.Hash).ToHashSet();
        return [.. save.Files.Where(f => found.Contains(f.Hash) || store.IsKnownDamaged(f.Hash)).Select(f => f.Path)];
    }

    private long? NewBytesOf(Save save)
    {
        // What a folder of very many files took is not worth the wait.
        if (save.Files.Count > 500) return null;
        try
        {
            return save.Files.DistinctBy(f => f.Hash).Sum(f => store.EntryOf(f.Hash).NewBytes);
        }
        catch (IOException)
        {
            // Damaged or missing, which verifying tells.
            return null;
        }
    }

    /// <summary>What changed, measured now, for a ledger that had to wait for it.</summary>
    public async Task<IActionResult> OnGetCompareAsync(Guid before, Guid after, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece) return NotFound();
        var count = await db.Saves.CountAsync(s => s.PieceId == piece && (s.Id == before || s.Id == after), cancel);
        return count == 2 ? Partial("_Changes", await compareSaves.DoAsync(before, after, ReaderTurn.Waiting, cancel)) : NotFound();
    }

    public async Task<IActionResult> OnPostKeepAsync(Guid? save, string? note, string? reason, bool insist, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece) return NotFound();
        if (!string.IsNullOrEmpty(reason)) return await MilestoneAsync(piece, null, reason, insist, cancel);
        var result = await keepSave.DoAsync(piece, save, User.PersonId(), note, insist, cancel);
        if (result is KeepResult.Kept kept) queue.Add(kept.SaveId);
        return Back(Said.About(result));
    }

    public async Task<IActionResult> OnPostMilestoneAsync(int? number, string? reason, CancellationToken cancel) =>
        await FindAsync(cancel) is { } piece ? await MilestoneAsync(piece, number, reason ?? "", false, cancel) : NotFound();

    public async Task<IActionResult> OnPostBringBackAsync(Guid save, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece || !await db.Saves.AnyAsync(s => s.Id == save && s.PieceId == piece, cancel)) return NotFound();
        var outcome = await bringBack.DoAsync(save, User.PersonId(), cancel);
        if (!outcome.Done) return Back(new Said(SaidKind.Bad, outcome.Refusal));
        queue.Add(outcome.Result.Id);
        var from = outcome.Result.BroughtBackFrom is { } n ? new VersionNumber(n).ToString() : "An older loose save";
        return Back(new Said(SaidKind.Done, $"{from} is back as a loose save on top. Nothing was overwritten."));
    }

    public async Task<IActionResult> OnPostGiveAsync(Guid save, string? to, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece || !await db.Saves.AnyAsync(s => s.Id == save && s.PieceId == piece, cancel)) return NotFound();
        var outcome = await bringBack.GiveAsync(save, to ?? "", User.PersonId(), cancel);
        if (!outcome.Done) return Back(new Said(SaidKind.Bad, outcome.Refusal));
        queue.Add(outcome.Result.Id);
        Said.Put(TempData, new Said(SaidKind.Done, "It lies here as a loose save too. In the other piece it stays loose."));
        return RedirectToPage(new { project = Project, piece = to });
    }

    public async Task<IActionResult> OnPostNoteAsync(Guid save, string? note, string? b, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece || !await db.Saves.AnyAsync(s => s.Id == save && s.PieceId == piece, cancel)) return NotFound();
        await writeNote.DoAsync(save, note, cancel);
        return Back(new Said(SaidKind.Done, "The note is written."), b);
    }

    public async Task<IActionResult> OnPostSettingAsync(string? setting, CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } piece) return NotFound();
        if (!Enum.TryParse<KeepSetting>(setting, out var chosen) || !Enum.IsDefined(chosen)) return BadRequest();
        await setKeepSetting.DoAsync(piece, chosen, cancel);
        return Back(new Said(SaidKind.Done, chosen switch
        {
            KeepSetting.EveryChange => "From now on every save that changed something takes a number by itself.",
            KeepSetting.OncePerSitting => "From now on the last save of a sitting takes a number by itself, 45 minutes after it came.",
            _ => "From now on a save takes a number when you say so.",
        }));
    }

    private async Task<IActionResult> MilestoneAsync(Guid piece, int? number, string reason, bool insist, CancellationToken cancel)
    {
        var (outcome, objection) = await markMilestone.DoAsync(piece, number is >= 0 ? new VersionNumber(number.Value) : null, User.PersonId(), reason, insist, cancel);
        if (objection is not null) return Back(Said.About(objection) with { Reason = reason });
        if (!outcome.Done) return Back(new Said(SaidKind.Bad, outcome.Refusal));
        if (outcome.Result.Kept is { } kept) queue.Add(kept.SaveId);
        var (milestone, version) = (outcome.Result.Milestone, outcome.Result.Version);
        return Back(new Said(SaidKind.Done, $"{(outcome.Result.Kept is null ? "" : $"Kept as {version}. ")}{version} is milestone M{milestone.Number:D2}, “{milestone.Reason}”."));
    }

    // A page that was opened before the names changed still saves, keeps and marks.
    private async Task<Guid?> FindAsync(CancellationToken cancel) => (await findPiece.DoAsync(Project, Piece, cancel))?.Id;

    private IActionResult Back(Said said, string? b = null)
    {
        Said.Put(TempData, said);
        return RedirectToPage(new { project = Project, piece = Piece, b });
    }
}
