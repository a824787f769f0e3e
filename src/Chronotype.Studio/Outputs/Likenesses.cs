using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Outputs;

/// <summary>What contents are known by: read once, and kept with the content.</summary>
public sealed class Likenesses(FileReader reader, Previews previews, IDbContextFactory<StudioDb> contexts, IContentStore store)
{
    /// <summary>From the records.</summary>
    /// <returns>By content; those that were not read yet, or cannot be, are not among them.</returns>
    public static async Task<Dictionary<ContentHash, Likeness>> KnownAsync(
        StudioDb db,
        IReadOnlyCollection<ContentHash> contents,
        CancellationToken cancel = default
    )
    {
        var known = new Dictionary<ContentHash, Likeness>();
        foreach (var part in contents.Distinct().Chunk(500))
        {
            var rows = await Current(db)
                .Where(f => part.Contains(f.Content) && f.State == FactsState.Read)
                .Select(f => new { f.Content, f.Facts })
                .ToListAsync(cancel);
            foreach (var row in rows)
                known[row.Content] = RecordJson.Read<Likeness>(row.Facts);
        }
        return known;
    }

    /// <summary>From the records, or read now.</summary>
    /// <param name="format">Of the content.</param>
    /// <returns>Null for what can be neither seen nor heard.</returns>
    /// <exception cref="IOException">The content could not be read from where it is kept.</exception>
    public async Task<Likeness?> GetAsync(ContentHash content, FileFormat format, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await Current(db).FirstOrDefaultAsync(f => f.Content == content, cancel) is { } row)
            return row.State == FactsState.Read ? RecordJson.Read<Likeness>(row.Facts) : null;
        // A picture is told by its preview where that is there: it is a great deal smaller.
        var seen = Core.Versions.FaceRule.IsSound(format) ? null : previews.Known(content, Previews.Sides[0]);
        var likeness = await reader.LikenAsync(
            () => seen?.Path is { } path && File.Exists(path) ? File.OpenRead(path) : store.OpenRead(content),
            cancel
        );
        await using var transaction = await Writing.BeginAsync(db, cancel);
        await db.ContentFacts.Where(f => f.Content == content && f.Reader == ReaderVersions.Likeness).ExecuteDeleteAsync(cancel);
        db.ContentFacts.Add(
            new ContentFacts
            {
                Content = content,
                Reader = ReaderVersions.Likeness,
                Version = ReaderVersions.LikenessVersion,
                State = likeness is null ? FactsState.Beyond : FactsState.Read,
                Format = format,
                Facts = likeness is null ? "" : RecordJson.Write(likeness),
            }
        );
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return likeness;
    }

    private static IQueryable<ContentFacts> Current(StudioDb db) =>
        db.ContentFacts.AsNoTracking().Where(f => f.Reader == ReaderVersions.Likeness && f.Version == ReaderVersions.LikenessVersion);
}
