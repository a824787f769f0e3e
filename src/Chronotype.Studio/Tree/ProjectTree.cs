using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tree;

/// <summary>A project's tree as a deed sees and changes it: within the deed's own transaction.</summary>
public sealed class ProjectTree(StudioDb db, Guid projectId)
{
    /// <summary>What stands there now, deleted things left out.</summary>
    public IQueryable<TreeEntry> Entries => db.Entries.Where(e => e.ProjectId == projectId && e.DeletedAt == null);

    /// <summary>The folder that has a role; the first of its plan where several have.</summary>
    /// <returns>Null where the project has none.</returns>
    public Task<TreeEntry?> FolderOfAsync(FolderRole role, CancellationToken cancel = default) =>
        Entries
            .Where(e => e.Kind == EntryKind.Folder && e.Role == role)
            .OrderBy(e => e.Order)
            .ThenBy(e => e.PathKey)
            .FirstOrDefaultAsync(cancel);

    public Task<TreeEntry?> FindAsync(ProjectPath path, CancellationToken cancel = default) =>
        Entries.FirstOrDefaultAsync(e => e.PathKey == path.Key, cancel);

    /// <summary>What lies in a folder, at any depth.</summary>
    public IQueryable<TreeEntry> Under(ProjectPath folder)
    {
        // Not LIKE: a name may hold its wild cards.
        var (from, to) = (folder.Key + "/", folder.Key + "0");
        return Entries.Where(e => string.Compare(e.PathKey, from) > 0 && string.Compare(e.PathKey, to) < 0);
    }

    /// <summary>Puts something at a place, or at the next free name beside it where that is taken.</summary>
    public async Task<TreeEntry> PlaceAsync(TreeEntry entry, CancellationToken cancel = default)
    {
        entry.ProjectId = projectId;
        Set(entry, await FreeAsync(entry.Path, entry.Id, cancel));
        db.Entries.Add(entry);
        return entry;
    }

    /// <summary>Gives an entry another path, or the next free name beside it.</summary>
    public async Task MoveAsync(TreeEntry entry, ProjectPath to, CancellationToken cancel = default) =>
        Set(entry, await FreeAsync(to, entry.Id, cancel));

    /// <summary>Puts a piece's current file, a version or a milestone copy where the tree has its kind.</summary>
    public async Task PlaceAsync(
        EntryKind kind,
        string name,
        Guid pieceId,
        Guid? saveId = null,
        Guid? milestoneId = null,
        CancellationToken cancel = default
    )
    {
        var folder = await FolderForAsync(kind, cancel);
        await PlaceAsync(
            new TreeEntry
            {
                Kind = kind,
                Path = In(folder?.Path, name),
                PathKey = "",
                Role = folder?.Role ?? FolderRole.Working,
                PieceId = pieceId,
                SaveId = saveId,
                MilestoneId = milestoneId,
            },
            cancel
        );
    }

    /// <summary>Puts the copy of a master where the tree has masters.</summary>
    /// <param name="folder">The name of a folder of its own; null for none.</param>
    public async Task<TreeEntry> PlaceMasterAsync(
        string name,
        string? folder,
        Guid pieceId,
        Guid saveId,
        CancellationToken cancel = default
    )
    {
        var home = await FolderForAsync(EntryKind.MasterCopy, cancel);
        var at = home?.Path;
        if (folder is not null)
        {
            at = In(at, folder);
            if (await FindAsync(at, cancel) is not { Kind: EntryKind.Folder })
                at = (
                    await PlaceAsync(
                        new TreeEntry
                        {
                            Kind = EntryKind.Folder,
                            Path = at,
                            PathKey = "",
                            Role = FolderRole.Masters,
                        },
                        cancel
                    )
                ).Path;
        }
        return await PlaceAsync(
            new TreeEntry
            {
                Kind = EntryKind.MasterCopy,
                Path = In(at, name),
                PathKey = "",
                Role = FolderRole.Masters,
                PieceId = pieceId,
                SaveId = saveId,
            },
            cancel
        );
    }

    /// <summary>Gives what stands at a place another name in its folder.</summary>
    public async Task RenameAsync(TreeEntry entry, string name, CancellationToken cancel = default) =>
        await MoveAsync(entry, In(entry.Path.Folder, name), cancel);

    /// <summary>
    /// Gives what stands at a place another name: in its folder, or, where it stood in another project, in the folder that this one has
    /// for its kind.
    /// </summary>
    public async Task TakeAsync(TreeEntry entry, string name, CancellationToken cancel = default)
    {
        if (entry.ProjectId == projectId)
        {
            await RenameAsync(entry, name, cancel);
            return;
        }
        var folder = await FolderForAsync(entry.Kind, cancel);
        (entry.ProjectId, entry.Role) = (projectId, folder?.Role ?? FolderRole.Working);
        await MoveAsync(entry, In(folder?.Path, name), cancel);
    }

    /// <summary>The path, or the first that is free of <c>name (2)</c>, <c>name (3)</c> and so on.</summary>
    /// <param name="except">What may stand there: the entry that is to be placed.</param>
    /// <param name="isTaken">Says of a path that the tree leaves free whether something else stands there; null for nothing else.</param>
    public async Task<ProjectPath> FreeAsync(
        ProjectPath path,
        Guid except,
        CancellationToken cancel = default,
        Func<ProjectPath, Task<bool>>? isTaken = null
    )
    {
        var free = path;
        for (var n = 2; await IsTakenAsync(free, except, cancel) || (isTaken is not null && await isTaken(free)); n++)
            free = Beside(path, n);
        return free;
    }

    private async Task<bool> IsTakenAsync(ProjectPath path, Guid except, CancellationToken cancel)
    {
        var key = path.Key;
        return db.ChangeTracker.Entries<TreeEntry>()
                .Any(e => e.Entity.Id != except && e.Entity.ProjectId == projectId && e.Entity.DeletedAt == null && e.Entity.PathKey == key)
            || await Entries.AnyAsync(e => e.PathKey == key && e.Id != except, cancel);
    }

    private async Task<TreeEntry?> FolderForAsync(EntryKind kind, CancellationToken cancel)
    {
        var role = kind switch
        {
            EntryKind.Version => FolderRole.Versions,
            EntryKind.MilestoneCopy => FolderRole.Milestones,
            EntryKind.MasterCopy => FolderRole.Masters,
            _ => FolderRole.Home,
        };
        // Where a plan has no folder for it, it stands with the current files; where it has none for these either, at the top.
        return await FolderOfAsync(role, cancel)
            ?? await FolderOfAsync(FolderRole.Home, cancel)
            ?? await FolderOfAsync(FolderRole.Working, cancel);
    }

    private static void Set(TreeEntry entry, ProjectPath path) => (entry.Path, entry.PathKey) = (path, path.Key);

    internal static ProjectPath In(ProjectPath? folder, string name) => folder is null ? ProjectPath.Parse(name) : folder.Append(name);

    private static ProjectPath Beside(ProjectPath path, int n)
    {
        var dot = path.Name.LastIndexOf('.');
        var (stem, extension) = dot > 0 ? (path.Name[..dot], path.Name[dot..]) : (path.Name, "");
        return In(path.Folder, $"{stem} ({n}){extension}");
    }
}
