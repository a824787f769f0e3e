using Chronotype.Core.Content;
using Chronotype.Core.Share;
using Chronotype.Core.Structure;
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
    public async Task<Outcome<SharedChange>> MoveAsync(
        Actor actor,
        Guid projectId,
        ProjectPath from,
        ProjectPath to,
        bool overwrites,
        CancellationToken cancel = default
    )
    {
        // A save that is still held is one before its file goes elsewhere.
        await settle.NowAsync(projectId, from, cancel);
        return await AfterOthersAsync(
            projectId,
            () => deeds.DoAsync(actor, Right.Work, deed => MoveAsync(deed, projectId, from, to, overwrites, cancel), cancel)
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
        if (node.IsFolder)
            return await MoveFolderAsync(deed, projectId, node.Entry!, to, isNew, cancel);

        var folder = to.Folder is { } around ? await new ProjectTree(db, projectId).FindAsync(around, cancel) : null;
        if (to.Folder is { } missing && folder is not { Kind: EntryKind.Folder })
            return new Refusal.NoSuchFolder(missing);
        await SharedProperties.MoveAsync(db, projectId, from, to, cancel);
        // A file of the tree that goes where nothing stands takes its past along.
        if (
            node is { Shared: null, Entry: { Kind: EntryKind.OwnFile } own }
            && (isNew || isRecased)
            && folder?.Role.IsWorking() != true
            && SharedNames.Of(to.Name) == SharedNameKind.Work
        )
        {
            var moved = await TendTree.MoveWithinAsync(deed, [(own.Id, to)], cancel);
            return moved.Done ? new SharedChange(isNew, node.Hash) : moved.Refusal;
        }
        var placed = await PlaceAsync(deed, projectId, to, (node.Hash!.Value, node.Size), cancel);
        if (!placed.Done)
            return placed;
        await db.SaveChangesAsync(cancel);
        var gone = await TakeOffAsync(deed, projectId, from, cancel);
        return gone.Done ? new SharedChange(isNew, node.Hash) : gone.Refusal;
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
            shared.Path = ProjectPath.Parse(to.Text + shared.Path.Text[from.Text.Length..]);
            (shared.PathKey, shared.FolderKey) = (shared.Path.Key, shared.Path.Folder?.Key ?? "");
        }
        await SharedProperties.MoveAsync(deed.Db, projectId, from, to, cancel);
        await deed.Db.SaveChangesAsync(cancel);
        var moved = await TendTree.MoveWithinAsync(deed, [(folder.Id, to)], cancel);
        return moved.Done ? new SharedChange(isNew, null) : moved.Refusal;
    }
}
