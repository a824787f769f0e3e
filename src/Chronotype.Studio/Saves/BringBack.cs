using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Makes an older save the newest loose save. Nothing is overwritten, and its content is not stored again.</summary>
public sealed class BringBack(DeedRunner deeds)
{
    /// <param name="pieceId">The piece that the save is of.</param>
    public Task<Outcome<Save>> DoAsync(Actor actor, Guid pieceId, Guid saveId, CancellationToken cancel = default) =>
        deeds.DoAsync<Save>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await FindAsync(deed.Db, pieceId, saveId, cancel) is not { } old)
                    return new Refusal.NoSuchSave();
                var newest = await deed
                    .Db.Saves.Where(s => s.PieceId == pieceId && s.Line.IsCurrent && s.Aside == null)
                    .OrderByDescending(s => s.Sequence)
                    .FirstOrDefaultAsync(cancel);
                if (newest?.Identity == old.Identity)
                    return new Refusal.HoldsItAlready(null);
                var save = await OnTopOfAsync(deed, old.Piece, old, cancel);
                // A number of another line would say nothing here.
                if (old.LineId == save.LineId)
                    (save.BaseNumber, save.BroughtBackFrom) = (old.Number ?? old.BaseNumber, old.Number);
                return save;
            },
            cancel
        );

    /// <summary>Gives what one piece holds to another piece of the project too, as a loose save. It stays where it is.</summary>
    /// <param name="toPiece">The other's current name.</param>
    public Task<Outcome<Save>> GiveAsync(Actor actor, Guid pieceId, Guid saveId, string toPiece, CancellationToken cancel = default) =>
        deeds.DoAsync<Save>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                if (await FindAsync(db, pieceId, saveId, cancel) is not { } old)
                    return new Refusal.NoSuchSave();
                var to = await db
                    .Pieces.Include(p => p.Lines)
                    .FirstOrDefaultAsync(
                        p => p.ProjectId == old.Piece.ProjectId && p.CurrentName == toPiece && p.Id != old.PieceId,
                        cancel
                    );
                if (to is null)
                    return new Refusal.NoSuchPiece();
                var newest = await db
                    .Saves.Where(s => s.PieceId == to.Id && s.Line.IsCurrent && s.Aside == null)
                    .OrderByDescending(s => s.Sequence)
                    .FirstOrDefaultAsync(cancel);
                if (newest?.Identity == old.Identity)
                    return new Refusal.HoldsItAlready(to.CurrentName);
                var save = await OnTopOfAsync(deed, to, old, cancel);
                await PieceFiles.GiveExtensionAsync(db, to, old.Files.First(f => f.IsMain).Path, cancel);
                return save;
            },
            cancel
        );

    private static Task<Save?> FindAsync(StudioDb db, Guid pieceId, Guid saveId, CancellationToken cancel) =>
        db
            .Saves.Include(s => s.Files)
            .Include(s => s.Faces)
            .AsSplitQuery()
            .Include(s => s.Piece)
                .ThenInclude(p => p.Lines)
            .FirstOrDefaultAsync(s => s.Id == saveId && s.PieceId == pieceId, cancel);

    /// <summary>Makes what a save holds the newest save of a piece, as part of a deed that does more.</summary>
    /// <param name="old">With its files and faces.</param>
    /// <param name="line">One of the piece's; null for the line on which work goes on.</param>
    /// <param name="put">By path, what is in the place of files of it; null for nothing.</param>
    internal static async Task<Save> OnTopOfAsync(
        Deed deed,
        Piece piece,
        Save old,
        CancellationToken cancel,
        IReadOnlyDictionary<string, (ContentHash Hash, long Size)>? put = null,
        Line? line = null
    )
    {
        var files = old
            .Files.Select(f => (File: f, Held: put?.TryGetValue(f.Path, out var held) == true ? held : (f.Hash, f.Size)))
            .ToList();
        var content = new SaveContent(
            [.. files.Select(f => new ContentFile(ProjectPath.Parse(f.File.Path), f.Held.Hash, f.Held.Size))],
            ProjectPath.Parse(old.Files.First(f => f.IsMain).Path)
        );
        var onto = (line ?? piece.Line).Id;
        var save = new Save
        {
            PieceId = piece.Id,
            LineId = onto,
            BaseNumber = await deed.Db.Saves.Where(s => s.LineId == onto).MaxAsync(s => s.Number, cancel),
            Sequence = ++piece.HighestSequence,
            ArrivedAt = deed.Now,
            ArrivedById = deed.Actor.PersonId,
            ReceivedName = old.ReceivedName,
            Identity = content.Identity,
            MainHash = content.Main.Hash,
            Size = content.Size,
            Files = files.ConvertAll(f => new SaveFile
            {
                Path = f.File.Path,
                Hash = f.Held.Hash,
                Size = f.Held.Size,
                IsMain = f.File.IsMain,
                ChangedAt = f.File.ChangedAt,
            }),
            EmptyFolders = old.EmptyFolders,
            NewBytes = 0,
            FaceHash = old.FaceHash,
            Faces = AttachFace.Standing(old) is not { } face
                ? []
                :
                [
                    new Face
                    {
                        Hash = face.Hash,
                        Name = face.Name,
                        Size = face.Size,
                        Origin = face.Origin,
                        AttachedAt = face.AttachedAt,
                        AttachedById = face.AttachedById,
                    },
                ],
        };
        piece.PutAwayAt = null;
        deed.Db.Saves.Add(save);
        await deed.Db.SaveChangesAsync(cancel);
        await PieceCompanions.BringBackAsync(deed, save, old, cancel);
        await FileLinks.OfSaveAsync(deed.Db, save, cancel);
        // Known already, unless a newer reader has not come to it yet.
        await deed.QueueAsync(JobRequest.Read(save.MainHash, piece.Id), cancel);
        return save;
    }
}
