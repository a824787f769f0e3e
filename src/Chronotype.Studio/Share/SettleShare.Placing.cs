using Chronotype.Core.Share;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Studio.Share;

/// <content>Where a file belongs that was saved under a name that is no piece's current one.</content>
public sealed partial class SettleShare
{
    // Files that a person works with, in working folders, under names that are no piece's current one.
    private static IQueryable<SharedFile> Newcomers(StudioDb db) =>
        from shared in db.SharedFiles.AsNoTracking()
        join folder in db.Entries on new { shared.ProjectId, PathKey = shared.FolderKey } equals new { folder.ProjectId, folder.PathKey }
        where folder.Kind == EntryKind.Folder && folder.DeletedAt == null && shared.Size > 0 && shared.SettledAt == null
        where
            folder.Role == FolderRole.Working
            || folder.Role == FolderRole.Home
            || folder.Role == FolderRole.Versions
            || folder.Role == FolderRole.Milestones
            || folder.Role == FolderRole.Masters
        where !db.Entries.Any(e => e.ProjectId == shared.ProjectId && e.PathKey == shared.PathKey && e.DeletedAt == null)
        select shared;

    // By its name it may be a save of a piece; a file that somebody saved so again and again is one of that each time.
    private async Task PlaceAsync(SharedFile shared, CancellationToken cancel)
    {
        // Who saves to a piece that was deleted goes on with it, so it is restored. Where its name is taken by now, a person says what it is.
        if (await DeletedPieceAsync(shared, cancel) is { } deleted)
        {
            var isBack = (await remove.TakeBackPieceAsync(Actor.StudioFor(shared.ById), deleted, cancel)).Done;
            if (isBack && shared.PieceId is null)
            {
                // It stands before the piece's current file now, and is a save of it with the next round.
                Wake();
                return;
            }
            if (!isBack)
            {
                await SettledAsync(shared, null, cancel);
                return;
            }
        }
        if (shared.PieceId is null && await BackupOfAsync(shared, cancel) is var (backed, file))
        {
            await ReceiveAsync(Actor.StudioFor(shared.ById), shared, new SaveTarget.OfPiece(backed), file);
            return;
        }
        if (!SharedNames.IsWork(shared.Path))
        {
            await SettledAsync(shared, shared.PieceId, cancel);
            return;
        }
        var piece = shared.PieceId;
        if (piece is null)
        {
            await using var scope = scopes.CreateAsyncScope();
            scope.ServiceProvider.GetRequiredService<Viewer>().IsStudio();
            var proposal = await scope
                .ServiceProvider.GetRequiredService<PlaceFile>()
                .DoAsync(shared.ProjectId, shared.Path.Name, "", cancel);
            if (proposal.Places is [{ Share: 1 } sure, ..] && sure.Reasons.Any(r => r is PlaceReason.OwnName or PlaceReason.FormerName))
                piece = sure.PieceId;
        }
        if (piece is { } known)
            await ReceiveAsync(Actor.StudioFor(shared.ById), shared, new SaveTarget.OfPiece(known));
        else
            await SettledAsync(shared, null, cancel);
    }

    // The deleted piece that a file is a save of: by what is known of it, or as its current file stood there.
    private async Task<Guid?> DeletedPieceAsync(SharedFile shared, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var deleted = db.Pieces.WithDeleted().Where(p => p.ProjectId == shared.ProjectId && p.DeletedAt != null);
        if (shared.PieceId is { } piece)
            return await deleted.Where(p => p.Id == piece).Select(p => (Guid?)p.Id).FirstOrDefaultAsync(cancel);
        var stood = db.Entries.Where(e =>
            e.ProjectId == shared.ProjectId && e.PathKey == shared.PathKey && e.Kind == EntryKind.CurrentFile && e.DeletedAt != null
        );
        return await deleted
            .Where(p => stood.Any(e => e.PieceId == p.Id))
            .OrderByDescending(p => p.DeletedAt)
            .Select(p => (Guid?)p.Id)
            .FirstOrDefaultAsync(cancel);
    }

    // The piece of which a program has made a copy by itself: beside its file, or in a folder for such copies beside it.
    private async Task<(Guid PieceId, string File)?> BackupOfAsync(SharedFile shared, CancellationToken cancel)
    {
        if (SharedNames.Of(shared.Path.Name) is SharedNameKind.Lock or SharedNameKind.Litter or SharedNameKind.Passing)
            return null;
        var folder = shared.Path.Folder;
        var beside = SharedNames.IsForBackups(folder?.Name) ? folder!.Folder : folder;
        var key = beside?.Key ?? "";
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var files = await db
            .Entries.Where(e =>
                e.ProjectId == shared.ProjectId
                && e.FolderKey == key
                && (e.Kind == EntryKind.CurrentFile || e.Kind == EntryKind.AltFile)
                && e.DeletedAt == null
            )
            .Select(e => new { e.Path, e.PieceId })
            .ToListAsync(cancel);
        var of = SharedNames.BackupOf(shared.Path.Name, folder?.Name, [.. files.Select(f => f.Path.Name)]);
        return of is not null && files.Find(f => f.Path.Name == of)?.PieceId is { } piece ? (piece, of) : null;
    }
}
