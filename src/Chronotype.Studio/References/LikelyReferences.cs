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
    /// <param name="links">Those that lead nowhere; of one project.</param>
    /// <returns>An answer for each, in the same order.</returns>
    public async Task<IReadOnlyList<LikelyAnswer>> FindAsync(
        Guid projectId,
        IReadOnlyList<CurrentLink> links,
        CancellationToken cancel = default
    )
    {
        if (links.Count == 0)
            return [];
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
        var answers = new List<LikelyAnswer>();
        for (var i = 0; i < links.Count; i++)
        {
            var before = await BeforeAsync(links[i], cancel);
            var same = before is { } hash ? await HoldersAsync(projectId, hash, cancel) : [];
            var key = FileLinks.Keys(links[i].Folder, [references[i]]).FirstOrDefault();
            answers.Add(
                new LikelyAnswer(
                    new LikelyTargets<FoundFile>(files, f => same.Contains(f.EntryId), former).Find(
                        links[i].Folder,
                        references[i],
                        links[i].HolderPath.Text
                    ),
                    key is null ? null : deleted.Where(d => d.PathKey == key).MaxBy(d => d.DeletedAt)
                )
            );
        }
        return answers;
    }

    // What it led to when it led to something last, in any save of the piece.
    private async Task<ContentHash?> BeforeAsync(CurrentLink link, CancellationToken cancel)
    {
        var (written, piece) = (link.Record.Written, link.PieceId);
        if (piece is null)
            return link.Record.SeenHash;
        return await db
            .Links.Where(l => l.Written == written && l.SeenHash != null)
            .Join(db.Saves.Where(s => s.PieceId == piece), l => l.SaveId, s => s.Id, (l, s) => new { l.SeenHash, s.Sequence })
            .OrderByDescending(l => l.Sequence)
            .Select(l => l.SeenHash)
            .FirstOrDefaultAsync(cancel);
    }

    private async Task<HashSet<Guid>> HoldersAsync(Guid projectId, ContentHash hash, CancellationToken cancel) =>
        (
            await db
                .FileContents.Where(c =>
                    c.Hash == hash
                    && c.Sequence == db.FileContents.Where(o => o.EntryId == c.EntryId).Max(o => o.Sequence)
                    && db.Entries.Any(e => e.Id == c.EntryId && e.ProjectId == projectId && e.DeletedAt == null)
                )
                .Select(c => c.EntryId)
                .ToListAsync(cancel)
        ).ToHashSet();
}
