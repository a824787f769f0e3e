using Chronotype.Storage;
using Chronotype.Storage.Entities;

namespace Chronotype.Studio.Pieces;

/// <summary>Which pieces and saves are which.</summary>
public static class PieceQueries
{
    /// <summary>Those that have a save after their newest version whose content no version holds.</summary>
    public static IQueryable<Piece> AtRisk(this IQueryable<Piece> pieces) =>
        pieces.Where(p =>
            p.Saves.Any(s =>
                s.Number == null
                && s.Aside == null
                && s.Sequence
                    > p.Saves.Where(v => v.LineId == s.LineId && v.Number == s.Line.HighestNumber).Select(v => v.Sequence).FirstOrDefault()
                && !p.Saves.Any(v => v.Number != null && v.Identity == s.Identity)
            )
        );

    /// <summary>The versions of a line, the newest first; behind them, of an alt, the version at which it left its line.</summary>
    public static IQueryable<Save> VersionsOf(StudioDb db, Guid lineId) =>
        db
            .Saves.Where(s =>
                s.Number != null
                && (s.LineId == lineId || db.Lines.Any(l => l.Id == lineId && l.LeftLineId == s.LineId && l.LeftAt == s.Number))
            )
            .OrderByDescending(s => s.LineId == lineId)
            .ThenByDescending(s => s.Number);

    /// <summary>Those that are not put away, nor their project.</summary>
    public static IQueryable<Piece> OnTheGo(this IQueryable<Piece> pieces) =>
        pieces.Where(p => p.PutAwayAt == null && p.Project.PutAwayAt == null);
}
