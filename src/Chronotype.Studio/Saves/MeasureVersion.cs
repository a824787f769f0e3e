using Chronotype.Core.Comparing;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Measures how much a version changed against the one before it, which drives the time strip.</summary>
public sealed class MeasureVersion(StudioDb db, CompareSaves compare)
{
    public async Task DoAsync(Guid saveId, CancellationToken cancel = default)
    {
        var version = await db.Saves.AsNoTracking().Where(s => s.Id == saveId).Select(s => new { s.PieceId, s.Number, s.ChangeState }).FirstAsync(cancel);
        if (version.Number is not { } number || version.ChangeState != ChangeState.Pending) return;
        var before = await db.Saves.Where(s => s.PieceId == version.PieceId && s.Number < number)
            .OrderByDescending(s => s.Number).Select(s => (Guid?)s.Id).FirstOrDefaultAsync(cancel);
        // The first version of a line is all new.
        var result = before is { } id ? await compare.DoAsync(id, saveId, cancel: cancel) : new Comparison(1, "", []);
        var state = result.Change is null ? ChangeState.NotMeasurable : ChangeState.Measured;
        await db.Saves.Where(s => s.Id == saveId)
            .ExecuteUpdateAsync(u => u.SetProperty(s => s.Change, result.Change).SetProperty(s => s.ChangeState, state), cancel);
    }
}
