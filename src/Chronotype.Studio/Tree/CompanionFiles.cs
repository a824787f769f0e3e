using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tree;

/// <summary>The companions of a project's files, which go where these go.</summary>
internal static class CompanionFiles
{
    /// <summary>The endings of companions: the usual ones, and the studio's own.</summary>
    public static async Task<IReadOnlyCollection<string>> EndingsAsync(StudioDb db, CancellationToken cancel) =>
        [
            .. Companions.Usual,
            .. (await db.Studio.Select(s => s.Companions).SingleOrDefaultAsync(cancel))?.Split('\n', StringSplitOptions.RemoveEmptyEntries)
                ?? [],
        ];

    /// <summary>What belongs to some files, and is not one of them.</summary>
    public static async Task<List<(TreeEntry Owner, TreeEntry Companion)>> OfAsync(
        StudioDb db,
        ProjectTree tree,
        List<TreeEntry> entries,
        CancellationToken cancel
    )
    {
        var found = new List<(TreeEntry, TreeEntry)>();
        foreach (var current in entries.Where(e => e.Kind == EntryKind.CurrentFile))
        {
            foreach (
                var companion in await tree
                    .Entries.Where(e => e.PieceId == current.PieceId && e.Kind == EntryKind.Companion)
                    .ToListAsync(cancel)
            )
                found.Add((current, companion));
        }
        var endings = await EndingsAsync(db, cancel);
        foreach (var folder in entries.Where(e => e.Kind == EntryKind.OwnFile).GroupBy(e => e.FolderKey))
        {
            var key = folder.Key;
            var beside = tree.Entries.Where(e => e.FolderKey == key && e.Kind == EntryKind.OwnFile);
            var likely = new List<TreeEntry>();
            foreach (var extension in endings)
                likely.AddRange(await beside.Where(e => e.PathKey.EndsWith(extension)).ToListAsync(cancel));
            likely.RemoveAll(e => entries.Exists(o => o.Id == e.Id));
            if (likely.Count == 0)
                continue;
            var names = (await beside.Select(e => e.Path).ToListAsync(cancel)).ConvertAll(p => p.Name);
            foreach (var companion in likely)
            {
                var name = companion.Path.Name;
                if (
                    Companions.OwnerOf(name, [.. names.Where(n => n != name)], endings) is { } owner
                    && folder.FirstOrDefault(e => e.Path.Name == owner) is { } file
                )
                    found.Add((file, companion));
            }
        }
        return found;
    }
}
