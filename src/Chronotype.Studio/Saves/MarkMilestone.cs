using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <param name="Kept">What was kept first; null when the version was there already.</param>
public sealed record MarkedMilestone(Milestone Milestone, VersionNumber Version, KeepResult.Kept? Kept);

/// <summary>Marks a version with a reason. While there are loose saves the newest is kept first, and both are done or neither.</summary>
public sealed class MarkMilestone(DeedRunner deeds, KeepSave keepSave, StudioClock clock)
{
    public const int MaxReason = 80;

    /// <param name="number">Null: the newest work, which is kept first when it is loose.</param>
    /// <param name="insist">Passed on to the keep.</param>
    /// <param name="lineId">The line that it is meant on, whatever line work goes on by now; null for that one.</param>
    public async Task<Outcome<MarkedMilestone>> DoAsync(
        Actor actor,
        Guid pieceId,
        VersionNumber? number,
        string reason,
        bool insist = false,
        CancellationToken cancel = default,
        Guid? lineId = null
    )
    {
        var text = TypedText.Line(reason);
        if (text.Length == 0)
            return new Refusal.NoReason();
        if (text.Length > MaxReason)
            return new Refusal.Length("reason", 1, MaxReason);
        if (number is null)
            await keepSave.WaitUntilReadAsync(pieceId, null, cancel);
        return await deeds.DoAsync(
            actor,
            Right.Work,
            async deed =>
            {
                if (number is { } marked)
                    return await MarkAsync(deed, pieceId, lineId, marked, text, null, cancel);
                var newest = lineId is null
                    ? (Guid?)null
                    : await deed
                        .Db.Saves.Where(s => s.PieceId == pieceId && s.LineId == lineId && s.Aside == null)
                        .OrderByDescending(s => s.Sequence)
                        .Select(s => (Guid?)s.Id)
                        .FirstOrDefaultAsync(cancel);
                var outcome = await keepSave.WithinAsync(deed, pieceId, newest, null, insist, inOrder: false, cancel);
                if (!outcome.Done)
                    return outcome.Refusal;
                await deed.Db.SaveChangesAsync(cancel);
                return outcome.Result switch
                {
                    KeepResult.Kept kept => await MarkAsync(deed, pieceId, lineId, kept.Number, text, kept, cancel),
                    KeepResult.Already already => await MarkAsync(deed, pieceId, lineId, already.Number, text, null, cancel),
                    KeepResult.Same { MayInsist: false } same => await MarkAsync(deed, pieceId, lineId, same.As, text, null, cancel),
                    KeepResult.Nothing => new Refusal.NothingToMark(),
                    KeepResult.Pending => new Refusal.NotReadYet(),
                    var objection => new Refusal.NotKept(objection),
                };
            },
            cancel
        );
    }

    /// <summary>Refuses the offer to mark the version before a save that changed a great part; it is not made again for that save.</summary>
    public Task<Outcome<Done>> DeclineAsync(Actor actor, Guid pieceId, Guid saveId, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
                await deed
                    .Db.Saves.Where(s => s.Id == saveId && s.PieceId == pieceId)
                    .ExecuteUpdateAsync(u => u.SetProperty(s => s.IsMarkDeclined, true), cancel) == 1
                    ? Done.It
                    : new Refusal.NoSuchSave(),
            cancel
        );

    private async Task<Outcome<MarkedMilestone>> MarkAsync(
        Deed deed,
        Guid pieceId,
        Guid? lineId,
        VersionNumber number,
        string reason,
        KeepResult.Kept? kept,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        var piece = await db
            .Pieces.Include(p => p.Lines)
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .FirstOrDefaultAsync(p => p.Id == pieceId, cancel);
        if (piece is null)
            return new Refusal.NoSuchPiece();
        var version = await db
            .Saves.Include(s => s.Milestone)
            .FirstOrDefaultAsync(s => s.PieceId == pieceId && s.LineId == (lineId ?? piece.Line.Id) && s.Number == number.Value, cancel);
        if (version is null)
            return new Refusal.NoSuchVersion(number);
        if (version.Milestone is { } already)
            return new Refusal.MarkedAlready(number, already.Number, already.Reason);

        var count = ++piece.HighestMilestone;
        var hand = await db.Users.Where(p => p.Id == version.KeptById).Select(p => p.Initials).FirstOrDefaultAsync(cancel) ?? "";
        var today = clock.DayOf(deed.Now);
        var milestone = new Milestone
        {
            SaveId = version.Id,
            Number = count,
            Reason = reason,
            ExactName = PieceNames
                .Of(piece)
                .Milestone(count, number, hand, today, FileNames.Extension(version.ExactName!))
                .Name!.ToString(),
            MarkedAt = deed.Now,
            MarkedById = deed.Actor.PersonId,
        };
        db.Milestones.Add(milestone);
        await new ProjectTree(db, piece.ProjectId).PlaceAsync(
            EntryKind.MilestoneCopy,
            milestone.ExactName,
            pieceId,
            version.Id,
            milestone.Id,
            cancel
        );
        return new MarkedMilestone(milestone, number, kept);
    }
}
