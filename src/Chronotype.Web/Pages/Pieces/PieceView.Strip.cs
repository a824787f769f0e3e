using Chronotype.Core.Timeline;
using Chronotype.Core.Versions;
using Chronotype.Web.Words;

namespace Chronotype.Web.Pages.Pieces;

// What the strip is drawn of.
public sealed partial class PieceView
{
    /// <summary>In units of the drawing.</summary>
    public const double StripWidth = 1108;

    private StripInput StripOf(double width)
    {
        var kept = Saves.Where(s => s.Number is not null).OrderBy(s => s.Number).ToList();
        var versions = new List<StripVersion>(kept.Count);
        for (var i = 0; i < kept.Count; i++)
        {
            var row = kept[i];
            versions.Add(
                new StripVersion(
                    new VersionNumber(row.Number!.Value),
                    row.Label,
                    row.At,
                    row.Change,
                    i == 0 ? 1 : StandIn(kept[i - 1], row),
                    row.Milestone is null ? null : row.Reason
                )
            );
        }
        var loose = Saves.Where(s => s.Number is null && !IsBeginning(s));
        if (Asked is not { From: { } from, To: { } to })
            return new StripInput(versions, loose.Select(s => new StripLoose(s.Id, s.ArrivedAt)).ToList(), Now, Next.ToString(), width)
            {
                Dates = DisplayText.Dates,
                Branches = [.. OtherLines.Select(l => l.BranchOf(Line))],
            };
        var part = versions.Where(v => v.Number.Value >= from && v.Number.Value <= to).ToList();
        if (part.Count > 0)
            loose = loose.Where(s => s.ArrivedAt >= part[0].At && s.ArrivedAt <= part[^1].At);
        return new StripInput(part, part.Count == 0 ? [] : loose.Select(s => new StripLoose(s.Id, s.ArrivedAt)).ToList(), null, "", width)
        {
            Dates = DisplayText.Dates,
        };
    }

    // What an alt began with is the version at which it left its line.
    private bool IsBeginning(SaveRow save) =>
        Line.LeftAt is { } left && save == Saves[0] && save.Number is null && save.BroughtBackFrom == left;

    // Where a change cannot be measured, the size that came or went and the time that passed stand in for it.
    private static double StandIn(SaveRow before, SaveRow now)
    {
        var size = Math.Abs(now.Size - before.Size) / (double)Math.Max(1, Math.Max(now.Size, before.Size));
        var hours = Math.Min(1, (now.At - before.At).TotalHours / 8);
        return Math.Clamp(0.5 * size + 0.3 * hours, 0, 1);
    }
}
