using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Projects;

/// <summary>A file, as it is now, that is not what its project's files must be.</summary>
/// <param name="EntryId">Where it stands: a piece's current file, or a file of the project's own.</param>
/// <param name="Piece">The piece's current name; null for a file of its own.</param>
/// <param name="Content">What it holds, which can be converted to what it should be.</param>
/// <param name="Points">What of it is off.</param>
public sealed record OffSpec(
    Guid EntryId,
    ProjectPath Path,
    string? Piece,
    FileFormat Format,
    ContentHash Content,
    FileMeasures Measures,
    IReadOnlyList<SpecPoint> Points
);

/// <summary>What came of holding a project's files against a spec.</summary>
/// <param name="Off">Those that are off it, by path.</param>
/// <param name="Measured">How many files have something that a spec can speak of.</param>
public sealed record SpecReport(IReadOnlyList<OffSpec> Off, int Measured);

/// <summary>Holds a project's files against what they must be.</summary>
public sealed class SpecFaults(StudioDb db)
{
    /// <param name="spec">What they must be: the project's own, or one that is only being thought about.</param>
    public async Task<SpecReport> LookAsync(Guid projectId, ProjectSpec spec, CancellationToken cancel = default)
    {
        if (spec.IsEmpty)
            return new SpecReport([], 0);
        var facts = ContentReader
            .Current(db)
            .Where(f =>
                f.State == FactsState.Read
                && (f.Measures.SampleRate != null || f.Measures.Width != null || f.Measures.FramesPerSecond != null)
            );
        var there = db.Entries.AsNoTracking().Where(e => e.ProjectId == projectId && e.DeletedAt == null);
        var own = await there
            .Where(e => e.Kind == EntryKind.OwnFile && e.Role != FolderRole.Documents)
            .Join(
                db.FileContents.Where(c => c.Sequence == db.FileContents.Where(o => o.EntryId == c.EntryId).Max(o => o.Sequence)),
                e => e.Id,
                c => c.EntryId,
                (e, c) => new { e, c.Hash }
            )
            .Join(
                facts,
                h => h.Hash,
                f => f.Content,
                (h, f) =>
                    new
                    {
                        h.e.Id,
                        h.e.Path,
                        h.e.Role,
                        Piece = (string?)null,
                        f.Format,
                        f.Content,
                        f.Measures,
                    }
            )
            .ToListAsync(cancel);
        var pieces = await there
            .Where(e => e.Kind == EntryKind.CurrentFile)
            .Join(
                db.Pieces.Where(p => p.PutAwayAt == null && p.HighestSequence > 0),
                e => e.PieceId,
                p => p.Id,
                (e, p) =>
                    new
                    {
                        e,
                        p.CurrentName,
                        Hash = p.Saves.Where(s => s.IsCurrent).Select(s => s.MainHash).First(),
                    }
            )
            .Join(
                facts,
                h => h.Hash,
                f => f.Content,
                (h, f) =>
                    new
                    {
                        h.e.Id,
                        h.e.Path,
                        h.e.Role,
                        Piece = (string?)h.CurrentName,
                        f.Format,
                        f.Content,
                        f.Measures,
                    }
            )
            .ToListAsync(cancel);
        return new SpecReport(
            [
                .. pieces
                    .Concat(own)
                    .Select(f => new OffSpec(f.Id, f.Path, f.Piece, f.Format, f.Content, f.Measures, spec.FaultsOf(f.Measures, f.Role)))
                    .Where(f => f.Points.Count > 0)
                    .OrderBy(f => f.Path.Text, StringComparer.Ordinal),
            ],
            pieces.Count + own.Count
        );
    }
}
