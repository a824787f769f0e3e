using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>A reference of a file as it is now, resolved in the tree as it is now.</summary>
/// <param name="HolderId">The entry of the file that it stands in: a piece's current file, or a file of the project's own.</param>
/// <param name="Piece">The current name of the piece that it stands in; null for a file of its own.</param>
/// <param name="Folder">From which it leads.</param>
/// <param name="TargetId">The entry that it leads to; null where that is none, or is inside the piece itself.</param>
/// <param name="Path">Where it leads; null where that is nowhere in the project.</param>
public sealed record CurrentLink(
    Link Record,
    Guid HolderId,
    ProjectPath HolderPath,
    Guid? PieceId,
    string? Piece,
    string FilePath,
    string Folder,
    ReferenceState State,
    SpellingDifference Difference,
    Guid? TargetId,
    string? Path
);

/// <summary>Tells what the files of a project refer to now.</summary>
public sealed class ProjectLinks(StudioDb db)
{
    private const int Batch = 400;

    private sealed record Standing(Guid Id);

    /// <summary>Every reference of every current file and of every file of the project's own.</summary>
    public async Task<IReadOnlyList<CurrentLink>> LoadAsync(Guid projectId, CancellationToken cancel = default)
    {
        var entries = db.Entries.AsNoTracking().Where(e => e.ProjectId == projectId && e.DeletedAt == null);
        // The newest saves first: they are few, and each save's links are found at once.
        var pieces = await db
            .Pieces.AsNoTracking()
            .Where(p => p.ProjectId == projectId && p.HighestSequence > 0)
            .Select(p => new
            {
                p.Id,
                p.CurrentName,
                Save = p.Saves.Where(s => s.IsCurrent).Select(s => new { s.Id, Files = s.Files.Count }).FirstOrDefault(),
            })
            .ToListAsync(cancel);
        var bySave = pieces.Where(p => p.Save is not null).ToDictionary(p => p.Save!.Id);
        var current = await entries
            .Where(e => e.Kind == EntryKind.CurrentFile)
            .Select(e => new
            {
                e.Id,
                e.Path,
                e.PieceId,
            })
            .ToDictionaryAsync(e => e.PieceId!.Value, cancel);
        var found = new List<(Link Link, string FilePath)>();
        foreach (var part in bySave.Values.Where(p => current.ContainsKey(p.Id)).Select(p => (Guid?)p.Save!.Id).Chunk(Batch))
        {
            foreach (
                var link in await db
                    .Links.AsNoTracking()
                    .Where(l => part.Contains(l.SaveId))
                    .Join(db.SaveFiles, l => l.SaveFileId, f => f.Id, (Link, f) => new { Link, f.Path })
                    .OrderBy(l => l.Link.Id)
                    .ToListAsync(cancel)
            )
                found.Add((link.Link, link.Path));
        }
        var ofFiles = await db
            .Links.AsNoTracking()
            .Where(l => l.ProjectId == projectId && l.FileContentId != null)
            .Join(
                db.FileContents.Where(c => c.Sequence == db.FileContents.Where(o => o.EntryId == c.EntryId).Max(o => o.Sequence)),
                l => l.FileContentId,
                c => c.Id,
                (Link, c) => new { Link, c.EntryId }
            )
            .Join(
                entries,
                l => l.EntryId,
                e => e.Id,
                (l, e) =>
                    new
                    {
                        l.Link,
                        e.Id,
                        e.Path,
                    }
            )
            .OrderBy(l => l.Link.Id)
            .ToListAsync(cancel);
        var links = found
            .Select(f =>
            {
                var piece = bySave[f.Link.SaveId!.Value];
                var entry = current[piece.Id];
                var from = ReferenceBase.Of(entry.Path.Folder?.Text ?? "", piece.CurrentName, piece.Save!.Files > 1, f.FilePath);
                return new CurrentLink(
                    f.Link,
                    entry.Id,
                    entry.Path,
                    piece.Id,
                    piece.CurrentName,
                    f.FilePath,
                    from,
                    default,
                    default,
                    null,
                    null
                );
            })
            .Concat(
                ofFiles.Select(f => new CurrentLink(
                    f.Link,
                    f.Id,
                    f.Path,
                    null,
                    null,
                    f.Path.Name,
                    f.Path.Folder?.Text ?? "",
                    default,
                    default,
                    null,
                    null
                ))
            )
            .Select(l => (Link: l, Reference: WrittenReference.Read(l.Record.Written, FileLinks.SyntaxOf(l.FilePath))))
            .ToList();
        var files = await AtAsync(entries, links.SelectMany(l => FileLinks.Keys(l.Link.Folder, [l.Reference])), cancel);
        return
        [
            .. links.Select(l =>
            {
                // What came in the save itself is there for as long as the save.
                if (l.Link.Record is { SeenHash: not null, SeenEntryId: null, SaveId: not null })
                    return l.Link with { State = l.Link.Record.State, Path = l.Link.Record.SeenPath?.Text };
                var now = ReferenceResolver.Resolve(files, l.Link.Folder, l.Reference);
                return l.Link with { State = now.State, Difference = now.Difference, TargetId = now.Target?.Id, Path = now.Path };
            }),
        ];
    }

    private static async Task<FileIndex<Standing>> AtAsync(
        IQueryable<TreeEntry> entries,
        IEnumerable<string> keys,
        CancellationToken cancel
    )
    {
        var index = new FileIndex<Standing>();
        foreach (var part in keys.Distinct(StringComparer.Ordinal).Chunk(Batch))
        {
            foreach (
                var entry in await entries
                    .Where(e => e.Kind != EntryKind.Folder && part.Contains(e.PathKey))
                    .Select(e => new { e.Id, e.Path })
                    .ToListAsync(cancel)
            )
                index.Add(entry.Path.Text, new Standing(entry.Id));
        }
        return index;
    }
}
