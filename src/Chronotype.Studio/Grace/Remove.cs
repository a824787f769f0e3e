using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Grace;

/// <summary>
/// Deletes a piece or a project, and discards a loose save: all of it stays, unseen, until the grace period ends, and can be taken back
/// until then.
/// </summary>
public sealed class Remove(DeedRunner deeds)
{
    /// <summary>Deletes a piece with its versions, and its files in the tree.</summary>
    public Task<Outcome<Piece>> PieceAsync(Actor actor, Guid pieceId, CancellationToken cancel = default) =>
        deeds.DoAsync<Piece>(
            actor,
            Right.Work,
            async deed =>
            {
                var piece = await deed.Db.Pieces.Include(p => p.Project).FirstOrDefaultAsync(p => p.Id == pieceId, cancel);
                if (piece is null)
                    return new Refusal.NoSuchPiece();
                (piece.DeletedAt, piece.DeletedById) = (deed.Now, deed.Actor.PersonId);
                await HideAsync(deed, e => e.PieceId == pieceId, cancel);
                return piece;
            },
            cancel
        );

    /// <summary>Takes a deleted piece back, with all that it held.</summary>
    public Task<Outcome<Piece>> TakeBackPieceAsync(Actor actor, Guid pieceId, CancellationToken cancel = default) =>
        deeds.DoAsync<Piece>(
            actor,
            Right.Work,
            async deed =>
            {
                var piece = await Deleted(deed.Db).Include(p => p.Project).FirstOrDefaultAsync(p => p.Id == pieceId, cancel);
                if (piece is null)
                    return new Refusal.NoSuchPiece();
                if (piece.Project is null || piece.Project.DeletedAt is not null)
                    return new Refusal.ProjectIsDeleted(piece.Project?.Code ?? "");
                if (await deed.Db.Pieces.AnyAsync(p => p.ProjectId == piece.ProjectId && p.CurrentName == piece.CurrentName, cancel))
                    return new Refusal.PieceIsThere(piece.CurrentName, null);
                var when = piece.DeletedAt;
                (piece.DeletedAt, piece.DeletedById) = (null, null);
                await ShowAsync(deed, piece.ProjectId, e => e.PieceId == pieceId && e.DeletedAt == when, cancel);
                return piece;
            },
            cancel
        );

    /// <summary>Deletes a project with its pieces and its whole tree.</summary>
    public Task<Outcome<Project>> ProjectAsync(Actor actor, Guid projectId, CancellationToken cancel = default) =>
        deeds.DoAsync<Project>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await deed.Db.Projects.FirstOrDefaultAsync(p => p.Id == projectId, cancel) is not { } project)
                    return new Refusal.NoSuchProject();
                var by = deed.Actor.PersonId;
                (project.DeletedAt, project.DeletedById) = (deed.Now, by);
                foreach (var piece in await deed.Db.Pieces.Where(p => p.ProjectId == projectId).ToListAsync(cancel))
                    (piece.DeletedAt, piece.DeletedById) = (deed.Now, by);
                await HideAsync(deed, e => e.ProjectId == projectId, cancel);
                return project;
            },
            cancel
        );

    /// <summary>Takes a deleted project back, with the pieces and files that went with it. What was deleted before stays so.</summary>
    public Task<Outcome<Project>> TakeBackProjectAsync(Actor actor, Guid projectId, CancellationToken cancel = default) =>
        deeds.DoAsync<Project>(
            actor,
            Right.Work,
            async deed =>
            {
                var project = await deed
                    .Db.Projects.WithDeleted()
                    .FirstOrDefaultAsync(p => p.Id == projectId && p.DeletedAt != null, cancel);
                if (project is null)
                    return new Refusal.NoSuchProject();
                var when = project.DeletedAt;
                (project.DeletedAt, project.DeletedById) = (null, null);
                foreach (
                    var piece in await Deleted(deed.Db).Where(p => p.ProjectId == projectId && p.DeletedAt == when).ToListAsync(cancel)
                )
                    (piece.DeletedAt, piece.DeletedById) = (null, null);
                await ShowAsync(deed, projectId, e => e.ProjectId == projectId && e.DeletedAt == when, cancel);
                return project;
            },
            cancel
        );

    /// <summary>Discards a loose save. A version is never discarded by itself.</summary>
    public Task<Outcome<Save>> SaveAsync(Actor actor, Guid pieceId, Guid saveId, CancellationToken cancel = default) =>
        deeds.DoAsync<Save>(
            actor,
            Right.Work,
            async deed =>
            {
                var save = await deed
                    .Db.Saves.Include(s => s.Piece)
                    .FirstOrDefaultAsync(s => s.Id == saveId && s.PieceId == pieceId, cancel);
                if (save is null)
                    return new Refusal.NoSuchSave();
                if (save.Number is { } number)
                    return new Refusal.VersionStays(new(number));
                (save.DiscardedAt, save.DiscardedById) = (deed.Now, deed.Actor.PersonId);
                return save;
            },
            cancel
        );

    /// <summary>Takes a discarded save back to where it stood among the others.</summary>
    public Task<Outcome<Save>> TakeBackSaveAsync(Actor actor, Guid saveId, CancellationToken cancel = default) =>
        deeds.DoAsync<Save>(
            actor,
            Right.Work,
            async deed =>
            {
                var save = await deed
                    .Db.Saves.WithDeleted()
                    .Include(s => s.Piece)
                        .ThenInclude(p => p.Project)
                    .FirstOrDefaultAsync(s => s.Id == saveId && s.DiscardedAt != null, cancel);
                if (save is null || save.Piece.DeletedAt is not null)
                    return new Refusal.NoSuchSave();
                (save.DiscardedAt, save.DiscardedById) = (null, null);
                return save;
            },
            cancel
        );

    private static IQueryable<Piece> Deleted(StudioDb db) => db.Pieces.WithDeleted().Where(p => p.DeletedAt != null);

    private static async Task HideAsync(
        Deed deed,
        System.Linq.Expressions.Expression<Func<TreeEntry, bool>> which,
        CancellationToken cancel
    )
    {
        foreach (var entry in await deed.Db.Entries.Where(which).Where(e => e.DeletedAt == null).ToListAsync(cancel))
            (entry.DeletedAt, entry.DeletedById) = (deed.Now, deed.Actor.PersonId);
    }

    // Each where it stood, or at the next free name where something else stands there now.
    private static async Task ShowAsync(
        Deed deed,
        Guid projectId,
        System.Linq.Expressions.Expression<Func<TreeEntry, bool>> which,
        CancellationToken cancel
    )
    {
        var tree = new ProjectTree(deed.Db, projectId);
        var taken = (await tree.Entries.Select(e => e.PathKey).ToListAsync(cancel)).ToHashSet();
        foreach (var entry in (await deed.Db.Entries.Where(which).ToListAsync(cancel)).OrderBy(e => e.Path.Depth))
        {
            (entry.DeletedAt, entry.DeletedById) = (null, null);
            if (!taken.Add(entry.PathKey))
                await tree.MoveAsync(entry, entry.Path, cancel);
        }
    }
}
