using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Grace;

/// <summary>
/// Puts a piece or a project away: out of the bench and the lists, with all that it holds, and back again. A save that arrives for it
/// takes it out by itself.
/// </summary>
public sealed class PutAway(DeedRunner deeds)
{
    /// <param name="away">False takes it out again.</param>
    public Task<Outcome<Piece>> PieceAsync(Actor actor, Guid pieceId, bool away, CancellationToken cancel = default) =>
        deeds.DoAsync<Piece>(
            actor,
            Right.Work,
            async deed =>
            {
                var pieces = deed.Db.Pieces.Where(p => p.Id == pieceId);
                if (await pieces.Include(p => p.Project).FirstOrDefaultAsync(cancel) is not { } piece)
                    return new Refusal.NoSuchPiece();
                if (away && await pieces.AtRisk().AnyAsync(cancel))
                    return new Refusal.NotAllKept([piece.CurrentName]);
                piece.PutAwayAt = away ? piece.PutAwayAt ?? deed.Now : null;
                return piece;
            },
            cancel
        );

    /// <param name="away">False takes it out again; its pieces are then as they were, put away or not.</param>
    public Task<Outcome<Project>> ProjectAsync(Actor actor, Guid projectId, bool away, CancellationToken cancel = default) =>
        deeds.DoAsync<Project>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await deed.Db.Projects.FirstOrDefaultAsync(p => p.Id == projectId, cancel) is not { } project)
                    return new Refusal.NoSuchProject();
                if (away)
                {
                    var risky = await deed
                        .Db.Pieces.Where(p => p.ProjectId == projectId)
                        .AtRisk()
                        .OrderBy(p => p.CurrentName)
                        .Select(p => p.CurrentName)
                        .ToListAsync(cancel);
                    if (risky.Count > 0)
                        return new Refusal.NotAllKept(risky);
                }
                project.PutAwayAt = away ? project.PutAwayAt ?? deed.Now : null;
                return project;
            },
            cancel
        );
}
