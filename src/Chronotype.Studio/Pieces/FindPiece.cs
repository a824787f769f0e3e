using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>Finds a piece, or a project, by its present name, or by one that it had before it was renamed or moved.</summary>
public sealed class FindPiece(StudioDb db)
{
    /// <param name="project">The code of the project that it is in, or was in.</param>
    /// <param name="name">Its current name, or a former one.</param>
    /// <returns>The piece, with its project, as it is now; null where no piece has or had the name.</returns>
    public async Task<Piece?> DoAsync(string project, string name, CancellationToken cancel = default)
    {
        if (await ProjectAsync(project, cancel) is not { } within)
            return null;
        var pieces = db.Pieces.AsNoTracking().Include(p => p.Project).Include(p => p.Lines);
        return await pieces.FirstOrDefaultAsync(p => p.ProjectId == within && p.CurrentName == name, cancel)
            ?? await pieces.FirstOrDefaultAsync(
                p =>
                    db.RenamedNames.Any(r => r.ProjectId == within && r.PieceId == p.Id && r.From == name && r.Thing == NamedThing.Current),
                cancel
            );
    }

    /// <param name="code">Its code, or a former one.</param>
    public async Task<Guid?> ProjectAsync(string code, CancellationToken cancel = default) =>
        await db.Projects.Where(p => p.Code == code).Select(p => (Guid?)p.Id).FirstOrDefaultAsync(cancel)
        ?? await db
            .Projects.Where(p => db.RenamedNames.Any(r => r.ProjectId == p.Id && r.From == code && r.Thing == NamedThing.Project))
            .Select(p => (Guid?)p.Id)
            .FirstOrDefaultAsync(cancel);

    /// <summary>As <see cref="ProjectAsync"/>, the project itself with its client.</summary>
    /// <returns>Null where there is none, or it was deleted in this very moment.</returns>
    public async Task<Project?> WholeProjectAsync(string code, CancellationToken cancel = default) =>
        await ProjectAsync(code, cancel) is { } id
            ? await db.Projects.AsNoTracking().Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == id, cancel)
            : null;
}
