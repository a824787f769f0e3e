using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>Offers a piece as a template: others are started with its newest version, in any project of the studio.</summary>
public sealed class SetTemplate(DeedRunner deeds)
{
    public Task<Outcome<Done>> DoAsync(Actor actor, Guid pieceId, bool isTemplate, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await deed.Db.Pieces.FirstOrDefaultAsync(p => p.Id == pieceId, cancel) is not { } piece)
                    return new Refusal.NoSuchPiece();
                piece.TemplateSince = isTemplate ? piece.TemplateSince ?? deed.Now : null;
                return Done.It;
            },
            cancel
        );
}
