using Chronotype.Content;
using Chronotype.Content.Maintenance;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Maintenance;

/// <summary>What the studio's content takes on disk, and whose it is, as it was counted at a moment.</summary>
/// <param name="Plain">Bytes of all saves, each for itself, as plain copies would take.</param>
/// <param name="Of">What there was when it was counted; another text means that something came or went since.</param>
public sealed record StorageReport(
    StoreStat Stat,
    IReadOnlyList<ProjectHolding> Projects,
    IReadOnlyList<GrowthPoint> Growth,
    long Plain,
    DateTimeOffset At,
    string Of
);

/// <param name="Plain">Bytes of the project's saves, each for itself.</param>
/// <param name="Holding">Bytes on disk.</param>
public sealed record ProjectHolding(string Code, string Title, int Versions, int Saves, long Plain, Holding Holding);

/// <summary>How much there was at a moment.</summary>
/// <param name="Plain">Bytes of all saves until then, each for itself.</param>
/// <param name="OnDisk">Bytes that keeping them had taken on disk until then.</param>
public sealed record GrowthPoint(DateTimeOffset At, long Plain, long OnDisk);

/// <summary>Counts what the content takes, as a job; whoever looks sees what was counted last.</summary>
public sealed class StorageReports(ContentStore store, IDbContextFactory<StudioDb> contexts, JobQueue queue, TimeProvider time) : IJobWork
{
    // More steps than a picture of it has columns.
    private const int MostPoints = 1000;

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    /// <summary>
    /// What was counted last, and whether that is what there is now. Where it is not, it is being counted; a small studio's is waited
    /// for. On a full disk it is not.
    /// </summary>
    public async Task<(StorageReport? Report, bool IsPresent, bool IsFull)> LatestAsync(CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var of = await StateAsync(db, cancel);
        if (await ReadAsync(db, cancel) is { } known && known.Of == of)
            return (known, true, false);
        try
        {
            await queue.AddAsync([JobRequest.Store(JobKind.CountStorage, JobPriority.Looked)], cancel: cancel);
            await queue.EndedAsync(JobKind.CountStorage, "", Patience, cancel);
        }
        catch (Exception e) when (DataFolder.IsFull(e))
        {
            // The page shows the last count to a person who looks for room.
            return (await ReadAsync(db, cancel), false, true);
        }
        var report = await ReadAsync(db, cancel);
        return (report, report?.Of == of, false);
    }

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var of = await StateAsync(db, cancel);
        var saves = await db
            .Saves.Select(s => new
            {
                s.Piece.ProjectId,
                s.Size,
                IsVersion = s.Number != null,
                s.ArrivedAt,
            })
            .ToListAsync(cancel);
        var files = await db
            .SaveFiles.Join(db.Saves, f => f.SaveId, s => s.Id, (f, s) => new { s.Piece.ProjectId, f.Hash })
            .Distinct()
            .ToListAsync(cancel);
        var projects = await db
            .Projects.Select(p => new
            {
                p.Id,
                p.Code,
                p.Title,
            })
            .ToListAsync(cancel);
        var own = await db
            .FileContents.Join(db.Entries, c => c.EntryId, e => e.Id, (c, e) => new { e.ProjectId, c.Hash })
            .Distinct()
            .ToListAsync(cancel);
        var hashes = files.Concat(own).ToLookup(f => f.ProjectId, f => f.Hash);
        progress.Report((1, 3));
        var holdings = store.Maintenance.Account([.. projects.Select(p => hashes[p.Id].ToHashSet())]);
        progress.Report((2, 3));
        cancel.ThrowIfCancellationRequested();
        var ofProject = saves.ToLookup(s => s.ProjectId);
        return RecordJson.Write(
            new StorageReport(
                store.Maintenance.Stat(),
                [
                    .. projects
                        .Select(
                            (p, i) =>
                                new ProjectHolding(
                                    p.Code,
                                    p.Title,
                                    ofProject[p.Id].Count(s => s.IsVersion),
                                    ofProject[p.Id].Count(),
                                    ofProject[p.Id].Sum(s => s.Size),
                                    holdings[i]
                                )
                        )
                        .OrderByDescending(p => p.Holding.Alone + p.Holding.Shared),
                ],
                Growth([
                    .. saves.Select(s => (s.ArrivedAt, s.Size, 0L)),
                    .. store.Maintenance.Contents().Select(c => (c.KeptAt, 0L, c.NewBytes)),
                ]),
                saves.Sum(s => s.Size),
                time.GetUtcNow(),
                of
            )
        );
    }

    private static async Task<StorageReport?> ReadAsync(StudioDb db, CancellationToken cancel) =>
        await db
            .Jobs.AsNoTracking()
            .Where(j => j.Kind == JobKind.CountStorage && j.State == JobState.Done)
            .OrderByDescending(j => j.Id)
            .Select(j => j.Result)
            .FirstOrDefaultAsync(cancel)
            is { } json
            ? RecordJson.Read<StorageReport>(json)
            : null;

    private async Task<string> StateAsync(StudioDb db, CancellationToken cancel) =>
        $"{store.Maintenance.SegmentBytes} {await db.Saves.CountAsync(cancel)} "
        + $"{await db.Saves.CountAsync(s => s.Number != null, cancel)} {await db.Projects.CountAsync(cancel)}";

    private static List<GrowthPoint> Growth(List<(DateTimeOffset At, long Plain, long OnDisk)> steps)
    {
        var points = new List<GrowthPoint>();
        long plain = 0,
            onDisk = 0;
        foreach (var (at, more, moreOnDisk) in steps.OrderBy(s => s.At))
        {
            (plain, onDisk) = (plain + more, onDisk + moreOnDisk);
            points.Add(new GrowthPoint(at, plain, onDisk));
        }
        var every = Math.Max(1, points.Count / MostPoints);
        return every == 1 ? points : [.. points.Where((_, i) => i % every == 0 || i == points.Count - 1)];
    }
}
