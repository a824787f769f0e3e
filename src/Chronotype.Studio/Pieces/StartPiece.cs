using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Outputs;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>What a piece is started from, and remembers.</summary>
/// <param name="EntryId">An original of its project; null for none.</param>
/// <param name="SaveId">A save of another piece; null for none.</param>
/// <param name="Part">What of that save; null for all of it.</param>
public sealed record PieceOrigin(Guid? EntryId, Guid? SaveId, PartTaken? Part = null);

/// <summary>Starts a piece: its name and place are reserved, whether or not there is content yet.</summary>
public sealed class StartPiece(DeedRunner deeds)
{
    /// <param name="slots">
    /// By label, what the piece is called by: its subject, its function, and what else the project's convention asks for.
    /// </param>
    /// <param name="goOn">
    /// A name that this person reserved and that has no content yet is taken up again: the file that should have begun it was cut off.
    /// </param>
    /// <param name="from">What it is started from; null for nothing.</param>
    public Task<Outcome<Piece>> DoAsync(
        Actor actor,
        Guid projectId,
        IReadOnlyDictionary<string, string> slots,
        bool goOn = false,
        PieceOrigin? from = null,
        CancellationToken cancel = default
    ) => deeds.DoAsync(actor, Right.Work, deed => WithinAsync(deed, projectId, slots, goOn, from, cancel), cancel);

    /// <summary>As <see cref="DoAsync"/>, as part of a deed that does more.</summary>
    internal static async Task<Outcome<Piece>> WithinAsync(
        Deed deed,
        Guid projectId,
        IReadOnlyDictionary<string, string> slots,
        bool goOn,
        PieceOrigin? from,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        var project = await db.Projects.Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == projectId, cancel);
        if (project is null)
            return new Refusal.NoSuchProject();
        var convention = ConventionStore.Read(project.Convention);
        var (written, refusal) = await PieceSlots.WriteAsync(db, convention, slots, cancel);
        if (refusal is not null)
            return refusal;
        var (name, faults) = PieceNames.Of(project, written).Current();
        if (name is null)
            return new Refusal.SlotNotLegal(faults[0].Slot, faults[0].Message);
        var stem = name.Stem;
        var there = await db.Pieces.FirstOrDefaultAsync(p => p.ProjectId == projectId && p.CurrentName == stem, cancel);
        if (goOn && there is { HighestSequence: 0 } && there.StartedById == deed.Actor.PersonId)
            return there;
        if (there is not null)
            return new Refusal.PieceIsThere(stem, ConventionStore.OwnSlots(convention).FirstOrDefault(s => s.Rule is WordsRule)?.Label);

        var piece = new Piece
        {
            ProjectId = projectId,
            Slots = RecordJson.Write(written),
            CurrentName = stem,
            StartedAt = deed.Now,
            StartedById = deed.Actor.PersonId,
            FromEntryId = from?.EntryId,
            FromSaveId = from?.SaveId,
            FromPart = from?.Part is { } part ? RecordJson.Write(part) : null,
        };
        piece.Lines.Add(
            new Line
            {
                PieceId = piece.Id,
                IsCurrent = true,
                StartedAt = deed.Now,
            }
        );
        db.Pieces.Add(piece);
        await new ProjectTree(db, projectId).PlaceAsync(EntryKind.CurrentFile, stem, piece.Id, cancel: cancel);
        return piece;
    }
}
