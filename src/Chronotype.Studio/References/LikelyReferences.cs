using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>A file of a project, as it is looked for.</summary>
public sealed record FoundFile(Guid EntryId, ProjectPath Path);

/// <summary>What a reference that leads nowhere may mean.</summary>
/// <param name="Targets">The likeliest first.</param>
/// <param name="Deleted">What stood where it leads and was deleted, so that it can be taken back; null for nothing.</param>
public sealed record LikelyAnswer(IReadOnlyList<LikelyTarget<FoundFile>> Targets, TreeEntry? Deleted);

/// <summary>Looks for what references that lead nowhere most likely mean, in one project.</summary>
public sealed class LikelyReferences(StudioDb db)
{
    /// <summary>For so many links at most something is looked for; a file may have very many that lead nowhere.</summary>
    public const int Most = 200;

    /// <param name="links">Those that lead nowhere; of one project.</param>
    /// <returns>An answer for each, in the same order; for those past <see cref="Most"/> one without anything.</returns>
    public async Task<IReadOnlyList<LikelyAnswer>> FindAsync(
        Guid projectId,
        IReadOnlyList<CurrentLink> links,
        CancellationToken cancel = default
    )
    {
        if (links.Count == 0)
            return [];
        if (links.Count > Most)
        {
            var first = await FindAsync(projectId, [.. links.Take(Most)], cancel);
            return [.. first, .. Enumerable.Repeat(new LikelyAnswer([], null), links.Count - Most)];
        }
        var files = new FileIndex<FoundFile>();
        foreach (
            var entry in await db
                .Entries.AsNoTracking()
                .Where(e =>
                    e.ProjectId == projectId && e.DeletedAt == null && (e.Kind == EntryKind.OwnFile || e.Kind == EntryKind.CurrentFile)
                )
                .Select(e => new { e.Id, e.Path })
                .ToListAsync(cancel)
        )
            files.Add(entry.Path.Text, new FoundFile(entry.Id, entry.Path));
        var references = links.Select(l => WrittenReference.Read(l.Record.Written, FileLinks.SyntaxOf(l.FilePath))).ToList();
        var keys = links.SelectMany((l, i) => FileLinks.Keys(l.Folder, [references[i]])).Distinct().ToList();
        var former = (
            await db
                .PastPlaces.Where(p => p.ProjectId == projectId && keys.Contains(p.PathKey))
                .Join(
                    db.Entries.Where(e => e.DeletedAt == null && e.ProjectId == projectId),
                    p => p.EntryId,
                    e => e.Id,
                    (p, e) => new { p.PathKey, e.Path }
                )
                .ToListAsync(cancel)
        ).ToLookup(p => p.PathKey, p => p.Path.Text);
        var deleted = await db
            .Entries.AsNoTracking()
            .Where(e => e.ProjectId == projectId && e.DeletedAt != null && e.Kind == EntryKind.OwnFile && keys.Contains(e.PathKey))
            .ToListAsync(cancel);
        var before = await BeforeAsync(links, cancel);
        var holders = await HoldersAsync(projectId, before.Values, cancel);
        // The link that is looked into; what it led to is all that differs from one to the next.
        IReadOnlySet<Guid> same = new HashSet<Guid>();
        var targets = new LikelyTargets<FoundFile>(files, f => same.Contains(f.EntryId), former);
        var answers = new List<LikelyAnswer>();
        for (var i = 0; i < links.Count; i++)
        {
            var key = FileLinks.Keys(links[i].Folder, [references[i]]).FirstOrDefault();
            same = before.TryGetValue(links[i], out var hash) ? holders[hash].ToHashSet() : new HashSet<Guid>();
            answers.Add(
                new LikelyAnswer(
                    targets.Find(links[i].Folder, references[i], links[i].HolderPath.Text),
                    key is null ? null : deleted.Where(d => d.PathKey == key).MaxBy(d => d.DeletedAt)
                )
            );
        }
        return answers;
    }

    // What each led to when it led to something last, in any save of its piece.
    private async Task<Dictionary<CurrentLink, ContentHash>> BeforeAsync(IReadOnlyList<CurrentLink> links, CancellationToken cancel)
    {
        var written = links.Select(l => l.Record.Written).Distinct().ToList();
        var pieces = links.Select(l => l.PieceId).OfType<Guid>().Distinct().ToList();
        var seen = (
            await db
                .Links.Where(l => l.SeenHash != null && written.Contains(l.Written))
                .Join(
                    db.Saves.Where(s => pieces.Contains(s.PieceId)),
                    l => l.SaveId,
                    s => s.Id,
                    (l, s) =>
                        new
                        {
                            s.PieceId,
                            l.Written,
                            l.SeenHash,
                            s.Sequence,
                        }
                )
                .ToListAsync(cancel)
        ).ToLookup(l => (l.PieceId, l.Written));
        var before = new Dictionary<CurrentLink, ContentHash>();
        foreach (var link in links)
        {
            var last = link.PieceId is { } piece
                ? seen[(piece, link.Record.Written)].MaxBy(l => l.Sequence)?.SeenHash
                : link.Record.SeenHash;
            if (last is { } hash)
                before[link] = hash;
        }
        return before;
    }

    private async Task<ILookup<ContentHash, Guid>> HoldersAsync(Guid projectId, IEnumerable<ContentHash> hashes, CancellationToken cancel)
    {
        var wanted = hashes.Distinct().ToList();
        return (
            await db
                .FileContents.Where(c =>
                    wanted.Contains(c.Hash)
                    && c.Sequence == db.FileContents.Where(o => o.EntryId == c.EntryId).Max(o => o.Sequence)
                    && db.Entries.Any(e => e.Id == c.EntryId && e.ProjectId == projectId && e.DeletedAt == null)
                )
                .Select(c => new { c.Hash, c.EntryId })
                .ToListAsync(cancel)
        ).ToLookup(c => c.Hash, c => c.EntryId);
    }
}
