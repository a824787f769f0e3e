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

        var save = new Save
        {
            PieceId = old.PieceId,
            Sequence = ++old.Piece.HighestSequence,
            ArrivedAt = time.GetUtcNow(),
            ArrivedById = personId,
            ReceivedName = old.ReceivedName,
            Identity = old.Identity,
            MainHash = old.MainHash,
            Size = old.Size,
            Files = old.Files.ConvertAll(f => new SaveFile { Path = f.Path, Hash = f.Hash, Size = f.Size, IsMain = f.IsMain }),
            BaseNumber = old.Number ?? old.BaseNumber,
            BroughtBackFrom = old.Number,
            Reading = old.Reading,
            Format = old.Format,
            Problem = old.Problem,
            Inside = old.Inside,
        };
        db.Saves.Add(save);
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return save;
    }
}
