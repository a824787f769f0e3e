using Chronotype.Core.Content;
using Chronotype.Core.Share;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Share;

/// <content>Moving and renaming, which is also how many programs save.</content>
public sealed partial class ShareFiles
{
    /// <summary>Moves or renames a file or a folder.</summary>
    /// <param name="overwrites">What stands at the other place goes; a file there comes to hold what the one that is moved held.</param>
    /// <param name="holds">As of <see cref="PutAsync"/>.</param>
    public async Task<Outcome<SharedChange>> MoveAsync(
        Actor actor,
        Guid projectId,
        ProjectPath from,
        ProjectPath to,
        bool overwrites,
        Condition? holds = null,
        CancellationToken cancel = default
    )
    {
        // A save that is still held is one before its file goes elsewhere.
        await settle.NowAsync(projectId, from, cancel);
        return await AfterOthersAsync(
            projectId,
            () => WhereItHoldsAsync(actor, from, holds, deed => MoveAsync(deed, projectId, from, to, overwrites, cancel), cancel)
        );
    }

    private async Task<Outcome<SharedChange>> MoveAsync(
        Deed deed,
        Guid projectId,
        ProjectPath from,
        ProjectPath to,
        bool overwrites,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        if (await new ShareTree(db, projectId).FindAsync(from, cancel) is not { } node)
            return new Refusal.NoSuchEntry();
        if (from == to || to.IsIn(from))
            return new Refusal.IntoItself(to);
        var isRecased = from.Key == to.Key;
        if (node is { Shared: null, Entry.Kind: EntryKind.Version or EntryKind.MilestoneCopy or EntryKind.MasterCopy })
            return new Refusal.KeptForGood(from);
        var (isNew, refusal) = isRecased ? (false, null) : await MakeWayAsync(deed, projectId, to, node.IsFolder, overwrites, cancel);
        if (refusal is not null)
            return refusal;
        if (node.IsFolder && (node.Part != FolderPart.None || await IsOfPieceAsync(db, projectId, to, cancel)))
            return isRecased ? new SharedChange(false, null) : await MovePartsAsync(deed, projectId, node, to, isNew, cancel);
        if (node.IsFolder)
            return await MoveFolderAsync(deed, projectId, node.Entry!, to, isNew, cancel);

        var folder = to.Folder is { } around ? await new ProjectTree(db, projectId).FindAsync(around, cancel) : null;
        await SharedProperties.MoveAsync(db, projectId, from, to, cancel);
        // A file of the tree that goes where nothing stands takes its past along.
        if (
            node is { Shared: null, Entry: { Kind: EntryKind.OwnFile } own }
            && (isNew || isRecased)
            && (to.Folder is null || folder is { Kind: EntryKind.Folder, Role: var role } && !role.IsWorking())
            && SharedNames.Of(to.Name) == SharedNameKind.Work
        )
        {
            var moved = await TendTree.MoveWithinAsync(deed, [(own.Id, to)], cancel);
            return moved.Done ? new SharedChange(isNew, node.Hash) : moved.Refusal;
        }
        // Names that differ in case alone are one place: what is held there stays, and what the tree has there keeps its own name.
        if (isRecased)
        {
            if (node is { Shared: { Within: null } held })
                (await db.SharedFiles.FirstAsync(f => f.Id == held.Id, cancel)).Path = to;
            return new SharedChange(false, node.Hash);
        }
        var placed = await PlaceAsync(deed, projectId, to, (node.Hash!.Value, node.Size), cancel);
        if (!placed.Done)
            return placed;
        await db.SaveChangesAsync(cancel);
        var gone = await TakeOffAsync(deed, projectId, from, cancel, isElsewhere: true);
        return gone.Done ? new SharedChange(isNew, node.Hash) : gone.Refusal;
    }

    private static async Task<bool> IsOfPieceAsync(StudioDb db, Guid projectId, ProjectPath path, CancellationToken cancel) =>
        await PieceFolder.AroundAsync(db, projectId, path, cancel) is not null
        || await new ProjectTree(db, projectId).FindAsync(path, cancel) is { Kind: EntryKind.CurrentFile or EntryKind.AltFile };

    // A folder that goes into a piece, out of one, or over all of it, as programs save that write a folder anew: one file after the other.
    private async Task<Outcome<SharedChange>> MovePartsAsync(
        Deed deed,
        Guid projectId,
        ShareNode from,
        ProjectPath to,
        bool isNew,
        CancellationToken cancel
    )
    {
        var (db, tree) = (deed.Db, new ShareTree(deed.Db, projectId));
        var parts = new List<ShareNode>();
        var folders = new Queue<ShareNode>([from]);
        while (folders.TryDequeue(out var next))
        {
            foreach (var part in await tree.ListAsync(next, cancel))
            {
                if (from.Part == FolderPart.None && part.Entry is { PieceId: not null, Path: var held })
                    return new Refusal.HoldsPieces(held);
                if (parts.Count == MostCopied)
                    return new Refusal.TooManyAtOnce(MostCopied);
                parts.Add(part);
                if (part.IsFolder)
                    folders.Enqueue(part);
            }
        }
        if (await MakeFolderAsync(deed, projectId, to, cancel) is { } refused)
            return refused;
        await SharedProperties.MoveAsync(db, projectId, from.Path!, to, cancel);
        await db.SaveChangesAsync(cancel);
        // What is in it goes into a piece all at once, and anywhere else as it would by itself.
        var piece = await PieceFolder.AroundAsync(db, projectId, to, cancel, orItself: true);
        foreach (var part in parts)
        {
            if (!ProjectPath.TryParse(to.Text + part.Path!.Text[from.Path!.Text.Length..], out var at, out _))
                return new Refusal.PathTooLong(to);
            var held = part.Hash is { } hash ? (hash, part.Size) : ((ContentHash, long)?)null;
            var failed =
                piece is not null ? piece.Put(deed, at, held)
                : held is { } file ? (await PlaceAsync(deed, projectId, at, file, cancel)).Refusal
                : await MakeFolderAsync(deed, projectId, at, cancel);
            if (failed is not null)
                return failed;
            if (piece is null && part.IsFolder)
                await db.SaveChangesAsync(cancel);
        }
        await db.SaveChangesAsync(cancel);
        var gone = await TakeOffAsync(deed, projectId, from.Path!, cancel, isElsewhere: true);
        return gone.Done ? new SharedChange(isNew, null) : gone.Refusal;
    }

    private static async Task<Outcome<SharedChange>> MoveFolderAsync(
        Deed deed,
        Guid projectId,
        TreeEntry folder,
        ProjectPath to,
        bool isNew,
        CancellationToken cancel
    )
    {
        var from = folder.Path;
        foreach (var shared in await UnderAsync(deed.Db, projectId, from, cancel))
        {
            if (!ProjectPath.TryParse(to.Text + shared.Path.Text[from.Text.Length..], out var at, out _))
                return new Refusal.PathTooLong(to);
            shared.Path = at;
            (shared.PathKey, shared.FolderKey) = (shared.Path.Key, shared.Path.Folder?.Key ?? "");
        }
        await SharedProperties.MoveAsync(deed.Db, projectId, from, to, cancel);
        await deed.Db.SaveChangesAsync(cancel);
        var moved = await TendTree.MoveWithinAsync(deed, [(folder.Id, to)], cancel);
        return moved.Done ? new SharedChange(isNew, null) : moved.Refusal;
    }
}
