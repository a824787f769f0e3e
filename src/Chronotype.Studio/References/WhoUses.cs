using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>A file as it is now that refers to another.</summary>
/// <param name="EntryId">Where it stands: a piece's current file, or a file of the project's own.</param>
/// <param name="Piece">The piece's current name; null for a file of its own.</param>
/// <param name="Path">Where it stands.</param>
/// <param name="Place">Where in it the reference is written first.</param>
/// <param name="Times">How often it is written there.</param>
public sealed record UsedBy(Guid EntryId, Guid? PieceId, string? Piece, ProjectPath Path, string Place, int Times);

/// <summary>A kept version that saw a file.</summary>
/// <param name="Line">The line's name; empty for the main line.</param>
/// <param name="Milestone">Its milestone's number; null where it is not marked.</param>
/// <param name="Saw">What the file held then; null where that is not known.</param>
public sealed record NeededBy(Guid PieceId, string Piece, Guid SaveId, string Line, VersionNumber Number, int? Milestone, ContentHash? Saw);

/// <summary>Who uses a file.</summary>
/// <param name="Today">The files that refer to it as they are now.</param>
/// <param name="Versions">The kept versions that saw it, by piece, line and number.</param>
/// <param name="Started">The current names of the pieces that were started from it.</param>
/// <param name="Closed">How many pieces of the project hold a format that is not read, so that it is not known what they use.</param>
public sealed record FileUsers(
    IReadOnlyList<UsedBy> Today,
    IReadOnlyList<NeededBy> Versions,
    IReadOnlyList<(Guid PieceId, string Name)> Started,
    int Closed
)
{
    /// <summary>Whether anything that can be read refers to it.</summary>
    public bool IsUsed => Today.Count + Versions.Count + Started.Count > 0;
}

/// <summary>Finds who refers to a file: now, and in every version that was kept.</summary>
public sealed class WhoUses(StudioDb db)
{
    public async Task<FileUsers> OfAsync(TreeEntry entry, CancellationToken cancel = default) =>
        new(
            await TodayAsync(entry, cancel),
            await VersionsAsync(entry, cancel),
            [
                .. (
                    await db
                        .Pieces.Where(p =>
                            p.FromEntryId == entry.Id
                            || (
                                entry.Kind == EntryKind.CurrentFile && db.Saves.Any(s => s.Id == p.FromSaveId && s.PieceId == entry.PieceId)
                            )
                        )
                        .OrderBy(p => p.CurrentName)
                        .Select(p => new { p.Id, p.CurrentName })
                        .ToListAsync(cancel)
                ).Select(p => (p.Id, p.CurrentName)),
            ],
            await ClosedAsync(entry.ProjectId, cancel)
        );

    /// <summary>Those of links that stand in files as they are now: in a piece's newest save, or in what a file of its own holds.</summary>
    public static IQueryable<Link> Current(StudioDb db, IQueryable<Link> links) =>
        links.Where(l =>
            db.Saves.Any(s => s.Id == l.SaveId && s.IsCurrent)
            || db.FileContents.Any(c =>
                c.Id == l.FileContentId
                && c.Sequence == db.FileContents.Where(o => o.EntryId == c.EntryId).Max(o => o.Sequence)
                && db.Entries.Any(e => e.Id == c.EntryId && e.DeletedAt == null)
            )
        );

    /// <summary>How many pieces hold what is not read, so that nobody knows what they refer to.</summary>
    public async Task<int> ClosedAsync(Guid projectId, CancellationToken cancel = default)
    {
        var pieces = db.Pieces.Where(p => p.ProjectId == projectId && p.HighestSequence > 0);
        var closed = await pieces.CountAsync(
            p =>
                db.ContentFacts.Any(f =>
                    (f.Format == FileFormat.Other || f.State != FactsState.Read)
                    && f.Content == p.Saves.Where(s => s.IsCurrent).Select(s => s.MainHash).First()
                ),
            cancel
        );
        // What a text refers to is known where a pattern says how its format writes that.
        var texts = await pieces
            .Where(p =>
                db.ContentFacts.Any(f =>
                    f.Format == FileFormat.Text
                    && f.State == FactsState.Read
                    && f.Content == p.Saves.Where(s => s.IsCurrent).Select(s => s.MainHash).First()
                )
            )
            .Select(p => p.Extension)
            .ToListAsync(cancel);
        if (texts.Count == 0)
            return closed;
        var patterns = await ReferencePatterns.OfAsync(db, cancel);
        return closed + texts.Count(t => ReferencePattern.IsUnknown(t, patterns));
    }

    /// <summary>The files that refer to it as they are now.</summary>
    public async Task<IReadOnlyList<UsedBy>> TodayAsync(TreeEntry entry, CancellationToken cancel = default)
    {
        var key = entry.PathKey;
        var links = db.Links.AsNoTracking().Where(l => l.ProjectId == entry.ProjectId && l.TargetKey == key);
        var pieces = await links
            .Join(
                db.Saves.Where(s => s.IsCurrent),
                l => l.SaveId,
                s => s.Id,
                (l, s) =>
                    new
                    {
                        l.Place,
                        l.Times,
                        s.PieceId,
                        s.Piece.CurrentName,
                    }
            )
            .Join(
                db.Entries.Where(e => e.Kind == EntryKind.CurrentFile && e.DeletedAt == null),
                l => l.PieceId,
                e => e.PieceId,
                (l, e) => new UsedBy(e.Id, l.PieceId, l.CurrentName, e.Path, l.Place, l.Times)
            )
            .ToListAsync(cancel);
        var files = await links
            .Join(
                db.FileContents.Where(c => c.Sequence == db.FileContents.Where(o => o.EntryId == c.EntryId).Max(o => o.Sequence)),
                l => l.FileContentId,
                c => c.Id,
                (l, c) =>
                    new
                    {
                        l.Place,
                        l.Times,
                        c.EntryId,
                    }
            )
            .Join(
                db.Entries.Where(e => e.DeletedAt == null),
                l => l.EntryId,
                e => e.Id,
                (l, e) => new UsedBy(e.Id, null, null, e.Path, l.Place, l.Times)
            )
            .ToListAsync(cancel);
        return
        [
            .. pieces
                .Concat(files)
                .DistinctBy(u => u.EntryId)
                .OrderBy(u => u.PieceId is null)
                .ThenBy(u => u.Path.Text, StringComparer.Ordinal),
        ];
    }

    private async Task<List<NeededBy>> VersionsAsync(TreeEntry entry, CancellationToken cancel)
    {
        var id = entry.Id;
        var seen = await db
            .Links.AsNoTracking()
            .Where(l => l.SeenEntryId == id)
            .Join(
                db.Saves.Where(s => s.Number != null),
                l => l.SaveId,
                s => s.Id,
                (l, s) =>
                    new
                    {
                        s.PieceId,
                        s.Piece.CurrentName,
                        s.Id,
                        Line = s.Line.Name,
                        s.Number,
                        Milestone = (int?)s.Milestone!.Number,
                        l.SeenHash,
                    }
            )
            .OrderBy(v => v.CurrentName)
            .ThenBy(v => v.Line)
            .ThenBy(v => v.Number)
            .ToListAsync(cancel);
        return
        [
            .. seen.DistinctBy(v => v.Id)
                .Select(v => new NeededBy(
                    v.PieceId,
                    v.CurrentName,
                    v.Id,
                    v.Line,
                    new VersionNumber(v.Number!.Value),
                    v.Milestone,
                    v.SeenHash
                )),
        ];
    }
}
