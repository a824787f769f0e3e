using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>What came of moving files, and of leading links after them.</summary>
/// <param name="Relinked">
/// Whose links lead to the new places: current names of pieces, each with a new loose save, and names of assets and documents, each with a
/// new content.
/// </param>
/// <param name="NotRelinked">
/// Those whose links were not changed: their format is not written here, they are folders of files, or originals.
/// </param>
public sealed record MovedWithLinks(MovedEntries Moved, IReadOnlyList<string> Relinked, IReadOnlyList<string> NotRelinked);

/// <summary>What came of renaming a piece, and of leading links after it.</summary>
/// <inheritdoc cref="MovedWithLinks"/>
public sealed record RenamedWithLinks(Piece Piece, IReadOnlyList<string> Relinked, IReadOnlyList<string> NotRelinked);

/// <summary>
/// Moves or renames files, and has the links of current files lead after them: those to what was moved, and those of pieces that were
/// moved themselves. What was kept stays as it is.
/// </summary>
public sealed class MoveAndRelink(TendTree tendTree, Relink relink, IDbContextFactory<StudioDb> contexts)
{
    /// <param name="moves">Entries of one project, each with its new path.</param>
    public async Task<Outcome<MovedWithLinks>> DoAsync(
        Actor actor,
        IReadOnlyList<(Guid Entry, ProjectPath To)> moves,
        CancellationToken cancel = default
    )
    {
        var touched = await TouchedAsync([.. moves.Select(m => m.Entry)], cancel);
        var moved = await tendTree.MoveAsync(actor, moves, cancel);
        if (!moved.Done)
            return moved.Refusal;
        var (done, not) = await FollowAsync(actor, touched);
        return new MovedWithLinks(moved.Result, done, not);
    }

    /// <summary>Renames a piece, and has the links to its current file lead to the new name. Links of other projects have none.</summary>
    public async Task<Outcome<RenamedWithLinks>> RenameAsync(
        Actor actor,
        Guid pieceId,
        Func<Task<Outcome<Piece>>> rename,
        CancellationToken cancel = default
    )
    {
        List<CurrentLink> touched;
        Guid project;
        await using (var db = await contexts.CreateDbContextAsync(cancel))
        {
            var current = await db
                .Entries.AsNoTracking()
                .FirstOrDefaultAsync(e => e.PieceId == pieceId && e.Kind == EntryKind.CurrentFile, cancel);
            if (current is null)
                return new Refusal.NoSuchPiece();
            project = current.ProjectId;
            touched = [.. (await TouchedAsync([current.Id], cancel)).Where(l => l.TargetId == current.Id && l.PieceId != pieceId)];
        }
        var renamed = await rename();
        if (!renamed.Done)
            return renamed.Refusal;
        if (renamed.Result.ProjectId != project)
            return new RenamedWithLinks(renamed.Result, [], [.. touched.Select(l => l.Piece ?? l.HolderPath.Name).Distinct()]);
        var (done, not) = await FollowAsync(actor, touched);
        return new RenamedWithLinks(renamed.Result, done, not);
    }

    private async Task<(List<string> Done, List<string> Not)> FollowAsync(Actor actor, IReadOnlyList<CurrentLink> touched)
    {
        var (done, not) = (new List<string>(), new List<string>());
        // The files have moved: whoever asked may be gone by now, and their links follow all the same.
        foreach (var holder in touched.GroupBy(l => (l.HolderId, Name: l.Piece ?? l.HolderPath.Name)))
        {
            var targets = holder.Select(l => new NewTarget(l.Record.Written, l.TargetId!.Value)).DistinctBy(t => t.Written).ToList();
            (await IsRelinkedAsync(actor, holder.Key.HolderId, targets) ? done : not).Add(holder.Key.Name);
        }
        return (done, not);
    }

    private async Task<bool> IsRelinkedAsync(Actor actor, Guid holder, IReadOnlyList<NewTarget> targets)
    {
        try
        {
            return (await relink.OfEntryAsync(actor, holder, targets, CancellationToken.None)).Done;
        }
        catch (IOException)
        {
            return false;
        }
    }

    private async Task<List<CurrentLink>> TouchedAsync(List<Guid> ids, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var entries = await db.Entries.AsNoTracking().Where(e => ids.Contains(e.Id) && e.DeletedAt == null).ToListAsync(cancel);
        if (entries.Count == 0)
            return [];
        var tree = new ProjectTree(db, entries[0].ProjectId);
        var moved = ids.ToHashSet();
        foreach (var folder in entries.Where(e => e.Kind == EntryKind.Folder))
            moved.UnionWith(await tree.Under(folder.Path).Select(e => e.Id).ToListAsync(cancel));
        return
        [
            .. (await new ProjectLinks(db).LoadAsync(entries[0].ProjectId, cancel)).Where(l =>
                // Of what goes along in one folder the way from one to the other stays.
                l.TargetId
                    is { } target
                && (moved.Contains(target) != moved.Contains(l.HolderId) || ids.Contains(target) || ids.Contains(l.HolderId))
            ),
        ];
    }
}
