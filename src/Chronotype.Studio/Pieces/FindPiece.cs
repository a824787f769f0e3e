using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>Finds a piece by its current name, or by one that it had before its project's names were changed.</summary>
public sealed class FindPiece(StudioDb db)
{
    /// <returns>The piece, with its project, as it is now; null where no piece has or had the name.</returns>
    public async Task<Piece?> DoAsync(string project, string name, CancellationToken cancel = default)
    {
        var pieces = db.Pieces.AsNoTracking().Include(p => p.Project).Include(p => p.Lines).Where(p => p.Project.Code == project);
        return await pieces.FirstOrDefaultAsync(p => p.CurrentName == name, cancel)
            ?? await pieces.FirstOrDefaultAsync(
                p => db.RenamedNames.Any(r => r.PieceId == p.Id && r.From == name && r.Thing == NamedThing.Current),
                cancel
            );
    }
}
