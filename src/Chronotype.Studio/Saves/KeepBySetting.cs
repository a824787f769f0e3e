using Chronotype.Core.Versions;
using Chronotype.Storage;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Keeps saves without being asked, where a piece's setting says so. A save that something speaks against stays loose.</summary>
public sealed class KeepBySetting(StudioDb db, KeepSave keepSave, TimeProvider time)
{
    /// <summary>After a save was read: keeps it on a piece that is kept at every save that changed something.</summary>
    /// <returns>Null when the setting does not ask for it.</returns>
    public async Task<KeepResult?> AfterSaveAsync(Guid saveId, CancellationToken cancel = default)
    {
        var save = await db.Saves.AsNoTracking().Where(s => s.Id == saveId)
            .Select(s => new { s.PieceId, s.ArrivedById, s.BroughtBackFrom, Setting = s.Piece.Keep ?? s.Piece.Project.Keep }).FirstAsync(cancel);
        // What is brought back is equal to a version already; numbering it again is a person's wish, not a setting's.
        if (save.Setting != KeepSetting.EveryChange || save.BroughtBackFrom is not null) return null;
        return await keepSave.DoAsync(save.PieceId, saveId, save.ArrivedById, null, cancel: cancel);
    }

    /// <summary>Keeps the last save of every sitting that is over, on pieces that are kept once a sitting.</summary>
    /// <returns>What was kept.</returns>
    public async Task<IReadOnlyList<KeepResult.Kept>> AfterSittingsAsync(CancellationToken cancel = default)
    {
        var over = time.GetUtcNow() - Sittings.Gap;
        var newest = await db.Pieces.AsNoTracking()
            .Where(p => (p.Keep ?? p.Project.Keep) == KeepSetting.OncePerSitting)
            .Select(p => p.Saves.OrderByDescending(s => s.Sequence).Select(s => new { s.Id, s.PieceId, s.ArrivedAt, s.ArrivedById, s.Number, s.Problem }).FirstOrDefault())
            .ToListAsync(cancel);
        var kept = new List<KeepResult.Kept>();
        foreach (var save in newest)
        {
            if (save is null || save.Number is not null || save.Problem is not null || save.ArrivedAt > over) continue;
            if (await keepSave.DoAsync(save.PieceId, save.Id, save.ArrivedById, null, cancel: cancel) is KeepResult.Kept k) kept.Add(k);
        }
        return kept;
    }
}
