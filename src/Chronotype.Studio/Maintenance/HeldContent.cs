using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Mirror;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Maintenance;

/// <summary>
/// Which contents the records hold, and letting go of those that none holds: what a crash left between storing and recording.
/// </summary>
public sealed class HeldContent(ContentStore store, IDbContextFactory<StudioDb> contexts, TimeProvider time)
{
    /// <summary>So long a content may be stored without a record, whatever happens to whoever stored it.</summary>
    public static readonly TimeSpan Grace = TimeSpan.FromDays(1);

    // Contents that cannot be let go of in so many looks wait for the next round.
    private const int Batch = 500,
        MostTries = 20;

    /// <summary>Every content that a record holds.</summary>
    public static async Task<HashSet<ContentHash>> AllAsync(StudioDb db, CancellationToken cancel = default) =>
        (await Of(db).Distinct().ToListAsync(cancel)).ToHashSet();

    private static IQueryable<ContentHash> Of(StudioDb db) =>
        db
            .SaveFiles.Select(f => f.Hash)
            .Concat(db.FileContents.Select(f => f.Hash))
            .Concat(db.Faces.Select(f => f.Hash))
            .Concat(db.Companions.Select(c => c.Hash))
            .Concat(db.ColourProfiles.Select(p => p.Hash))
            .Concat(db.SharedFiles.WithDeleted().Where(f => f.Hash != null).Select(f => f.Hash!.Value))
            // What a version saw can be given back with it, whatever became of the file.
            .Concat(db.Links.Where(l => l.SeenHash != null).Select(l => l.SeenHash!.Value));

    /// <returns>How many were let go; the next compaction frees their bytes.</returns>
    public async Task<int> DropUnheldAsync(CancellationToken cancel = default)
    {
        var before = time.GetUtcNow() - Grace;
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var known = await AllAsync(db, cancel);
        var unheld = store.Maintenance.Contents().Where(c => c.KeptAt < before && !known.Contains(c.Hash)).Select(c => c.Hash).ToList();
        var dropped = 0;
        foreach (var part in unheld.Chunk(Batch))
            dropped += await DropAsync(db, part, cancel);
        return dropped;
    }

    /// <summary>
    /// Lets go at once of what was stored to be recorded, and was refused. Where that cannot be done, it goes with what no record holds.
    /// </summary>
    public async Task RefusedAsync(IReadOnlyCollection<ContentHash> contents)
    {
        try
        {
            await using var db = await contexts.CreateDbContextAsync();
            await DropAsync(db, [.. contents], CancellationToken.None);
        }
        catch (Exception e) when (e is IOException or SqliteException)
        {
            // The refusal is told, and no more.
        }
    }

    private async Task<int> DropAsync(StudioDb db, ContentHash[] contents, CancellationToken cancel)
    {
        for (var tries = 1; tries <= MostTries; tries++)
        {
            // Nobody waits while it is looked for; and nothing is let go of where anything was recorded since, but looked for again.
            var noted = await RecordMirror.LastNotedAsync(db, cancel);
            var held = (await Of(db).Where(h => contents.Contains(h)).Distinct().ToListAsync(cancel)).ToHashSet();
            await using var transaction = await Writing.BeginAsync(db, cancel);
            // Leases hold the contents that are about to be recorded.
            if (await RecordMirror.LastNotedAsync(db, cancel) == noted)
                return store.Drop([.. contents.Where(h => !held.Contains(h))]);
        }
        return 0;
    }
}
