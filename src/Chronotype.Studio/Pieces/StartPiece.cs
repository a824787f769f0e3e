using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Conventions;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>Starts a piece: its name and place are reserved, whether or not there is content yet.</summary>
public sealed class StartPiece(StudioDb db, TimeProvider time)
{
    /// <summary>The longest value of a slot that is read at all, in characters; what stands in a name is shorter.</summary>
    public const int MaxValue = 1000;

    /// <param name="slots">By label, what the piece is called by: its subject, its function, and what else the project's convention asks for.</param>
    /// <param name="goOn">
    /// A name that this person reserved and that has no content yet is taken up again: the file that should have begun it was cut off.
    /// </param>
    public async Task<Outcome<Piece>> DoAsync(Guid projectId, Guid personId, IReadOnlyDictionary<string, string> slots, bool goOn = false, CancellationToken cancel = default)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var project = await db.Projects.Include(p => p.Client).FirstAsync(p => p.Id == projectId, cancel);
        var convention = StudioConvention.Read(project.Convention);
        var written = new Dictionary<string, string>();
        foreach (var slot in StudioConvention.OwnSlots(convention))
        {
            var value = Bounded(slots.GetValueOrDefault(slot.Label, ""));
            if (value.Length == 0) continue;
            if (slot.Rule is CodeRule { List: var list } && value != convention.Filler && !await db.Codes.AnyAsync(c => c.List == list && c.Code == value, cancel))
                return Outcome<Piece>.Refused($"Choose the {slot.Label} from its list.", slot.Label);
            if (value == convention.Filler)
            {
                written[slot.Label] = value;
                continue;
            }
            var (text, fault) = slot.Rule.Write(slot.Label, value);
            if (text is null) return Outcome<Piece>.Refused(fault!, slot.Label);
            written[slot.Label] = slot.Rule.Read(text);
        }
        var (name, faults) = PieceNames.Of(project, written).Current();
        if (name is null) return Outcome<Piece>.Refused(faults[0].Message, faults[0].Slot);
        var stem = name.Stem;
        var there = await db.Pieces.FirstOrDefaultAsync(p => p.ProjectId == projectId && p.CurrentName == stem, cancel);
        if (goOn && there is { HighestSequence: 0 } && there.StartedById == personId) return there;
        if (there is not null)
            return Outcome<Piece>.Refused($"{stem} is there already. Change what it is called, or drop the file on that piece.", StudioConvention.OwnSlots(convention).FirstOrDefault(s => s.Rule is WordsRule)?.Label);

        var piece = new Piece
        {
            ProjectId = projectId,
            Slots = RecordJson.Write(written),
            CurrentName = stem,
            Folder = FolderPlan.Of(project.Plan).Home,
            StartedAt = time.GetUtcNow(),
            StartedById = personId,
        };
        db.Pieces.Add(piece);
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return piece;
    }

    /// <summary>As much of a value as is read at all.</summary>
    public static string Bounded(string value) => TypedText.Cut(TypedText.Line(value), MaxValue);
}
