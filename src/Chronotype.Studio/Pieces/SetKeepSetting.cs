using Chronotype.Core.Versions;
using Chronotype.Storage;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>Says when a piece's saves take a number.</summary>
public sealed class SetKeepSetting(StudioDb db)
{
    /// <param name="setting">Null: as the project says.</param>
    public async Task DoAsync(Guid pieceId, KeepSetting? setting, CancellationToken cancel = default) =>
        await db.Pieces.Where(p => p.Id == pieceId).ExecuteUpdateAsync(u => u.SetProperty(p => p.Keep, setting), cancel);
}
