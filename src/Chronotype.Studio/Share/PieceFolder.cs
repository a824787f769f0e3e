using Chronotype.Core.Content;
using Chronotype.Core.Share;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Share;

/// <summary>
/// A piece's content where it is a folder of files, as it stands on the share under the name that its file would have: the files of a save,
/// and before them what programs have written and taken away since.
/// </summary>
public sealed class PieceFolder
{
    private readonly TreeEntry entry;
    private readonly List<ContentFile> saved;
    private readonly List<ProjectPath> savedFolders;
    private readonly List<SharedFile> all;
    private readonly List<SharedFile> rows;
    private readonly DateTimeOffset savedAt;
    private Dictionary<string, ShareNode>? nodes;

    private PieceFolder(TreeEntry entry, Save? save, List<SharedFile> all)
    {
        (this.entry, this.all) = (entry, all);
        // What was settled into an earlier save has given way to a newer one; what programs keep for themselves stays beside any.
        rows = all.FindAll(r => r.SettledAt is null || save is null || r.SettledAt >= save.ArrivedAt || !IsWork(r.Within!));
        IsFresh = rows.Exists(r => r.Within == "");
        (saved, savedFolders) = IsFresh || save is null ? ([], []) : (FilesOf(save), FoldersOf(save));
        savedAt = save is null ? entry.StandsSince : save.KeptAt ?? save.ArrivedAt;
    }

    /// <summary>The place in the tree.</summary>
    public ProjectPath Path => entry.Path;

    public Guid PieceId => entry.PieceId!.Value;

    /// <summary>The alt whose folder it is; null for the line on which work goes on.</summary>
    public Guid? LineId => entry.LineId;

    /// <summary>A kept version, or a copy of one.</summary>
    public bool IsForGood => !entry.Kind.IsCurrent();

    /// <summary>It was made anew: nothing of what was saved before is in it.</summary>
    public bool IsFresh { get; }

    /// <summary>What programs have written and taken away, and is no save yet.</summary>
    public IEnumerable<SharedFile> Pending => rows.Where(r => r.SettledAt is null);

    internal static bool MayBeFolder(EntryKind kind) =>
        kind.IsCurrent() || kind is EntryKind.Version or EntryKind.MilestoneCopy or EntryKind.MasterCopy;

    /// <summary>The folder in which a path lies, at any depth.</summary>
    /// <param name="orItself">What stands at the path may be that folder, too.</param>
    /// <returns>Null where it lies in none that is a piece.</returns>
    public static async Task<PieceFolder?> AroundAsync(
        StudioDb db,
        Guid projectId,
        ProjectPath path,
        CancellationToken cancel,
        bool orItself = false
    )
    {
        var keys = KeysAround(path);
        if (orItself)
            keys.Add(path.Key);
        if (keys.Count == 0)
            return null;
        var entry = await db
            .Entries.AsNoTracking()
            .Where(e => e.ProjectId == projectId && keys.Contains(e.PathKey) && e.DeletedAt == null && e.Kind != EntryKind.Folder)
            .FirstOrDefaultAsync(cancel);
        return entry is null ? null : await OfAsync(db, entry, cancel);
    }

    /// <summary>The keys of the folders that a path lies in.</summary>
    internal static List<string> KeysAround(ProjectPath path)
    {
        var keys = new List<string>();
        for (var folder = path.Folder; folder is not null; folder = folder.Folder)
            keys.Add(folder.Key);
        return keys;
    }

    /// <returns>Null where what stands there is no folder, or nothing.</returns>
    public static async Task<PieceFolder?> OfAsync(StudioDb db, TreeEntry entry, CancellationToken cancel)
    {
        if (!MayBeFolder(entry.Kind) || entry.PieceId is not { } piece)
            return null;
        var isCurrent = entry.Kind.IsCurrent();
        var (isPieces, held) = (entry.Kind == EntryKind.CurrentFile, entry.SaveId);
        if (entry.LineId is { } line)
            held = await CurrentSaves.OfLineAsync(db, line, cancel);
        var save = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .FirstOrDefaultAsync(s => isPieces ? s.PieceId == piece && s.IsCurrent : s.Id == held, cancel);
        var rows = isCurrent
            ? await db.SharedFiles.Where(f => f.PieceId == piece && f.LineId == entry.LineId && f.Within != null).ToListAsync(cancel)
            : [];
        var folder = new PieceFolder(entry, save, rows);
        if (!folder.IsFresh && save is not { Files.Count: > 1 })
            return null;
        var isOff =
            isCurrent
            && await db.SharedFiles.AnyAsync(f => f.ProjectId == entry.ProjectId && f.PathKey == entry.PathKey && f.Within == null, cancel);
        // Taken off the share, or a file has been put in its place.
        return isOff ? null : folder;
    }

    /// <summary>What stands at a path in it; null for nothing.</summary>
    public ShareNode? Find(ProjectPath path) => Nodes.GetValueOrDefault(path.Key);

    /// <summary>The folder itself.</summary>
    public ShareNode Whole => Node(Path, null, 0, rows.Select(r => r.At).Append(savedAt).Max(), null, FolderPart.Whole);

    /// <summary>What stands in the folder, or in one within it.</summary>
    public IReadOnlyList<ShareNode> In(ProjectPath folder) =>
        [.. Nodes.Values.Where(n => n.Path!.Folder?.Key == folder.Key).OrderBy(n => n.Path!.Key, StringComparer.Ordinal)];

    /// <summary>
    /// The content that it is now, without what programs and desktops keep in it for themselves. An empty file over one that is not is the
    /// beginning of a save, which may never be followed by anything.
    /// </summary>
    public (IReadOnlyList<ContentFile> Files, IReadOnlyList<ProjectPath> EmptyFolders) Content()
    {
        // Of names that are one here and are two in a zip, both stay.
        var files = new Dictionary<string, ContentFile>();
        foreach (var file in saved)
            files[files.ContainsKey(file.Path.Key) ? file.Path.Text : file.Path.Key] = file;
        var folders = savedFolders.ToDictionary(f => f.Key);
        foreach (var row in rows.Where(r => r.Within!.Length > 0))
        {
            var within = ProjectPath.Parse(row.Within!);
            var before = files.GetValueOrDefault(within.Key);
            if (row.IsFolder)
            {
                files.Remove(within.Key);
                folders[within.Key] = within;
            }
            else if (row.Hash is not { } hash)
                _ = files.Remove(within.Key) || folders.Remove(within.Key);
            else if (before is null ? IsWork(row.Within!) : row.Size > 0 || before.Size == 0)
                files[within.Key] = new ContentFile(within, hash, row.Size);
        }
        // A folder with something in it is told by that.
        foreach (var around in files.Values.SelectMany(f => KeysAround(f.Path)).Concat(folders.Values.SelectMany(KeysAround)).ToHashSet())
            folders.Remove(around);
        return ([.. files.Values.OrderBy(f => f.Path.Text, StringComparer.Ordinal)], [.. folders.Values]);
    }

    /// <summary>Has a file stand in it, or a folder.</summary>
    /// <param name="path">From the project's top.</param>
    /// <param name="held">What the file holds; null for a folder.</param>
    internal Refusal? Put(Deed deed, ProjectPath path, (ContentHash Hash, long Size)? held, long newBytes = 0)
    {
        if (IsForGood)
            return new Refusal.KeptForGood(Path);
        var parent = path.Folder!;
        if (parent.Key != Path.Key && Find(parent) is not { IsFolder: true })
            return new Refusal.NoSuchFolder(parent);
        if (Find(path) is { } there && (held is null || there.IsFolder))
            return new Refusal.PathTaken(path);
        // What somebody else is in the middle of is a save of theirs first.
        if (Pending.Any(r => r.Size > 0 && r.ById != deed.Actor.PersonId && IsWork(r.Within!)))
            return new Refusal.HeldBefore(Path);
        Row(deed, path, held, isFolder: held is null, newBytes);
        return null;
    }

    /// <summary>Takes a file out of it, or a folder with all that is in it.</summary>
    internal Refusal? TakeOff(Deed deed, ProjectPath path)
    {
        if (IsForGood)
            return new Refusal.KeptForGood(Path);
        if (Find(path) is not { } node)
            return new Refusal.NoSuchEntry();
        var isSaved = saved.Select(f => f.Path.Key).Concat(savedFolders.Select(f => f.Key)).ToHashSet();
        var under = path.Key + "/";
        foreach (
            var gone in Nodes
                .Values.Where(n => n.Path!.Key == path.Key || (node.IsFolder && n.Path.Key.StartsWith(under, StringComparison.Ordinal)))
                .ToList()
        )
        {
            if (isSaved.Contains(Within(gone.Path!).Key))
                Row(deed, gone.Path!, null, isFolder: false, 0);
            else if (rows.Find(r => IsAt(r, gone.Path!)) is { } row)
            {
                rows.Remove(row);
                all.Remove(row);
                deed.Db.SharedFiles.Remove(row);
            }
        }
        nodes = null;
        // A folder stays when the last of what was in it goes.
        if (path.Folder is { } parent && parent.Key != Path.Key && Find(parent) is null)
            Row(deed, parent, null, isFolder: true, 0);
        return null;
    }

    private void Row(Deed deed, ProjectPath path, (ContentHash Hash, long Size)? held, bool isFolder, long newBytes)
    {
        var row = all.Find(r => IsAt(r, path));
        if (row is null)
        {
            all.Add(row = ShareFiles.NewShared(entry.ProjectId, path));
            deed.Db.SharedFiles.Add(row);
        }
        if (!rows.Contains(row))
            rows.Add(row);
        (row.Path, row.PathKey, row.FolderKey) = (path, path.Key, path.Folder?.Key ?? "");
        (row.Within, row.IsFolder) = (Within(path).Text, isFolder);
        (row.PieceId, row.LineId) = (PieceId, LineId);
        (row.Hash, row.Size, row.NewBytes) = (held?.Hash, held?.Size ?? 0, newBytes);
        (row.At, row.ById, row.SettledAt) = (deed.Now, deed.Actor.PersonId, null);
        Lay(Nodes, row);
    }

    private Dictionary<string, ShareNode> Nodes => nodes ??= Laid();

    private Dictionary<string, ShareNode> Laid()
    {
        var laid = new Dictionary<string, ShareNode>();
        foreach (var file in saved)
        {
            // One whose way would be too long from the project's top is in the save, and not to be reached here.
            if (ProjectPath.TryParse($"{Path.Text}/{file.Path.Text}", out var path, out _))
                laid[path.Key] = Node(path, file.Hash, file.Size, savedAt, null, FolderPart.File);
        }
        foreach (var folder in savedFolders)
        {
            if (ProjectPath.TryParse($"{Path.Text}/{folder.Text}", out var path, out _))
                laid[path.Key] = Node(path, null, 0, savedAt, null, FolderPart.Folder);
        }
        foreach (var row in rows.Where(r => r.Within!.Length > 0))
            Lay(laid, row);
        foreach (var node in laid.Values.ToList())
        {
            for (var folder = node.Path!.Folder!; folder.Key != Path.Key; folder = folder.Folder!)
                laid.TryAdd(folder.Key, Node(folder, null, 0, node.ChangedAt, null, FolderPart.Folder));
        }
        return laid;
    }

    private void Lay(Dictionary<string, ShareNode> laid, SharedFile row)
    {
        var path = ProjectPath.Parse($"{Path.Text}/{row.Within}");
        if (row is { Hash: null, IsFolder: false })
            laid.Remove(path.Key);
        else
            laid[path.Key] = Node(path, row.Hash, row.Size, row.At, row, row.IsFolder ? FolderPart.Folder : FolderPart.File);
    }

    private ShareNode Node(ProjectPath path, ContentHash? hash, long size, DateTimeOffset at, SharedFile? row, FolderPart part) =>
        new(path, hash, size, at, entry, row) { Part = part };

    // By its place within: the piece may have been renamed or moved since it was written.
    private bool IsAt(SharedFile row, ProjectPath path) => row.Within!.ToLowerInvariant() == Within(path).Key;

    private ProjectPath Within(ProjectPath path) => ProjectPath.Parse(path.Text[(Path.Text.Length + 1)..]);

    private static bool IsWork(string within) => within.Length == 0 || SharedNames.IsWork(ProjectPath.Parse(within));

    private static List<ContentFile> FilesOf(Save save) =>
        save.Files.ConvertAll(f => new ContentFile(ProjectPath.Parse(f.Path), f.Hash, f.Size));

    private static List<ProjectPath> FoldersOf(Save save) => save.EmptyFolders?.Split('\n').Select(ProjectPath.Parse).ToList() ?? [];
}
