using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Says what changed between two saves; each pair of contents is measured once for each version of the comparer.</summary>
public sealed class CompareSaves(RedoneContexts contexts, FileReader reader, ContentReader contentReader, JobQueue queue) : IJobWork
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
        await using var db = contexts.CreateDbContext();
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
        await using var db = contexts.CreateDbContext();
        var first = await FindAsync(db, before, cancel);
        var second = await FindAsync(db, after, cancel);
        if (await KnownAsync(db, before, after, cancel) is not null)
            return null;
        Comparison result;
        if (first is not null && second is not null)
            result = await MeasureAsync(first, second, progress, cancel);
        // What a file of a project's own held is a content and no save.
        else if (await IsContentAsync(db, before, first, cancel) && await IsContentAsync(db, after, second, cancel))
            result = await CompareAsync(before, after, progress, cancel);
        else
            return null;
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

    /// <summary>Two saves with what changed between them, for work that goes on from there: known, or measured now.</summary>
    internal async Task<(Save? Before, Save? After, Comparison Comparison)> WithSavesAsync(
        ContentHash before,
        ContentHash after,
        CancellationToken cancel
    )
    {
        await using var db = contexts.CreateDbContext();
        var (first, second) = (await FindAsync(db, before, cancel), await FindAsync(db, after, cancel));
        if (first is null || second is null)
            return (first, second, Comparison.NotMeasurable(ComparisonBasis.First));
        return (first, second, await KnownAsync(db, before, after, cancel) ?? await MeasureAsync(first, second, null, cancel));
    }

    // Saves of one identity hold the same files, so that any of them will do; one with a face can be seen.
    private static Task<Save?> FindAsync(StudioDb db, ContentHash identity, CancellationToken cancel) =>
        db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .OrderByDescending(s => s.FaceHash != null)
            .FirstOrDefaultAsync(s => s.Identity == identity, cancel);

    private static async Task<bool> IsContentAsync(StudioDb db, ContentHash content, Save? save, CancellationToken cancel) =>
        save is { Files.Count: 1 } || await db.FileContents.AnyAsync(c => c.Hash == content, cancel);

    private async Task<Comparison> MeasureAsync(
        Save before,
        Save after,
        IProgress<(long Done, long Total)>? progress,
        CancellationToken cancel
    )
    {
        // By faces only where both can be seen: what a face and a native that cannot be read have in common says nothing.
        var byFaces =
            before.MainHash != after.MainHash
            && (before.FaceHash ?? after.FaceHash) is not null
            && await CanBeSeenAsync(before, cancel)
            && await CanBeSeenAsync(after, cancel);
        var main = byFaces
            ? await CompareAsync(before.SeenHash, after.SeenHash, progress, cancel) with
            {
                IsByFaces = true,
            }
            : await CompareAsync(before.MainHash, after.MainHash, progress, cancel);
        if (before.Files.Count == 1 && after.Files.Count == 1)
            return main;
        var companions = await CompanionsAsync(before.Files, after.Files, progress, cancel);
        // The main file stands for the piece; a companion that changed shows even where the main file did not.
        return main with
        {
            Change =
                main.Change is 0 && companions.Any(c => c.Kind != PartChangeKind.Same)
                    ? Math.Max(LeastOfFiles, companions.Average(Extent))
                    : main.Change,
            Companions = companions,
        };
    }

    private async Task<bool> CanBeSeenAsync(Save save, CancellationToken cancel) =>
        save.FaceHash is not null || !FaceRule.NeedsFace((await contentReader.ReadAsync(save.MainHash, cancel)).Format);

    private async Task<Comparison> CompareAsync(
        ContentHash before,
        ContentHash after,
        IProgress<(long Done, long Total)>? progress,
        CancellationToken cancel
    ) =>
        before == after
            ? new Comparison(0, ComparisonBasis.SameContent)
            : await reader.CompareAsync(
                (before, await contentReader.ReadAsync(before, cancel)),
                (after, await contentReader.ReadAsync(after, cancel)),
                progress,
                cancel
            );

    private async Task<IReadOnlyList<PartChange>> CompanionsAsync(
        List<SaveFile> before,
        List<SaveFile> after,
        IProgress<(long Done, long Total)>? progress,
        CancellationToken cancel
    )
    {
        var pairs = FolderComparison.Match(Others(before), Others(after));
        var changed = pairs.Where(p => p is { Before: not null, After: not null, IsSame: false }).Take(MostInside).ToList();
        var changes = new List<PartChange>(pairs.Count);
        var done = 0;
        foreach (var pair in pairs)
        {
            var change = pair.Change();
            if (changed.Contains(pair))
            {
                var inside = (await CompareAsync(pair.Before!.Hash, pair.After!.Hash, null, cancel)).Shortened();
                change = change with { Share = inside.Change, Inside = inside };
                progress?.Report((++done, changed.Count));
            }
            changes.Add(change);
        }
        return changes;
    }

    /// <summary>So many files of a folder are looked into at most; of the others it is told that they changed.</summary>
    private const int MostInside = 200;

    // That files were only renamed is little, and not nothing.
    private const double LeastOfFiles = 0.01;

    private static List<ContentFile> Others(List<SaveFile> files) =>
        files.Where(f => !f.IsMain).Select(f => new ContentFile(ProjectPath.Parse(f.Path), f.Hash, f.Size)).ToList();

    private static double Extent(PartChange file) =>
        file switch
        {
            { Kind: PartChangeKind.Same } => 0,
            { Share: { } share } => share,
            // Where it stands is not what is in it.
            { FormerName: not null } => 0,
            _ => 1,
        };
}
