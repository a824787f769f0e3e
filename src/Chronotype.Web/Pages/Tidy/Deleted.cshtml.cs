using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Lines;
using Chronotype.Studio.Share;
using Chronotype.Studio.Tree;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Tidy;

/// <summary>Something that was deleted and can be taken back.</summary>
/// <param name="What">Of which kind, with what it holds.</param>
/// <param name="Field">What the form that takes it back calls it.</param>
public sealed record DeletedRow(Guid Id, string Field, string Name, string What, DateTimeOffset At, string By, long Frees)
{
    public DateTimeOffset Ends => At + GracePeriod.Length;

    /// <summary>What was done to it.</summary>
    public string Done { get; init; } = "deleted";
}

/// <summary>What waits for the end of its grace period, with what that frees.</summary>
public sealed class DeletedModel(
    StudioDb db,
    ContentStore store,
    Remove remove,
    TendAlts tendAlts,
    TendTree tendTree,
    ShareFiles shareFiles,
    StudioClock clock
) : PageModel
{
    private const int Most = 200;

    public IReadOnlyList<DeletedRow> All { get; private set; } = [];
    public Notice? Notice { get; private set; }
    public DateTimeOffset Now => clock.Now;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Notice = Notice.Take(TempData);
        var hands = await db.Users.ToDictionaryAsync(p => p.Id, p => p.Initials, cancel);
        var rows = new List<DeletedRow>();
        foreach (
            var p in await db
                .Projects.WithDeleted()
                .Where(p => p.DeletedAt != null)
                .Select(p => new
                {
                    p.Id,
                    p.Code,
                    p.Title,
                    p.DeletedAt,
                    p.DeletedById,
                    Pieces = p.Pieces.Count(i => i.DeletedAt == p.DeletedAt),
                })
                .ToListAsync(cancel)
        )
            rows.Add(
                new(
                    p.Id,
                    "project",
                    $"{p.Code} {p.Title}",
                    $"project with {Words.DisplayText.Count(p.Pieces, "piece", "pieces")}",
                    clock.At(p.DeletedAt!.Value),
                    By(p.DeletedById),
                    await GracePeriod.FreesAsync(db, store, db.Saves.WithDeleted().Where(s => s.Piece.ProjectId == p.Id), cancel)
                )
            );
        foreach (
            var i in await db
                .Pieces.WithDeleted()
                .Where(i => i.DeletedAt != null && i.Project.DeletedAt != i.DeletedAt)
                .OrderByDescending(i => i.DeletedAt)
                .Take(Most)
                .Select(i => new
                {
                    i.Id,
                    Name = i.CurrentName + i.Extension,
                    i.DeletedAt,
                    i.DeletedById,
                    Versions = i.Saves.Count(s => s.Number != null),
                })
                .ToListAsync(cancel)
        )
            rows.Add(
                new(
                    i.Id,
                    "piece",
                    i.Name,
                    $"piece with {Words.DisplayText.Count(i.Versions, "version", "versions")}",
                    clock.At(i.DeletedAt!.Value),
                    By(i.DeletedById),
                    await GracePeriod.FreesAsync(db, store, db.Saves.WithDeleted().Where(s => s.PieceId == i.Id), cancel)
                )
            );
        foreach (
            var l in await db
                .Lines.WithDeleted()
                .Where(l => l.DroppedAt != null && db.Saves.Any(s => s.LineId == l.Id))
                .Join(
                    db.Pieces.Where(p => p.DeletedAt == null),
                    l => l.PieceId,
                    p => p.Id,
                    (l, p) =>
                        new
                        {
                            Line = l,
                            Piece = p.CurrentName,
                            Versions = p.Saves.Count(s => s.LineId == l.Id && s.Number != null),
                        }
                )
                .ToListAsync(cancel)
        )
            rows.Add(
                new(
                    l.Line.Id,
                    "alt",
                    $"alt {l.Line.Name}",
                    $"alt of {l.Piece} with {Words.DisplayText.Count(l.Versions, "version", "versions")}",
                    clock.At(l.Line.DroppedAt!.Value),
                    By(l.Line.DroppedById),
                    await GracePeriod.FreesAsync(db, store, db.Saves.WithDeleted().Where(s => s.LineId == l.Line.Id), cancel)
                )
            );
        foreach (
            var s in await db
                .Saves.WithDeleted()
                .Where(s => s.DiscardedAt != null && s.Piece.DeletedAt == null && s.Line.DroppedAt == null)
                .OrderByDescending(s => s.DiscardedAt)
                .Take(Most)
                .Select(s => new
                {
                    s.Id,
                    s.ReceivedName,
                    Piece = s.Piece.CurrentName,
                    s.DiscardedAt,
                    s.DiscardedById,
                })
                .ToListAsync(cancel)
        )
            rows.Add(
                new(
                    s.Id,
                    "save",
                    s.ReceivedName,
                    $"loose save of {s.Piece}",
                    clock.At(s.DiscardedAt!.Value),
                    By(s.DiscardedById),
                    await GracePeriod.FreesAsync(db, store, db.Saves.WithDeleted().Where(x => x.Id == s.Id), cancel)
                )
            );
        foreach (
            var e in await db
                .Entries.Where(e =>
                    e.DeletedAt != null
                    && (e.PieceId == null || (e.Kind == EntryKind.Companion && db.Pieces.Any(p => p.Id == e.PieceId)))
                    // What went with its folder, or its project, comes back with that.
                    && db.Projects.Any(p => p.Id == e.ProjectId)
                    && !db.Entries.Any(f =>
                        f.ProjectId == e.ProjectId && f.DeletedAt == e.DeletedAt && f.PathKey == e.FolderKey && f.Kind == EntryKind.Folder
                    )
                )
                .OrderByDescending(e => e.DeletedAt)
                .Take(Most)
                .Select(e => new
                {
                    e.Id,
                    e.Path,
                    e.Kind,
                    e.DeletedAt,
                    e.DeletedById,
                    Project = db.Projects.Where(p => p.Id == e.ProjectId).Select(p => p.Code).First(),
                    Size = e.Contents.Sum(c => c.Size),
                })
                .ToListAsync(cancel)
        )
            rows.Add(
                new(
                    e.Id,
                    "file",
                    e.Kind == EntryKind.Folder ? $"{e.Path}/" : e.Path.Text,
                    $"{(e.Kind == EntryKind.Folder ? "folder" : "file")} of {e.Project}",
                    clock.At(e.DeletedAt!.Value),
                    By(e.DeletedById),
                    e.Size
                )
            );
        foreach (
            var f in await db
                .SharedFiles.WithDeleted()
                .Where(f => f.DeletedAt != null)
                .OrderByDescending(f => f.DeletedAt)
                .Take(Most)
                .Join(
                    db.Projects.Where(p => p.DeletedAt == null),
                    f => f.ProjectId,
                    p => p.Id,
                    (f, p) =>
                        new
                        {
                            File = f,
                            p.Code,
                            IsWrittenOver = db.SharedFiles.Any(s => s.ProjectId == p.Id && s.PathKey == f.PathKey && s.DeletedAt == null),
                        }
                )
                .ToListAsync(cancel)
        )
            rows.Add(
                new(
                    f.File.Id,
                    "waiting",
                    f.File.Path.Text,
                    $"file in {f.Code} that {(f.IsWrittenOver ? "is" : "was")} no piece yet",
                    clock.At(f.File.DeletedAt!.Value),
                    By(f.File.DeletedById),
                    f.File.Size
                )
                {
                    Done = f.IsWrittenOver ? "written over" : "deleted",
                }
            );
        All = [.. rows.OrderByDescending(r => r.At)];

        string By(Guid? id) => id is { } who ? hands.GetValueOrDefault(who, "") : "";
    }

    public async Task<IActionResult> OnPostTakeBackAsync(
        Guid? project,
        Guid? piece,
        Guid? save,
        Guid? file,
        Guid? alt,
        Guid? waiting,
        CancellationToken cancel
    )
    {
        var actor = User.Actor();
        if (file is { } f)
        {
            var outcome = await tendTree.RestoreAsync(actor, f, cancel);
            if (!outcome.Done)
                return Back(outcome.Refusal, null);
            var back = outcome.Result;
            var code = await db.Projects.Where(p => p.Id == back.ProjectId).Select(p => p.Code).FirstAsync(cancel);
            return Back(null, Places.OfTree(code, back.Path.Folder, back.Kind == EntryKind.Folder ? null : back.Id));
        }
        if (project is { } p)
        {
            var outcome = await remove.TakeBackProjectAsync(actor, p, cancel);
            return Back(outcome.Refusal, outcome.Result is { } back ? Places.Of(back) : null);
        }
        if (piece is { } i)
        {
            var outcome = await remove.TakeBackPieceAsync(actor, i, cancel);
            return Back(outcome.Refusal, outcome.Result is { } back ? Places.Of(back) : null);
        }
        if (save is { } s)
        {
            var outcome = await remove.TakeBackSaveAsync(actor, s, cancel);
            return Back(outcome.Refusal, outcome.Result is { } back ? $"{Places.Of(back.Piece)}?b=s{back.Sequence}" : null);
        }
        if (alt is { } a)
        {
            var outcome = await tendAlts.TakeBackAsync(actor, a, cancel);
            return Back(
                outcome.Refusal,
                outcome.Result is { } back
                && await db.Pieces.Include(x => x.Project).FirstOrDefaultAsync(x => x.Id == back.PieceId, cancel) is { } of
                    ? $"{Places.Of(of)}?line={Uri.EscapeDataString(back.Name)}"
                    : null
            );
        }
        if (waiting is { } w)
        {
            var was = await db.SharedFiles.WithDeleted().Where(f => f.Id == w).Select(f => f.Path).FirstOrDefaultAsync(cancel);
            var outcome = await shareFiles.TakeBackAsync(actor, w, cancel);
            return Back(
                outcome.Refusal,
                outcome.Result is { } back && await db.Projects.FirstOrDefaultAsync(x => x.Id == back.ProjectId, cancel) is { } of
                    ? Places.Of(of)
                    : null,
                outcome.Result is not { } held || held.Path == was ? null
                    : held.Path.Folder == was?.Folder ? $"It is back as {held.Path}, since another file has its name by now."
                    : $"It is back as {held.Path}, since its folder is not there any more."
            );
        }
        return BadRequest();
    }

    private RedirectResult Back(Refusal? refusal, string? address, string? said = null)
    {
        Notice.Put(TempData, refusal is null ? Notice.Done(said ?? "It is back as it was.") : Notice.About(refusal));
        return Redirect(address ?? "/deleted");
    }
}
