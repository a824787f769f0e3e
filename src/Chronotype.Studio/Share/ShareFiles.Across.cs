using Chronotype.Core.Content;
using Chronotype.Core.Share;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.References;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Share;

/// <summary>A place on the share.</summary>
public sealed record SharedPlace(Guid Project, ProjectPath Path);

/// <content>Files that go from one project into another: one deed, all of it or nothing.</content>
public sealed partial class ShareFiles
{
    /// <summary>Copies or moves a file into another project, with its properties.</summary>
    /// <param name="isMove">
    /// Nothing is left behind; a file of the tree that goes where nothing stands takes its past and what belongs to it along.
    /// </param>
    /// <param name="overwrites">What stands at the other place may go.</param>
    /// <param name="holds">As of <see cref="PutAsync"/>.</param>
    public async Task<Outcome<SharedChange>> AcrossAsync(
        Actor actor,
        SharedPlace from,
        SharedPlace to,
        bool isMove,
        bool overwrites,
        Condition? holds = null,
        CancellationToken cancel = default
    )
    {
        await settle.NowAsync(from.Project, from.Path, cancel);
        return await AfterOthersAsync(
            from.Project,
            () =>
                AfterOthersAsync(
                    to.Project,
                    () =>
                        WhereItHoldsAsync(actor, from.Path, holds, deed => AcrossAsync(deed, from, to, isMove, overwrites, cancel), cancel)
                )
        );
    }

    private async Task<Outcome<SharedChange>> AcrossAsync(
        Deed deed,
        SharedPlace from,
        SharedPlace to,
        bool isMove,
        bool overwrites,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        if (await new ShareTree(db, from.Project).FindAsync(from.Path, cancel) is not { Hash: { } hash } node)
            return new Refusal.NoSuchEntry();
        if (isMove && node is { Shared: null, Entry.Kind: EntryKind.Version or EntryKind.MilestoneCopy or EntryKind.MasterCopy })
            return new Refusal.KeptForGood(from.Path);
        var (isNew, refusal) = await MakeWayAsync(deed, to.Project, to.Path, isFolder: false, overwrites, cancel);
        if (refusal is not null)
            return refusal;
        await SharedProperties.TakeAcrossAsync(db, (from.Project, from.Path), (to.Project, to.Path), cancel);
        var tree = new ProjectTree(db, to.Project);
        var folder = to.Path.Folder is { } around ? await tree.FindAsync(around, cancel) : null;
        if (
            isMove
            && isNew
            && node is { Shared: null, Entry: { Kind: EntryKind.OwnFile } own }
            && (to.Path.Folder is null || folder is { Kind: EntryKind.Folder, Role: var role } && !role.IsWorking())
            && SharedNames.Of(to.Path.Name) == SharedNameKind.Work
        )
        {
            await SharedProperties.ForgetAsync(db, from.Project, from.Path, cancel);
            await MoveAcrossAsync(deed, own.Id, tree, to, folder?.Role ?? FolderRole.Documents, cancel);
            return new SharedChange(true, hash);
        }
        var placed = await PlaceAsync(deed, to.Project, to.Path, (hash, node.Size), cancel);
        if (!placed.Done || !isMove)
            return placed;
        await db.SaveChangesAsync(cancel);
        var gone = await TakeOffAsync(deed, from.Project, from.Path, cancel, isElsewhere: true);
        return gone.Done ? new SharedChange(isNew, hash) : gone.Refusal;
    }

    // With its past and its links, and what belongs to it goes along.
    private static async Task MoveAcrossAsync(
        Deed deed,
        Guid entryId,
        ProjectTree tree,
        SharedPlace to,
        FolderRole role,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        var entry = await db.Entries.FirstAsync(e => e.Id == entryId, cancel);
        var (was, here) = (entry.Path, new ProjectTree(db, entry.ProjectId));
        var companions = await CompanionFiles.OfAsync(db, here, [entry], cancel);
        await PutAsync(entry, to.Path);
        foreach (var (_, companion) in companions)
            await PutAsync(companion, ProjectTree.In(to.Path.Folder, Companions.Renamed(companion.Path.Name, was.Name, to.Path.Name)));
        await db.SaveChangesAsync(cancel);
        await FileLinks.OfMovedAsync(db, [entry, .. companions.Select(c => c.Companion)], cancel);

        async Task PutAsync(TreeEntry moved, ProjectPath at)
        {
            (moved.ProjectId, moved.Role) = (to.Project, role);
            await tree.MoveAsync(moved, at, cancel);
            var contents = db.FileContents.Where(c => c.EntryId == moved.Id);
            await db
                .Links.Where(l => contents.Any(c => c.Id == l.FileContentId))
                .ExecuteUpdateAsync(u => u.SetProperty(l => l.ProjectId, to.Project), cancel);
        }
    }

    /// <summary>Where a file stood that was moved here from another project; null for any other file.</summary>
    public static Task<PastPlace?> CameFromAsync(StudioDb db, TreeEntry entry, CancellationToken cancel = default) =>
        db
            .PastPlaces.AsNoTracking()
            .Where(p => p.EntryId == entry.Id && p.ProjectId != entry.ProjectId)
            .OrderByDescending(p => p.Until)
            .FirstOrDefaultAsync(cancel);

    /// <summary>Undoes a move from another project: the file with its past, its properties and what belongs to it is where it was.</summary>
    public Task<Outcome<TreeEntry>> MoveHomeAsync(Actor actor, Guid entryId, CancellationToken cancel = default) =>
        deeds.DoAsync<TreeEntry>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                var files = db.Entries.Where(e => e.Id == entryId && e.Kind == EntryKind.OwnFile && e.DeletedAt == null);
                if (await files.FirstOrDefaultAsync(cancel) is not { } entry || await CameFromAsync(db, entry, cancel) is not { } was)
                    return new Refusal.NoSuchEntry();
                if (!await db.Projects.AnyAsync(p => p.Id == was.ProjectId, cancel))
                    return new Refusal.NoSuchProject();
                var tree = new ProjectTree(db, was.ProjectId);
                var folder = was.Path.Folder is { } around ? await tree.FindAsync(around, cancel) : null;
                if (was.Path.Folder is { } gone && folder is not { Kind: EntryKind.Folder })
                    return new Refusal.NoSuchFolder(gone);
                if (await new ShareTree(db, was.ProjectId).FindAsync(was.Path, cancel) is not null)
                    return new Refusal.PathTaken(was.Path);
                var (from, to) = ((entry.ProjectId, entry.Path), (was.ProjectId, was.Path));
                await SharedProperties.TakeAcrossAsync(db, from, to, cancel);
                await SharedProperties.ForgetAsync(db, entry.ProjectId, entry.Path, cancel);
                await MoveAcrossAsync(deed, entry.Id, tree, new SharedPlace(was.ProjectId, was.Path), was.Role, cancel);
                return entry;
            },
            cancel
        );
}
