using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>Starts a piece: its name and place are reserved, whether or not there is content yet.</summary>
public sealed class StartPiece(StudioDb db, TimeProvider time)
{
    /// <summary>The longest subject that is read at all, in characters; what stands in a name is shorter.</summary>
    public const int MaxSubject = 1000;

    /// <param name="goOn">
    /// A name that this person reserved and that has no content yet is taken up again: the file that should have begun it was cut off.
    /// </param>
    public async Task<Outcome<Piece>> DoAsync(Guid projectId, Guid personId, string subject, string function, bool goOn = false, CancellationToken cancel = default)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var project = await db.Projects.Include(p => p.Client).FirstAsync(p => p.Id == projectId, cancel);
        if (!await db.Codes.AnyAsync(c => c.List == "function" && c.Code == function, cancel))
            return Outcome<Piece>.Refused("Choose what the piece is from the list of functions.", nameof(function));

        var (name, faults) = PieceNames.Of(project, Bounded(subject), function).Current();
        if (name is null) return Outcome<Piece>.Refused(faults[0].Message, faults[0].Slot);
        var stem = name.Stem;
        var there = await db.Pieces.FirstOrDefaultAsync(p => p.ProjectId == projectId && p.CurrentName == stem, cancel);
        if (goOn && there is { HighestSequence: 0 } && there.StartedById == personId) return there;
        if (there is not null)
            return Outcome<Piece>.Refused($"{stem} is there already. Change the subject, or drop the file on that piece.", nameof(subject));

        var piece = new Piece
        {
            ProjectId = projectId,
            Subject = name.Segments.First(s => s.Label == "subject").Text,
            Function = function,
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

    /// <summary>What a subject may begin as, from the name a file came under.</summary>
    public static string SubjectFrom(string receivedName) => Words.Fold(FileNames.Stem(FileNames.Received(receivedName)), "-", 40);

    /// <summary>As much of a subject as is read at all.</summary>
    public static string Bounded(string subject) => TypedText.Cut(subject, MaxSubject);
}
