using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Studio.Pieces;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Words;

namespace Chronotype.Web.Pages.Pieces;

// The names that its saves have, and those that come next.
public sealed partial class PieceView
{
    private void LoadNames(string hand)
    {
        var names = Names;
        Next = names.Next(Line.HighestNumber, NewestLoose?.ReceivedName);
        var today = DateOnly.FromDateTime(Now.DateTime);
        var next = names.Working(hand, Next, today, Piece.Extension).Name!;
        NextName = next.ToString();
        var newest = Saves.Where(s => s.Number is not null).MaxBy(s => s.Number);
        MilestoneName = names
            .Milestone(
                Piece.HighestMilestone + 1,
                NewestLoose is null && newest?.Number is { } marked ? new VersionNumber(marked) : Next,
                newest?.KeptBy ?? hand,
                today,
                Piece.Extension
            )
            .Name!.ToString();
        Name = newest is null
            ? new NameView(next, names.VersionLabel, IsNext: true, Tag: "h1")
            : new NameView(
                names
                    .Working(
                        newest.KeptBy ?? hand,
                        new VersionNumber(newest.Number!.Value),
                        DateOnly.FromDateTime((newest.KeptAt ?? newest.ArrivedAt).DateTime),
                        Piece.Extension
                    )
                    .Name!,
                names.VersionLabel,
                Tag: "h1"
            );
    }
}
