using Chronotype.Core.Content;

namespace Chronotype.Core.Versions;

/// <summary>One save, as far as its standing needs it.</summary>
/// <param name="Sequence">Its place among the piece's saves.</param>
/// <param name="Identity">Two saves with the same are the same to a person.</param>
/// <param name="ArrivedAt">In UTC.</param>
/// <param name="Number">Null for a loose save.</param>
/// <param name="IsKept">Whether a version holds the same content, though it may not be among the saves that are looked at.</param>
public readonly record struct SaveMark(int Sequence, ContentHash Identity, DateTimeOffset ArrivedAt, int? Number, bool IsKept = false);

/// <summary>Where a piece stands: what of it is not kept.</summary>
/// <param name="Newest">The highest number that still has content; null before the first version.</param>
/// <param name="LooseSince">How many loose saves came after the newest version.</param>
/// <param name="RiskSince">When the oldest of them that no version holds arrived; null when all is kept.</param>
public readonly record struct PieceStanding(int? Newest, int LooseSince, DateTimeOffset? RiskSince)
{
    /// <summary>Of a piece that has several lines: each is at risk by itself, and the newest is that of the line on which work goes on.</summary>
    /// <param name="current">That line's.</param>
    /// <param name="others">The other lines'.</param>
    public static PieceStanding Of(IEnumerable<SaveMark> current, IEnumerable<IEnumerable<SaveMark>> others)
    {
        var here = Of(current);
        var there = others.Select(Of).ToList();
        return new PieceStanding(
            here.Newest,
            here.LooseSince + there.Where(s => s.RiskSince is not null).Sum(s => s.LooseSince),
            there.Select(s => s.RiskSince).Append(here.RiskSince).Min()
        );
    }

    /// <param name="saves">All saves of one piece, in any order.</param>
    public static PieceStanding Of(IEnumerable<SaveMark> saves)
    {
        var all = saves as IReadOnlyCollection<SaveMark> ?? [.. saves];
        SaveMark? newest = null;
        foreach (var save in all)
        {
            if (save.Number is { } n && (newest is null || n > newest.Value.Number))
                newest = save;
        }
        var loose = all.Where(s => s.Number is null && (newest is null || s.Sequence > newest.Value.Sequence)).ToList();
        var kept = all.Where(s => s.Number is not null).Select(s => s.Identity).ToHashSet();
        var changed = loose.Where(s => !s.IsKept && !kept.Contains(s.Identity)).ToList();
        return new PieceStanding(newest?.Number, loose.Count, changed.Count == 0 ? null : changed.Min(s => s.ArrivedAt));
    }
}
