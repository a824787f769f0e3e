using Chronotype.Core.Content;
using Chronotype.Core.Share;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Share;

/// <content>What is taken off the share, and comes back.</content>
public sealed partial class ShareFiles
{
    /// <summary>What takes the current file of a piece off the share, where a program deleted or moved it; null where it is there.</summary>
    public static Task<SharedFile?> OffAsync(StudioDb db, Piece piece, CancellationToken cancel = default) =>
        db
            .SharedFiles.AsNoTracking()
            .Where(f => f.ProjectId == piece.ProjectId && f.Hash == null && f.Within == null)
            .FirstOrDefaultAsync(
                f =>
                    db.Entries.Any(e =>
                        e.PieceId == piece.Id && e.Kind == EntryKind.CurrentFile && e.PathKey == f.PathKey && e.DeletedAt == null
                    ),
                cancel
            );

    /// <summary>Has the current file of a piece stand on the share again.</summary>
    public Task<Outcome<Done>> PutBackAsync(Actor actor, Guid pieceId, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await deed.Db.Pieces.FirstOrDefaultAsync(p => p.Id == pieceId, cancel) is not { } piece)
                    return new Refusal.NoSuchPiece();
                if (await OffAsync(deed.Db, piece, cancel) is not { } off)
                    return new Refusal.NoSuchEntry();
                await deed.Db.SharedFiles.Where(f => f.Id == off.Id).ExecuteDeleteAsync(cancel);
                return Done.It;
            },
            cancel
        );

    /// <summary>
    /// Takes back what was deleted or written over while it waited for a person: where it stood, or at the next free name beside that; where
    /// its folder is gone, in the nearest one around it.
    /// </summary>
    public Task<Outcome<SharedFile>> TakeBackAsync(Actor actor, Guid sharedId, CancellationToken cancel = default) =>
        deeds.DoAsync<SharedFile>(
            actor,
            Right.Work,
            async deed =>
            {
                var gone = deed.Db.SharedFiles.WithDeleted().Where(f => f.Id == sharedId && f.DeletedAt != null);
                if (await gone.FirstOrDefaultAsync(cancel) is not { } file)
                    return new Refusal.NoSuchEntry();
                if (!await deed.Db.Projects.AnyAsync(p => p.Id == file.ProjectId, cancel))
                    return new Refusal.NoSuchProject();
                var tree = new ProjectTree(deed.Db, file.ProjectId);
                // Its folder may be gone, or be called something else by now.
                var folder = file.Path.Folder;
                while (folder is not null && await tree.FindAsync(folder, cancel) is not { Kind: EntryKind.Folder })
                    folder = folder.Folder;
                var free = await tree.FreeAsync(
                    ProjectTree.In(folder, file.Path.Name),
                    file.Id,
                    cancel,
                    async path => await SharedAsync(deed.Db, file.ProjectId, path, cancel) is not null
                );
                (file.Path, file.PathKey, file.FolderKey) = (free, free.Key, folder?.Key ?? "");
                (file.DeletedAt, file.DeletedById) = (null, null);
                return file;
            },
            cancel
        );

    /// <param name="isElsewhere">What it held has another place by now.</param>
    private static async Task<Outcome<Done>> TakeOffAsync(
        Deed deed,
        Guid projectId,
        ProjectPath path,
        CancellationToken cancel,
        bool isElsewhere = false
    )
    {
        var db = deed.Db;
        if (await PieceFolder.AroundAsync(db, projectId, path, cancel) is { } around)
        {
            await SharedProperties.ForgetAsync(db, projectId, path, cancel);
            return around.TakeOff(deed, path) is { } refused ? refused : Done.It;
        }
        var shared = await SharedAsync(db, projectId, path, cancel);
        var entry = await new ProjectTree(db, projectId).FindAsync(path, cancel);
        if (shared is { Hash: null, IsFolder: false } || (shared is null && entry is null))
            return new Refusal.NoSuchEntry();
        if (entry?.Kind is EntryKind.Version or EntryKind.MilestoneCopy or EntryKind.MasterCopy)
            return new Refusal.KeptForGood(entry.Path);
        await SharedProperties.ForgetAsync(db, projectId, path, cancel);
        // The piece stays, with all of its past: only its file is not on the share for now.
        if (entry?.Kind.IsCurrent() == true)
        {
            // Somebody may have saved since it was looked at.
            var inFolder = await db
                .SharedFiles.Where(f => f.PieceId == entry.PieceId && f.LineId == entry.LineId && f.Within != null)
                .ToListAsync(cancel);
            if (shared is { Size: > 0, SettledAt: null } || inFolder.Exists(f => f is { Size: > 0, SettledAt: null }))
                return new Refusal.HeldBefore(path);
            if (shared is null)
                db.SharedFiles.Add(shared = NewShared(projectId, path));
            (shared.Hash, shared.Size, shared.At, shared.ById) = (null, 0, deed.Now, deed.Actor.PersonId);
            (shared.IsFolder, shared.Within, shared.PieceId, shared.LineId) = (false, null, null, null);
            db.SharedFiles.RemoveRange(inFolder.Where(f => f.Id != shared.Id));
            return Done.It;
        }
        var off = shared is null ? [] : new List<SharedFile> { shared };
        if (entry?.Kind == EntryKind.Folder)
            off.AddRange(await UnderAsync(db, projectId, path, cancel));
        if (!isElsewhere)
            db.SharedFiles.AddRange(off.Where(IsUnplaced).Select(f => Gone(deed, f)));
        db.SharedFiles.RemoveRange(off);
        if (entry is null)
            return Done.It;
        var gone = await TendTree.DeleteWithinAsync(deed, [entry.Id], cancel);
        return gone.Done ? Done.It : gone.Refusal;
    }

    // A person's work that has no place yet, from its first moment on. A deed that takes it away leaves it to be restored.
    private static bool IsUnplaced(SharedFile file) =>
        file is { Hash: not null, Size: > 0, Within: null }
        && (file.PieceId is null || file.SettledAt is null)
        && SharedNames.IsWork(file.Path);

    private static SharedFile Gone(Deed deed, SharedFile file)
    {
        var gone = NewShared(file.ProjectId, file.Path);
        (gone.Hash, gone.Size, gone.At, gone.ById) = (file.Hash, file.Size, file.At, file.ById);
        (gone.SettledAt, gone.DeletedAt, gone.DeletedById) = (file.SettledAt, deed.Now, deed.Actor.PersonId);
        return gone;
    }
}
