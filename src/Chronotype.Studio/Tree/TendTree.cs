using Chronotype.Core.Content;
using Chronotype.Core.Naming.Checking;
using Chronotype.Core.Structure;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tree;

/// <summary>What was deleted.</summary>
/// <param name="Files">How many files, those in folders among them.</param>
public sealed record DeletedEntries(IReadOnlyList<TreeEntry> Entries, int Files);

/// <summary>
/// Makes, moves, renames, deletes and takes back what stands in a project's tree. The names of versions and their copies are the
/// convention's.
/// </summary>
public sealed partial class TendTree(DeedRunner deeds)
{
    /// <summary>Makes a folder, of the role of the one that it lies in.</summary>
    public Task<Outcome<TreeEntry>> MakeFolderAsync(Actor actor, Guid projectId, ProjectPath path, CancellationToken cancel = default) =>
        deeds.DoAsync(actor, Right.Work, deed => MakeFolderWithinAsync(deed, projectId, path, cancel), cancel);

    /// <summary>As <see cref="MakeFolderAsync"/>, as part of a deed that does more.</summary>
    internal static async Task<Outcome<TreeEntry>> MakeFolderWithinAsync(
        Deed deed,
        Guid projectId,
        ProjectPath path,
        CancellationToken cancel
    )
    {
        if (!await deed.Db.Projects.AnyAsync(p => p.Id == projectId, cancel))
            return new Refusal.NoSuchProject();
        if (NameFault(path.Name) is { } why)
            return new Refusal.FileNameNotLegal(path.Name, why);
        var tree = new ProjectTree(deed.Db, projectId);
        if (await tree.FindAsync(path, cancel) is { } there)
            return new Refusal.PathTaken(there.Path);
        var (role, refusal) = await RoleInAsync(tree, path.Folder, cancel);
        return refusal is not null ? refusal : await tree.PlaceAsync(NewFolder(path, role), cancel);
    }

    /// <summary>Deletes a file or a folder with what is in it. It can be taken back; its content and its past stay until then.</summary>
    public async Task<Outcome<TreeEntry>> DeleteAsync(Actor actor, Guid entryId, CancellationToken cancel = default)
    {
        var outcome = await DeleteAsync(actor, [entryId], cancel);
        return outcome.Done ? outcome.Result.Entries[0] : outcome.Refusal;
    }

    /// <summary>Deletes several at once: all of them, or none.</summary>
    public Task<Outcome<DeletedEntries>> DeleteAsync(Actor actor, IReadOnlyList<Guid> entryIds, CancellationToken cancel = default) =>
        deeds.DoAsync(actor, Right.Work, deed => DeleteWithinAsync(deed, entryIds, cancel), cancel);

    /// <summary>As <see cref="DeleteAsync(Actor, IReadOnlyList{Guid}, CancellationToken)"/>, as part of a deed that does more.</summary>
    internal static async Task<Outcome<DeletedEntries>> DeleteWithinAsync(Deed deed, IReadOnlyList<Guid> entryIds, CancellationToken cancel)
    {
        var (entries, files) = (new List<TreeEntry>(), 0);
        foreach (var id in entryIds)
        {
            if (await FindAsync(deed, id, cancel) is not { } entry)
                return new Refusal.NoSuchEntry();
            if (entry.PieceId is not null && entry.Kind != EntryKind.Companion)
                return new Refusal.HoldsPieces(entry.Path);
            var within =
                entry.Kind == EntryKind.Folder ? await new ProjectTree(deed.Db, entry.ProjectId).Under(entry.Path).ToListAsync(cancel) : [];
            if (within.Exists(e => e.PieceId is not null))
                return new Refusal.HoldsPieces(entry.Path);
            entries.Add(entry);
            // Companions go where their file goes.
            foreach (
                var (_, companion) in await CompanionFiles.OfAsync(deed.Db, new ProjectTree(deed.Db, entry.ProjectId), [entry], cancel)
            )
                within.Add(companion);
            foreach (var gone in within.Append(entry).Where(e => e.DeletedAt is null))
            {
                (gone.DeletedAt, gone.DeletedById) = (deed.Now, deed.Actor.PersonId);
                files += gone.Kind == EntryKind.Folder ? 0 : 1;
            }
        }
        return new DeletedEntries(entries, files);
    }

    /// <summary>Takes back what was deleted in one go, each with all that went with it.</summary>
    public async Task<Outcome<TreeEntry>> RestoreAsync(Actor actor, IReadOnlyList<Guid> entryIds, CancellationToken cancel = default)
    {
        Outcome<TreeEntry> first = new Refusal.NoSuchEntry();
        foreach (var id in entryIds)
        {
            var outcome = await RestoreAsync(actor, id, cancel);
            // What lay in a folder that went, too, is back with it.
            if (!outcome.Done && outcome.Refusal is not Refusal.NoSuchEntry)
                return outcome;
            first = first.Done ? first : outcome;
        }
        return first;
    }

    /// <summary>Takes back what was deleted, with all that went with it: where it stood, or at the next free name beside that.</summary>
    public Task<Outcome<TreeEntry>> RestoreAsync(Actor actor, Guid entryId, CancellationToken cancel = default) =>
        deeds.DoAsync<TreeEntry>(
            actor,
            Right.Work,
            async deed =>
            {
                var entry = await deed.Db.Entries.FirstOrDefaultAsync(e => e.Id == entryId && e.DeletedAt != null, cancel);
                if (entry is null)
                    return new Refusal.NoSuchEntry();
                // What went with a project comes back with it.
                if (!await deed.Db.Projects.AnyAsync(p => p.Id == entry.ProjectId, cancel))
                    return new Refusal.NoSuchProject();
                if (entry.Kind == EntryKind.Companion && await PieceCompanions.OwnerOfAsync(deed.Db, entry, cancel) is { } owner)
                {
                    (entry.DeletedAt, entry.DeletedById) = (null, null);
                    await PieceCompanions.StandAsync(deed.Db, entry, owner, entry.Path.Name, cancel);
                    return entry;
                }
                // What went with a piece comes back with it.
                if (entry.PieceId is not null)
                    return new Refusal.HoldsPieces(entry.Path);
                var tree = new ProjectTree(deed.Db, entry.ProjectId);
                var (when, from) = (entry.DeletedAt, entry.Path);
                var gone = await deed
                    .Db.Entries.Where(e => e.ProjectId == entry.ProjectId && e.DeletedAt == when && e.Id != entryId && e.PieceId == null)
                    .ToListAsync(cancel);
                await MakeWayAsync(tree, from.Folder, cancel);
                (entry.DeletedAt, entry.DeletedById) = (null, null);
                await tree.MoveAsync(entry, from, cancel);
                foreach (var inner in gone.Where(e => entry.Kind == EntryKind.Folder && e.Path.IsIn(from)).OrderBy(e => e.Path.Depth))
                {
                    (inner.DeletedAt, inner.DeletedById) = (null, null);
                    await tree.MoveAsync(inner, ProjectPath.Parse(entry.Path.Text + inner.Path.Text[from.Text.Length..]), cancel);
                }
                var endings = await CompanionFiles.EndingsAsync(deed.Db, cancel);
                foreach (var companion in gone.Where(e => entry.Kind == EntryKind.OwnFile && e.FolderKey == (from.Folder?.Key ?? "")))
                {
                    if (Companions.OwnerOf(companion.Path.Name, [from.Name], endings) is null)
                        continue;
                    (companion.DeletedAt, companion.DeletedById) = (null, null);
                    await tree.MoveAsync(companion, companion.Path, cancel);
                }
                return entry;
            },
            cancel
        );

    /// <summary>Says whether files can be made again from others, so that they are left out first where room or weight counts.</summary>
    public Task<Outcome<Done>> MarkAsync(
        Actor actor,
        IReadOnlyList<Guid> entryIds,
        bool canBeMadeAgain,
        CancellationToken cancel = default
    ) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
            {
                foreach (var id in entryIds)
                {
                    if (await FindAsync(deed, id, cancel) is not { Kind: EntryKind.OwnFile } entry)
                        return new Refusal.NoSuchEntry();
                    // An original cannot: it is what others are made from.
                    if (canBeMadeAgain && entry.Role == FolderRole.Originals)
                        return new Refusal.NeverMadeAgain(entry.Path);
                    entry.CanBeMadeAgain = canBeMadeAgain;
                }
                return Done.It;
            },
            cancel
        );

    /// <summary>A folder, which is made where it is not there yet, with those that lead to it.</summary>
    /// <returns>Null where a file stands where one of them would.</returns>
    internal static async Task<TreeEntry?> ReachAsync(ProjectTree tree, ProjectPath folder, CancellationToken cancel)
    {
        if (await tree.FindAsync(folder, cancel) is { } there)
            return there;
        var role = FolderRole.Documents;
        if (folder.Folder is { } around)
        {
            if (await ReachAsync(tree, around, cancel) is not { Kind: EntryKind.Folder } above)
                return null;
            (role, folder) = (Inherited(above.Role), above.Path.Append(folder.Name));
        }
        return await tree.PlaceAsync(NewFolder(folder, role), cancel);
    }

    // Behind those of the plan.
    private static TreeEntry NewFolder(ProjectPath path, FolderRole role) =>
        new()
        {
            Kind = EntryKind.Folder,
            Path = path,
            PathKey = "",
            Role = role,
            Order = int.MaxValue,
        };

    private static string? NameFault(string name)
    {
        var faults = new List<NameFault>();
        FileSystemRules.Check(name, null, faults);
        return faults.FirstOrDefault()?.Message;
    }

    private static Task<TreeEntry?> FindAsync(Deed deed, Guid entryId, CancellationToken cancel) =>
        deed.Db.Entries.FirstOrDefaultAsync(e => e.Id == entryId && e.DeletedAt == null, cancel);

    private static async Task<(FolderRole Role, Refusal? Refusal)> RoleInAsync(
        ProjectTree tree,
        ProjectPath? folder,
        CancellationToken cancel
    )
    {
        if (folder is null)
            return (FolderRole.Documents, null);
        return await tree.FindAsync(folder, cancel) is { Kind: EntryKind.Folder } there
            ? (Inherited(there.Role), null)
            : (default, new Refusal.NoSuchFolder(folder));
    }

    // What current files and versions stand in is one folder each; a folder within it is for work.
    private static FolderRole Inherited(FolderRole role) => role.IsWorking() ? FolderRole.Working : role;

    // The folders that led to it may be gone, too, or a file may stand where one was.
    private static async Task MakeWayAsync(ProjectTree tree, ProjectPath? folder, CancellationToken cancel)
    {
        if (folder is null || await tree.FindAsync(folder, cancel) is { Kind: EntryKind.Folder })
            return;
        await MakeWayAsync(tree, folder.Folder, cancel);
        var (role, _) = await RoleInAsync(tree, folder.Folder, cancel);
        await tree.PlaceAsync(NewFolder(folder, role), cancel);
    }
}
