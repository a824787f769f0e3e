using Chronotype.Core.Versions;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>Says when a piece's saves take a number.</summary>
public sealed class SetKeepSetting(DeedRunner deeds)
{
    /// <param name="setting">Null: as the project says.</param>
    public Task<Outcome<Done>> DoAsync(Actor actor, Guid pieceId, KeepSetting? setting, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
                await deed.Db.Pieces.Where(p => p.Id == pieceId).ExecuteUpdateAsync(u => u.SetProperty(p => p.Keep, setting), cancel) == 1
                    ? Done.It
                    : new Refusal.NoSuchPiece(),
            cancel
        );

    /// <summary>Says from how much change on the version before a save is offered to be marked.</summary>
    /// <param name="share">From 0.01 to 1; null to learn it from the piece's past.</param>
    public Task<Outcome<Done>> GreatChangeAsync(Actor actor, Guid pieceId, double? share, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
                share is < 0.01 or > 1 or double.NaN ? new Refusal.ShareOutOfRange()
                : await deed.Db.Pieces.Where(p => p.Id == pieceId).ExecuteUpdateAsync(u => u.SetProperty(p => p.GreatChange, share), cancel)
                == 1
                    ? Done.It
                : new Refusal.NoSuchPiece(),
            cancel
        );
}
