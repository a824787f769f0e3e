using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <param name="Kept">What was kept first; null when the version was there already.</param>
public sealed record MarkedMilestone(Milestone Milestone, VersionNumber Version, KeepResult.Kept? Kept);

/// <summary>Marks a version with a reason. While there are loose saves the newest is kept first.</summary>
public sealed class MarkMilestone(StudioDb db, KeepSave keepSave, TimeProvider time)
{
    public const int MaxReason = 80;

    /// <param name="number">Null: the newest work, which is kept first when it is loose.</param>
    /// <param name="insist">Passed on to the keep.</param>
    public async Task<(Outcome<MarkedMilestone> Outcome, KeepResult? Objection)> DoAsync(
        Guid pieceId, VersionNumber? number, Guid personId, string reason, bool insist = false, CancellationToken cancel = default)
    {
        var text = TypedText.Line(reason);
        if (text.Length == 0) return (Refuse("A milestone needs a reason in a few words, such as “before the sky is repainted”."), null);
        if (text.Length > MaxReason) return (Refuse($"A milestone's reason has at most {MaxReason} characters; write more in the version's note."), null);

        KeepResult.Kept? kept = null;
        if (number is null)
        {
            switch (await keepSave.DoAsync(pieceId, null, personId, null, insist, cancel))
            {
                case KeepResult.Kept k: (kept, number) = (k, k.Number); break;
                case KeepResult.Already a: number = a.Number; break;
                case KeepResult.Same { MayInsist: false } s: number = s.As; break;
                case KeepResult.Nothing: return (Refuse("There is nothing to mark yet: the piece has no content."), null);
                case var objection: return (Refuse("Nothing was marked."), objection);
            }
        }
        return (await Mark(pieceId, number.Value, personId, text, kept, cancel), null);
    }

    private async Task<Outcome<MarkedMilestone>> Mark(Guid pieceId, VersionNumber number, Guid personId, string reason, KeepResult.Kept? kept, CancellationToken cancel)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var piece = await db.Pieces.Include(p => p.Project).ThenInclude(p => p.Client).FirstAsync(p => p.Id == pieceId, cancel);
        await db.Entry(piece).ReloadAsync(cancel);
        var version = await db.Saves.Include(s => s.Milestone).FirstOrDefaultAsync(s => s.PieceId == pieceId && s.Number == number.Value, cancel);
        if (version is null) return Refuse($"There is no version {number}.");
        if (version.Milestone is { } already) return Refuse($"{number} is a milestone already: M{already.Number:D2}, “{already.Reason}”.");

        var count = ++piece.HighestMilestone;
        var hand = await db.Users.Where(p => p.Id == version.KeptById).Select(p => p.Initials).FirstOrDefaultAsync(cancel) ?? "";
        var today = DateOnly.FromDateTime(time.GetLocalNow().DateTime);
        var milestone = new Milestone
        {
            SaveId = version.Id,
            Number = count,
            Reason = reason,
            ExactName = PieceNames.Of(piece).Milestone(count, number, hand, today, FileNames.Extension(version.ExactName!)).Name!.ToString(),
            MarkedAt = time.GetUtcNow(),
            MarkedById = personId,
        };
        db.Milestones.Add(milestone);
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return new MarkedMilestone(milestone, number, kept);
    }

    private static Outcome<MarkedMilestone> Refuse(string sentence) => Outcome<MarkedMilestone>.Refused(sentence, "reason");
}
