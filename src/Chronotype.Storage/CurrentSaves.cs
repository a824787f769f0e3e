using Chronotype.Core.Readers;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Storage;

/// <summary>Which save a piece's current file holds.</summary>
public static class CurrentSaves
{
    /// <summary>Those that are not known to be cut short or damaged.</summary>
    public static IQueryable<Save> Sound(this IQueryable<Save> saves, StudioDb db) =>
        saves.Where(s =>
            !db.ContentFacts.Any(f =>
                f.Content == s.MainHash
                && f.State == FactsState.Faulty
                && f.Reader == ReaderVersions.FileFacts
                && f.Version == ReaderVersions.FileFactsVersion
            )
        );

    /// <summary>The newest of a line that is sound; where none is, the newest.</summary>
    /// <returns>Null for a line without any.</returns>
    public static async Task<Guid?> OfLineAsync(StudioDb db, Guid lineId, CancellationToken cancel = default)
    {
        var saves = db.Saves.Where(s => s.LineId == lineId && s.Aside == null).OrderByDescending(s => s.Sequence);
        return await saves.Sound(db).Select(s => (Guid?)s.Id).FirstOrDefaultAsync(cancel)
            ?? await saves.Select(s => (Guid?)s.Id).FirstOrDefaultAsync(cancel);
    }

    /// <summary>Has a piece's current file hold what it is to hold, now that a save came or went, was read, or work goes on elsewhere.</summary>
    public static async Task SettleAsync(StudioDb db, Guid pieceId, CancellationToken cancel = default)
    {
        var line = await db.Lines.Where(l => l.PieceId == pieceId && l.IsCurrent).Select(l => l.Id).FirstOrDefaultAsync(cancel);
        var current = await OfLineAsync(db, line, cancel);
        await db
            .Saves.IgnoreQueryFilters()
            .Where(s => s.PieceId == pieceId && s.IsCurrent && s.Id != current)
            .ExecuteUpdateAsync(u => u.SetProperty(s => s.IsCurrent, false), cancel);
        await db.Saves.Where(s => s.Id == current && !s.IsCurrent).ExecuteUpdateAsync(u => u.SetProperty(s => s.IsCurrent, true), cancel);
    }
}
