using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Makes an older save the newest loose save. Nothing is overwritten, and its content is not stored again.</summary>
public sealed class BringBack(StudioDb db, TimeProvider time)
{
    public async Task<Outcome<Save>> DoAsync(Guid saveId, Guid personId, CancellationToken cancel = default)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var old = await db.Saves.Include(s => s.Files).Include(s => s.Piece).FirstAsync(s => s.Id == saveId, cancel);
        await db.Entry(old.Piece).ReloadAsync(cancel);
        var newest = await db.Saves.Where(s => s.PieceId == old.PieceId).OrderByDescending(s => s.Sequence).FirstAsync(cancel);
        if (newest.Identity == old.Identity) return Outcome<Save>.Refused("Nothing was brought back: the newest save holds this very content.");

        var save = OnTopOf(old.Piece, old, personId);
        (save.BaseNumber, save.BroughtBackFrom) = (old.Number ?? old.BaseNumber, old.Number);
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return save;
    }

    /// <summary>Gives what one piece holds to another piece of the project too, as a loose save. It stays where it is.</summary>
    public async Task<Outcome<Save>> GiveAsync(Guid saveId, string toPiece, Guid personId, CancellationToken cancel = default)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var old = await db.Saves.Include(s => s.Files).Include(s => s.Piece).FirstAsync(s => s.Id == saveId, cancel);
        var to = await db.Pieces.FirstOrDefaultAsync(p => p.ProjectId == old.Piece.ProjectId && p.CurrentName == toPiece && p.Id != old.PieceId, cancel);
        if (to is null) return Outcome<Save>.Refused("There is no such piece in this project.");
        await db.Entry(to).ReloadAsync(cancel);
        var newest = await db.Saves.Where(s => s.PieceId == to.Id).OrderByDescending(s => s.Sequence).FirstOrDefaultAsync(cancel);
        if (newest?.Identity == old.Identity) return Outcome<Save>.Refused($"Nothing was added: the newest save of {to.CurrentName} holds this very content.");
        var save = OnTopOf(to, old, personId);
        save.BaseNumber = await db.Saves.Where(s => s.PieceId == to.Id).MaxAsync(s => s.Number, cancel);
        if (to.Extension.Length == 0) to.Extension = FileNames.Extension(old.Files.First(f => f.IsMain).Path);
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return save;
    }

    private Save OnTopOf(Piece piece, Save old, Guid personId)
    {
        var save = new Save
        {
            PieceId = piece.Id,
            Sequence = ++piece.HighestSequence,
            ArrivedAt = time.GetUtcNow(),
            ArrivedById = personId,
            ReceivedName = old.ReceivedName,
            Identity = old.Identity,
            MainHash = old.MainHash,
            Size = old.Size,
            Files = old.Files.ConvertAll(f => new SaveFile { Path = f.Path, Hash = f.Hash, Size = f.Size, IsMain = f.IsMain, ChangedAt = f.ChangedAt }),
            EmptyFolders = old.EmptyFolders,
            Reading = old.Reading,
            Format = old.Format,
            Problem = old.Problem,
            Inside = old.Inside,
        };
        db.Saves.Add(save);
        return save;
    }
}
