using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>What speaks against numbering a save, and the answers to it. Whatever is answered, what it holds stays stored.</summary>
public sealed class SaveQuestion(DeedRunner deeds, KeepSave keepSave)
{
    /// <summary>What speaks against numbering a save without asking; what was said to be expected of its piece does not.</summary>
    /// <param name="save">With its files.</param>
    /// <param name="facts">What was read in it; null where that is not known yet.</param>
    public static async Task<IReadOnlyList<SaveDoubt>> FindAsync(
        StudioDb db,
        Piece piece,
        Save save,
        FileFacts? facts,
        CancellationToken cancel
    )
    {
        var previous = await PieceQueries
            .VersionsOf(db, save.LineId)
            .Select(s => new { s.MainHash, Bytes = s.Files.Where(f => f.IsMain).Select(f => f.Size).FirstOrDefault() })
            .FirstOrDefaultAsync(cancel);
        var main = save.Files.First(f => f.IsMain);
        // What could not be read yet says neither that anything was lost nor that nothing was.
        var doubts = facts is null
            ? []
            : SaveDoubts
                .Find(
                    previous is null ? null : await ContentReader.KnownAsync(db, previous.MainHash, cancel),
                    facts,
                    previous?.Bytes ?? 0,
                    main.Size
                )
                .ToList();
        if (save.ArrivalNotice is { } notice)
            doubts.Add(new SaveDoubt(SaveDoubtCode.Arrived) { Arrival = RecordJson.Read<ArrivalNotice>(notice) });
        var extension = FileNames.Extension(main.Path);
        if (extension != piece.Extension)
            doubts.Add(new SaveDoubt(SaveDoubtCode.OtherKind) { KindBefore = piece.Extension, KindNow = extension });
        var expected = ExpectedOf(piece);
        return [.. doubts.Where(d => !d.MayBeExpected || !expected.Contains(d.Code))];
    }

    /// <summary>What was said to be expected of a piece's saves from now on.</summary>
    public static IReadOnlyList<SaveDoubtCode> ExpectedOf(Piece piece) =>
        piece.Expected is { } json ? RecordJson.Read<IReadOnlyList<SaveDoubtCode>>(json) : [];

    /// <summary>Says that what speaks against a save is to be expected of its piece from now on, and keeps it.</summary>
    public async Task<Outcome<KeepResult>> ExpectAsync(
        Actor actor,
        Guid pieceId,
        Guid saveId,
        string? note = null,
        CancellationToken cancel = default
    )
    {
        await keepSave.WaitUntilReadAsync(pieceId, saveId, cancel);
        return await deeds.DoAsync(
            actor,
            Right.Work,
            async deed =>
            {
                if (await LooseAsync(deed.Db, pieceId, saveId, cancel) is not { } save)
                    return new Refusal.NoSuchSave();
                var facts = await ContentReader.KnownAsync(deed.Db, save.MainHash, cancel);
                var doubts = await FindAsync(deed.Db, save.Piece, save, facts, cancel);
                var codes = ExpectedOf(save.Piece).Concat(doubts.Where(d => d.MayBeExpected).Select(d => d.Code)).Distinct().Order();
                save.Piece.Expected = RecordJson.Write(codes.ToList());
                await deed.Db.SaveChangesAsync(cancel);
                return await keepSave.WithinAsync(deed, pieceId, saveId, note, insist: false, inOrder: false, cancel);
            },
            cancel
        );
    }

    /// <summary>Asks again about everything that was said to be expected of a piece.</summary>
    public Task<Outcome<Done>> AskAgainAsync(Actor actor, Guid pieceId, CancellationToken cancel = default) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
                await deed
                    .Db.Pieces.Where(p => p.Id == pieceId)
                    .ExecuteUpdateAsync(u => u.SetProperty(p => p.Expected, (string?)null), cancel) == 1
                    ? Done.It
                    : new Refusal.NoSuchPiece(),
            cancel
        );

    /// <summary>Leaves a save loose: it stays stored, and nobody is asked about it until somebody keeps it.</summary>
    public Task<Outcome<Save>> LeaveLooseAsync(Actor actor, Guid pieceId, Guid saveId, CancellationToken cancel = default) =>
        deeds.DoAsync<Save>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await LooseAsync(deed.Db, pieceId, saveId, cancel) is not { } save)
                    return new Refusal.NoSuchSave();
                save.IsLeftLoose = true;
                return save;
            },
            cancel
        );

    /// <summary>
    /// Puts a save of one file among the project's outputs, under the name that it came with, and takes it out of the piece's saves; there it
    /// can be taken back for as long as anything that was discarded.
    /// </summary>
    public Task<Outcome<PlacedFile>> TakeAsOutputAsync(Actor actor, Guid pieceId, Guid saveId, CancellationToken cancel = default) =>
        deeds.DoAsync(
            actor,
            Right.Work,
            async deed =>
            {
                if (await LooseAsync(deed.Db, pieceId, saveId, cancel) is not { } save)
                    return new Refusal.NoSuchSave();
                if (save.Files.Count > 1)
                    return new Refusal.FolderIsNoOutput();
                var placed = await TendFiles.PlaceOutputAsync(deed, save.Piece.ProjectId, save, cancel);
                if (!placed.Done)
                    return placed;
                (save.DiscardedAt, save.DiscardedById) = (deed.Now, deed.Actor.PersonId);
                // It came for this piece, as a copy of what was newest then.
                var of = await deed
                    .Db.Saves.Where(s => s.LineId == save.LineId && s.Number != null && s.Number == save.BaseNumber)
                    .Select(s => (Guid?)s.Id)
                    .FirstOrDefaultAsync(cancel);
                if (of is { } version && placed.Result.IsNew)
                {
                    await deed.Db.SaveChangesAsync(cancel);
                    await MatchOutputs.RecordAsync(deed, placed.Result.Entry.Id, version, null, cancel);
                }
                return placed;
            },
            cancel
        );

    private static Task<Save?> LooseAsync(StudioDb db, Guid pieceId, Guid saveId, CancellationToken cancel) =>
        db
            .Saves.Include(s => s.Files)
            .Include(s => s.Piece)
            .FirstOrDefaultAsync(s => s.Id == saveId && s.PieceId == pieceId && s.Number == null, cancel);
}
