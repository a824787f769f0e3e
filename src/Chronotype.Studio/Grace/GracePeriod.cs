using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Grace;

/// <summary>How long what was deleted can be taken back, and what its end frees.</summary>
public static class GracePeriod
{
    /// <summary>From the moment of deleting. Until it ends nothing of the content is let go.</summary>
    public static readonly TimeSpan Length = TimeSpan.FromDays(30);

    /// <summary>
    /// Bytes on disk that some saves alone took when they came: what goes with them, as far as nothing newer was stored against it.
    /// </summary>
    /// <param name="saves">Deleted ones count only where the query's filters are ignored.</param>
    public static async Task<long> FreesAsync(StudioDb db, ContentStore store, IQueryable<Save> saves, CancellationToken cancel = default)
    {
        var alone = await db
            .SaveFiles.Where(f =>
                saves.Any(s => s.Id == f.SaveId)
                && !db.SaveFiles.Any(o => o.Hash == f.Hash && !saves.Any(s => s.Id == o.SaveId))
                && !db.FileContents.Any(c => c.Hash == f.Hash)
                && !db.Companions.Any(c => c.Hash == f.Hash && !saves.Any(s => s.Id == c.SaveId))
                && !db.Links.Any(l => l.SeenHash == f.Hash && !saves.Any(s => s.Id == l.SaveId))
            )
            .Select(f => f.Hash)
            .Distinct()
            .ToListAsync(cancel);
        return alone.Sum(NewBytes);

        long NewBytes(ContentHash hash)
        {
            try
            {
                return store.EntryOf(hash).NewBytes;
            }
            catch (IOException)
            {
                // Damaged or missing: what it takes is not known, and its end frees no less.
                return 0;
            }
        }
    }
}
