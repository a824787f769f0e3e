using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Says what changed between two saves; each pair of contents is measured once for each version of the comparer.</summary>
public sealed class CompareSaves(IDbContextFactory<StudioDb> contexts, FileReader reader, ContentReader contentReader, JobQueue queue)
    : IJobWork
{
    /// <summary>What the present comparer found.</summary>
    public static IQueryable<ContentComparison> Current(StudioDb db) =>
        db.Comparisons.AsNoTracking().Where(c => c.Version == ReaderVersions.ComparisonVersion);

    /// <param name="before">The identity of the earlier save.</param>
    /// <param name="after">The identity of the later save.</param>
    /// <returns>Null where it was not measured yet.</returns>
    public static async Task<Comparison?> KnownAsync(StudioDb db, ContentHash before, ContentHash after, CancellationToken cancel = default)
    {
        if (before == after)
            return new Comparison(0, ComparisonBasis.SameContent);
        var json = await Current(db).Where(c => c.Before == before && c.After == after).Select(c => c.Result).FirstOrDefaultAsync(cancel);
        return json is null ? null : RecordJson.Read<Comparison>(json);
    }

    /// <summary>From the records, or measured now, for somebody who waits.</summary>
    /// <returns>The comparison, or why it could not be made just now.</returns>
    public async Task<(Comparison? Comparison, JobError Error)> DoAsync(
        ContentHash before,
        ContentHash after,
        Guid piece,
        CancellationToken cancel = default
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await KnownAsync(db, before, after, cancel) is { } known)
            return (known, JobError.None);
        var error = await queue.DoAsync(JobRequest.Compare(before, after, piece, JobPriority.Looked), cancel);
        var made = await KnownAsync(db, before, after, cancel);
        return (made, made is null && error == JobError.None ? JobError.Unexpected : error);
    }

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var (before, after) = job.Subject.Split('/') is [var b, var a]
            ? (ContentHash.Parse(b), ContentHash.Parse(a))
            : throw new FormatException(job.Subject);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        // Saves of one identity hold the same files, so that any of them will do.
        var first = await db.Saves.AsNoTracking().Include(s => s.Files).FirstOrDefaultAsync(s => s.Identity == before, cancel);
        var second = await db.Saves.AsNoTracking().Include(s => s.Files).FirstOrDefaultAsync(s => s.Identity == after, cancel);
        if (first is null || second is null || await KnownAsync(db, before, after, cancel) is not null)
            return null;
        var result = await MeasureAsync(first, second, cancel);
        await db.Database.ExecuteSqlAsync(
            $"""
            INSERT OR REPLACE INTO Comparisons (Before, After, Version, Change, Result, Digest)
            VALUES ({before.ToString()}, {after.ToString()}, {ReaderVersions.ComparisonVersion}, {result.Change}, {RecordJson.Write(
                result
            )}, {RecordJson.Write(result.Shortened())})
            """,
            cancel
        );
        return null;
    }

    private async Task<Comparison> MeasureAsync(Save before, Save after, CancellationToken cancel)
    {
        var main =
            before.MainHash == after.MainHash
                ? new Comparison(0, ComparisonBasis.SameContent)
                : await reader.CompareAsync(
                    (before.MainHash, await contentReader.ReadAsync(before.MainHash, cancel)),
                    (after.MainHash, await contentReader.ReadAsync(after.MainHash, cancel)),
                    cancel
                );
        if (before.Files.Count == 1 && after.Files.Count == 1)
            return main;
        var companions = Companions(before.Files, after.Files);
        var differ = companions.Count(c => c.Kind != PartChangeKind.Same);
        // The main file stands for the piece; a companion that changed shows even where the main file did not.
        return main with
        {
            Change = main.Change is 0 && differ > 0 ? (double)differ / companions.Count : main.Change,
            Companions = companions,
        };
    }

    private static List<PartChange> Companions(List<SaveFile> before, List<SaveFile> after)
    {
        var old = before.Where(f => !f.IsMain).ToDictionary(f => f.Path);
        var changes = new List<PartChange>();
        foreach (var file in after.Where(f => !f.IsMain))
        {
            var kind =
                !old.Remove(file.Path, out var was) ? PartChangeKind.Added
                : was.Hash == file.Hash ? PartChangeKind.Same
                : PartChangeKind.Changed;
            changes.Add(new PartChange(file.Path, kind));
        }
        changes.AddRange(old.Keys.Select(path => new PartChange(path, PartChangeKind.Removed)));
        return changes;
    }
}
