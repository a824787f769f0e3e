using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Maintenance;

/// <summary>
/// What of the content is damaged, as far as verifications know: what the newest one that read everything found, and what samples found
/// since.
/// </summary>
public static class FoundDamage
{
    public static async Task<List<CheckDamage>> NowAsync(StudioDb db, CancellationToken cancel = default)
    {
        var since =
            await db
                .StoreChecks.Where(c => c.Share >= 1)
                .OrderByDescending(c => c.EndedAt)
                .Select(c => (DateTimeOffset?)c.EndedAt)
                .FirstOrDefaultAsync(cancel)
            ?? DateTimeOffset.MinValue;
        return await db.StoreChecks.Where(c => c.EndedAt >= since).SelectMany(c => c.Damaged).AsNoTracking().ToListAsync(cancel);
    }
}
