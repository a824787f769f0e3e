using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Readers;

/// <summary>What was computed from contents and can be computed again.</summary>
public sealed class DerivedFacts(Previews previews, TileStore tiles, SoundStore sounds)
{
    /// <summary>Forgets all that was derived from contents that were damaged; it is derived anew when it is wanted.</summary>
    public async Task DropAsync(StudioDb db, IReadOnlyCollection<ContentHash> contents, CancellationToken cancel = default)
    {
        foreach (var part in contents.Chunk(200))
        {
            var identities = await db
                .SaveFiles.Where(f => part.Contains(f.Hash))
                .Join(db.Saves.WithDeleted(), f => f.SaveId, s => s.Id, (f, s) => s.Identity)
                .Union(db.Saves.WithDeleted().Where(s => s.FaceHash != null && part.Contains(s.FaceHash.Value)).Select(s => s.Identity))
                .ToListAsync(cancel);
            await db.ContentFacts.Where(f => part.Contains(f.Content)).ExecuteDeleteAsync(cancel);
            await db.Comparisons.Where(c => identities.Contains(c.Before) || identities.Contains(c.After)).ExecuteDeleteAsync(cancel);
            foreach (var content in part)
            {
                previews.Drop(content);
                tiles.Drop(content);
                sounds.Drop(content);
            }
        }
    }
}
