using Chronotype.Core.Timeline;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>A line of the piece that is not the one that is looked at.</summary>
/// <param name="Versions">By number.</param>
/// <param name="Loose">How many of its saves have no number, since its newest version.</param>
public sealed record OtherLine(Line Line, IReadOnlyList<(Guid Save, int Number)> Versions, int Loose)
{
    public bool IsMain => Line.Name.Length == 0;

    /// <summary>What people call it.</summary>
    public string Called => NameOf(Line);

    public static string NameOf(Line line) => line.Name.Length == 0 ? "main line" : $"alt “{line.Name}”";

    /// <param name="shown">The line that the strip draws.</param>
    public StripBranch BranchOf(Line shown) =>
        new(
            Called
                + (
                    Line.IsCurrent ? ", work goes on there"
                    : IsMain ? ""
                    : ", set aside"
                )
                + (Loose > 0 ? $", {Loose:N0} loose" : ""),
            Line.LeftLineId == shown.Id ? Line.LeftAt : null,
            [.. Versions.Select(v => new StripBranchMark(v.Save, $"{v.Number}"))],
            IsMain
        );

    /// <param name="shown">The one that is looked at, which is left out.</param>
    public static async Task<IReadOnlyList<OtherLine>> OfAsync(StudioDb db, Piece piece, Line shown, CancellationToken cancel)
    {
        var others = piece.Lines.Where(l => l.Id != shown.Id).OrderBy(l => l.StartedAt).ToList();
        if (others.Count == 0)
            return [];
        var ids = others.ConvertAll(l => l.Id);
        var saves = await db
            .Saves.Where(s => ids.Contains(s.LineId) && s.Aside == null)
            .OrderBy(s => s.Sequence)
            .Select(s => new
            {
                s.Id,
                s.LineId,
                s.Number,
                s.Sequence,
                IsKept = db.Saves.Any(v => v.PieceId == s.PieceId && v.Number != null && v.Identity == s.Identity),
            })
            .ToListAsync(cancel);
        return others.ConvertAll(line =>
        {
            var own = saves.Where(s => s.LineId == line.Id).ToList();
            var newest = own.Where(s => s.Number is not null).Select(s => s.Sequence).DefaultIfEmpty().Max();
            return new OtherLine(
                line,
                [.. own.Where(s => s.Number is not null).OrderBy(s => s.Number).Select(s => (s.Id, s.Number!.Value))],
                own.Count(s => s.Number is null && !s.IsKept && s.Sequence > newest)
            );
        });
    }
}
