using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>A piece that others are started from.</summary>
/// <param name="SaveId">Its newest version; where none is kept, its newest save.</param>
public sealed record Template(Guid SaveId, string Project, string Name, VersionNumber? Number);

/// <summary>A save that a piece is to be started from.</summary>
/// <param name="Save">With its piece and project.</param>
/// <param name="Facts">What was read in it; null where that is not known, or it is a folder of files.</param>
public sealed record StartingSave(Save Save, FileFacts? Facts);

/// <summary>Finds what pieces can be started from.</summary>
public sealed class Templates(StudioDb db)
{
    private const int Most = 60;

    /// <summary>Those of the whole studio, the ones of a project first.</summary>
    public async Task<IReadOnlyList<Template>> AllAsync(Guid projectId, CancellationToken cancel = default) =>
        (
            await db
                .Pieces.AsNoTracking()
                .Where(p => p.TemplateSince != null && p.HighestSequence > 0)
                .OrderByDescending(p => p.ProjectId == projectId)
                .ThenBy(p => p.CurrentName)
                .Take(Most)
                .Select(p => new
                {
                    p.Project.Code,
                    p.CurrentName,
                    Save = p
                        .Saves.OrderByDescending(s => s.Number != null)
                        .ThenByDescending(s => s.Sequence)
                        .Select(s => new { s.Id, s.Number })
                        .First(),
                })
                .ToListAsync(cancel)
        ).ConvertAll(p => new Template(p.Save.Id, p.Code, p.CurrentName, p.Save.Number is { } n ? new VersionNumber(n) : null));

    /// <returns>Null where there is no such save.</returns>
    public async Task<StartingSave?> FindAsync(Guid saveId, CancellationToken cancel = default)
    {
        var save = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Include(s => s.Piece)
                .ThenInclude(p => p.Project)
            .FirstOrDefaultAsync(s => s.Id == saveId && db.Pieces.Any(p => p.Id == s.PieceId), cancel);
        if (save is null)
            return null;
        return new StartingSave(save, save.Files.Count == 1 ? await ContentReader.KnownAsync(db, save.MainHash, cancel) : null);
    }
}
