using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tree;

/// <summary>
/// Makes, moves, renames, deletes and takes back what stands in a project's tree. The names of versions and their copies are the
/// convention's.
/// </summary>
public sealed class TendTree(DeedRunner deeds)
{
    /// <summary>Makes a folder, of the role of the one that it lies in.</summary>
    public Task<Outcome<TreeEntry>> MakeFolderAsync(Actor actor, Guid projectId, ProjectPath path, CancellationToken cancel = default) =>
        deeds.DoAsync<TreeEntry>(
            actor,
            Right.Work,
            async deed =>
            {
                if (!await deed.Db.Projects.AnyAsync(p => p.Id == projectId, cancel))
                    return new Refusal.NoSuchProject();
                var tree = new ProjectTree(deed.Db, projectId);
                if (await tree.FindAsync(path, cancel) is { } there)
                    return new Refusal.PathTaken(there.Path);
                var (role, refusal) = await RoleInAsync(tree, path.Folder, cancel);
                return refusal is not null
                    ? refusal
                    : await tree.PlaceAsync(
                        new TreeEntry
                        {
                            Kind = EntryKind.Folder,
                            Path = path,
                            PathKey = "",
                            Role = role,
                            Order = int.MaxValue,
                        },
                        cancel
                    );
            },
            cancel
        );

    /// <summary>Moves or renames an entry, and all that lies in it where it is a folder.</summary>
    /// <param name="to">Its new path; the folder that it leads into must be there.</param>
    public Task<Outcome<TreeEntry>> MoveAsync(Actor actor, Guid entryId, ProjectPath to, CancellationToken cancel = default) =>
        deeds.DoAsync<TreeEntry>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await FindAsync(deed, entryId, cancel) is not { } entry)
                    return new Refusal.NoSuchEntry();
                if (entry.Kind is EntryKind.Version or EntryKind.MilestoneCopy)
                    return new Refusal.NamedByConvention(entry.Path);
                if (entry.Kind == EntryKind.CurrentFile && to.Name != entry.Path.Name)
                    return new Refusal.NamedByConvention(entry.Path);
                if (to == entry.Path)
                    return entry;
                if (entry.Kind == EntryKind.Folder && to.IsIn(entry.Path))
                    return new Refusal.IntoItself(entry.Path);
                var tree = new ProjectTree(deed.Db, entry.ProjectId);
                if (await tree.FindAsync(to, cancel) is { } there && there.Id != entry.Id)
                    return new Refusal.PathTaken(there.Path);
                var (role, refusal) = await RoleInAsync(tree, to.Folder, cancel);
                if (refusal is not null)
                    return refusal;
                if (entry.Kind == EntryKind.CurrentFile && !role.IsWorking())
                    return new Refusal.OnlyInWorkingFolder(entry.Path);
                if (entry.Kind == EntryKind.OwnFile && role.IsWorking())
                    return new Refusal.WorkingFolder(to.Folder!);
                var (from, within) = (entry.Path, entry.Kind == EntryKind.Folder ? await tree.Under(entry.Path).ToListAsync(cancel) : []);
                // A folder of the plan keeps what it is for, wherever it stands; anything else is of the folder that it comes to.
                if (entry.Kind != EntryKind.Folder)
                    entry.Role = role;
                // The index on paths is asked row by row, so what lies within goes by a name that nothing else has.
                foreach (var inner in within)
                    inner.PathKey = $"/{inner.Id:N}";
                await deed.Db.SaveChangesAsync(cancel);
                await tree.MoveAsync(entry, to, cancel);
                foreach (var inner in within)
                    await tree.MoveAsync(inner, ProjectPath.Parse(to.Text + inner.Path.Text[from.Text.Length..]), cancel);
                return entry;
            },
            cancel
        );

    /// <summary>Deletes a file or a folder with what is in it. It can be taken back; its content and its past stay until then.</summary>
    public Task<Outcome<TreeEntry>> DeleteAsync(Actor actor, Guid entryId, CancellationToken cancel = default) =>
        deeds.DoAsync<TreeEntry>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await FindAsync(deed, entryId, cancel) is not { } entry)
                    return new Refusal.NoSuchEntry();
                if (entry.PieceId is not null)
                    return new Refusal.HoldsPieces(entry.Path);
                var within =
                    entry.Kind == EntryKind.Folder
                        ? await new ProjectTree(deed.Db, entry.ProjectId).Under(entry.Path).ToListAsync(cancel)
                        : [];
                if (within.Exists(e => e.PieceId is not null))
                    return new Refusal.HoldsPieces(entry.Path);
                foreach (var gone in within.Append(entry))
                    (gone.DeletedAt, gone.DeletedById) = (deed.Now, actor.PersonId);
                return entry;
            },
            cancel
        );

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
                return entry;
            },
            cancel
        );

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
        await tree.PlaceAsync(
            new TreeEntry
            {
                Kind = EntryKind.Folder,
                Path = folder,
                PathKey = "",
                Role = role,
                Order = int.MaxValue,
            },
            cancel
        );
    }
}
