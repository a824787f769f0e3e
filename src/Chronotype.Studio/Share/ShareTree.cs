using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Share;

/// <summary>What something is of a piece that is a folder of files.</summary>
public enum FolderPart
{
    /// <summary>It is of none.</summary>
    None,

    /// <summary>The folder that is the piece.</summary>
    Whole,

    /// <summary>A folder within it.</summary>
    Folder,

    /// <summary>A file within it.</summary>
    File,
}

/// <summary>What stands at a place of the share.</summary>
/// <param name="Path">From the project's top; null for that itself.</param>
/// <param name="Hash">What a file holds; null for a folder, and for a piece without a save.</param>
/// <param name="Size">Bytes.</param>
/// <param name="ChangedAt">When it came to hold that.</param>
/// <param name="Entry">The place in the tree, of what is in a piece's folder that of the piece; null for what is on the share alone, and for the project's top.</param>
/// <param name="Shared">What a program has put there that is not part of the tree, or not yet; null for none.</param>
public sealed record ShareNode(
    ProjectPath? Path,
    ContentHash? Hash,
    long Size,
    DateTimeOffset ChangedAt,
    TreeEntry? Entry,
    SharedFile? Shared
)
{
    /// <summary>What it is of a piece that is a folder of files.</summary>
    public FolderPart Part { get; init; }

    public bool IsFolder =>
        Path is null || Part is FolderPart.Whole or FolderPart.Folder || (Shared is null && Entry?.Kind == EntryKind.Folder);

    /// <summary>What a folder is for.</summary>
    public FolderRole Role => Entry?.Role ?? FolderRole.Documents;

    /// <summary>It is what it is for good: a version, a copy of one, an original.</summary>
    public bool IsReadOnly =>
        Shared is null
        && (
            Entry?.Kind is EntryKind.Version or EntryKind.MilestoneCopy or EntryKind.MasterCopy
            || (Entry is { Kind: EntryKind.OwnFile, Role: FolderRole.Originals } && Size > 0)
        );
}

/// <summary>A project's tree as the share shows it: the entries of the tree, and before them what programs are in the middle of.</summary>
public sealed class ShareTree(StudioDb db, Guid projectId)
{
    private IQueryable<TreeEntry> Entries => db.Entries.AsNoTracking().Where(e => e.ProjectId == projectId && e.DeletedAt == null);

    private IQueryable<SharedFile> Shared => db.SharedFiles.AsNoTracking().Where(f => f.ProjectId == projectId);

    /// <param name="path">Null for the project's top.</param>
    /// <returns>Null where nothing stands there.</returns>
    public async Task<ShareNode?> FindAsync(ProjectPath? path, CancellationToken cancel = default)
    {
        if (path is null)
        {
            var began = await db
                .Projects.Where(p => p.Id == projectId)
                .Select(p => (DateTimeOffset?)p.StartedAt)
                .FirstOrDefaultAsync(cancel);
            return began is { } at ? new ShareNode(null, null, 0, at, null, null) : null;
        }
        var shared = await Shared.FirstOrDefaultAsync(f => f.PathKey == path.Key, cancel);
        var keys = PieceFolder.KeysAround(path);
        var entries = await Entries.Where(e => e.PathKey == path.Key || keys.Contains(e.PathKey)).ToListAsync(cancel);
        if (entries.Find(e => e.PathKey != path.Key && e.Kind != EntryKind.Folder) is { } piece)
            return (await PieceFolder.OfAsync(db, piece, cancel))?.Find(path);
        return (
            await WithAsync(
                Entries.Where(e => e.PathKey == path.Key),
                entries.FindAll(e => e.PathKey == path.Key),
                shared is null ? [] : [shared],
                cancel
            )
        ).FirstOrDefault();
    }

    /// <summary>What stands in a folder.</summary>
    public async Task<IReadOnlyList<ShareNode>> ListAsync(ShareNode folder, CancellationToken cancel = default)
    {
        if (folder is { Part: not FolderPart.None, Entry: { } piece })
            return (await PieceFolder.OfAsync(db, piece, cancel))?.In(folder.Path!) ?? [];
        var key = folder.Path?.Key ?? "";
        var asked = Entries.Where(e => e.FolderKey == key);
        return await WithAsync(
            asked,
            await Shown(asked.OrderBy(e => e.PathKey)).ToListAsync(cancel),
            await Shared.Where(f => f.FolderKey == key).OrderBy(f => f.PathKey).ToListAsync(cancel),
            cancel
        );
    }

    // What of an entry the share tells; of thousands the rest would only be read.
    private static IQueryable<TreeEntry> Shown(IQueryable<TreeEntry> entries) =>
        entries.Select(e => new TreeEntry
        {
            Id = e.Id,
            ProjectId = e.ProjectId,
            Kind = e.Kind,
            Path = e.Path,
            PathKey = e.PathKey,
            Role = e.Role,
            PieceId = e.PieceId,
            LineId = e.LineId,
            SaveId = e.SaveId,
            StandsSince = e.StandsSince,
        });

    private async Task<IReadOnlyList<ShareNode>> WithAsync(
        IQueryable<TreeEntry> asked,
        List<TreeEntry> entries,
        List<SharedFile> shared,
        CancellationToken cancel
    )
    {
        var before = shared.ToDictionary(s => s.PathKey);
        var held = await HeldAsync(asked, entries, cancel);
        var nodes = new List<ShareNode>();
        foreach (var entry in entries)
        {
            if (before.Remove(entry.PathKey, out var put) && !put.IsFolder)
            {
                if (put.Hash is not null)
                    nodes.Add(new ShareNode(entry.Path, put.Hash, put.Size, put.At, entry, put));
                continue;
            }
            if (entry.Kind == EntryKind.Folder)
                nodes.Add(new ShareNode(entry.Path, null, 0, entry.StandsSince, entry, null));
            else if (put is not null)
                nodes.Add(new ShareNode(entry.Path, null, 0, put.At, entry, null) { Part = FolderPart.Whole });
            else if (held.TryGetValue(entry.Id, out var one) && one.Files > 1)
                nodes.Add(new ShareNode(entry.Path, null, 0, one.At, entry, null) { Part = FolderPart.Whole });
            // The name of a piece that has no save yet is reserved, and nothing to open.
            else if (held.ContainsKey(entry.Id))
                nodes.Add(new ShareNode(entry.Path, one.Hash, one.Size, one.At, entry, null));
        }
        nodes.AddRange(before.Values.Where(s => s.Hash is not null).Select(s => new ShareNode(s.Path, s.Hash, s.Size, s.At, null, s)));
        return nodes;
    }

    // Of each file what it holds now.
    private async Task<Dictionary<Guid, (ContentHash Hash, long Size, DateTimeOffset At, int Files)>> HeldAsync(
        IQueryable<TreeEntry> asked,
        List<TreeEntry> entries,
        CancellationToken cancel
    )
    {
        var held = new Dictionary<Guid, (ContentHash, long, DateTimeOffset, int)>();
        if (entries.Exists(e => e.Kind is EntryKind.OwnFile or EntryKind.Companion))
        {
            var contents = await asked
                .Join(db.FileContents, e => e.Id, c => c.EntryId, (_, c) => c)
                .Select(c => new
                {
                    c.EntryId,
                    c.Sequence,
                    c.Hash,
                    c.Size,
                    c.At,
                })
                .ToListAsync(cancel);
            foreach (var content in contents.OrderBy(c => c.Sequence))
                held[content.EntryId] = (content.Hash, content.Size, content.At, 1);
        }
        if (entries.Exists(e => e.SaveId is not null && e.Kind != EntryKind.CurrentFile))
        {
            var saves = await asked
                .Where(e => e.Kind != EntryKind.CurrentFile)
                .Join(db.Saves, e => e.SaveId, s => s.Id, (Entry, Save) => new { Entry.Id, Save })
                .Select(s => new
                {
                    s.Id,
                    s.Save.MainHash,
                    Size = s.Save.Files.Where(f => f.IsMain).Select(f => f.Size).First(),
                    At = s.Save.KeptAt ?? s.Save.ArrivedAt,
                    Files = s.Save.Files.Count,
                })
                .ToListAsync(cancel);
            foreach (var save in saves)
                held[save.Id] = (save.MainHash, save.Size, save.At, save.Files);
        }
        if (entries.Exists(e => e.Kind == EntryKind.CurrentFile))
        {
            var saves = await asked
                .Where(e => e.Kind == EntryKind.CurrentFile)
                .Join(db.Saves.Where(s => s.IsCurrent), e => e.PieceId, s => s.PieceId, (Entry, Save) => new { Entry.Id, Save })
                .Select(s => new
                {
                    s.Id,
                    s.Save.MainHash,
                    Size = s.Save.Files.Where(f => f.IsMain).Select(f => f.Size).First(),
                    s.Save.ArrivedAt,
                    Files = s.Save.Files.Count,
                })
                .ToListAsync(cancel);
            foreach (var save in saves)
                held[save.Id] = (save.MainHash, save.Size, save.ArrivedAt, save.Files);
        }
        foreach (var alt in entries.Where(e => e is { Kind: EntryKind.AltFile, LineId: not null }))
        {
            var newest = await CurrentSaves.OfLineAsync(db, alt.LineId!.Value, cancel);
            var save = await db
                .Saves.AsNoTracking()
                .Where(s => s.Id == newest)
                .Select(s => new
                {
                    s.MainHash,
                    Size = s.Files.Where(f => f.IsMain).Select(f => f.Size).First(),
                    s.ArrivedAt,
                    Files = s.Files.Count,
                })
                .FirstOrDefaultAsync(cancel);
            if (save is not null)
                held[alt.Id] = (save.MainHash, save.Size, save.ArrivedAt, save.Files);
        }
        return held;
    }
}
