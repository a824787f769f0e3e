using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Content;
using Chronotype.Storage.Content.Care;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Studio.Care;

/// <summary>What the studio's content takes on disk, and whose it is.</summary>
/// <param name="Plain">Bytes of all saves, each for itself, as plain copies would take.</param>
public sealed record StorageReport(StoreStat Stat, IReadOnlyList<ProjectHolding> Projects, IReadOnlyList<GrowthPoint> Growth, long Plain);

/// <param name="Plain">Bytes of the project's saves, each for itself.</param>
/// <param name="Holding">Bytes on disk.</param>
public sealed record ProjectHolding(string Code, string Title, int Versions, int Saves, long Plain, Holding Holding);

/// <summary>How much there was at a moment.</summary>
/// <param name="Plain">Bytes of all saves until then, each for itself.</param>
/// <param name="OnDisk">Bytes that keeping them had taken on disk until then.</param>
public sealed record GrowthPoint(DateTimeOffset At, long Plain, long OnDisk);

/// <summary>Makes the report; the same one as long as nothing has been stored or freed since.</summary>
public sealed class StorageReports(ContentStore store, IServiceScopeFactory scopes)
{
    private readonly SemaphoreSlim making = new(1);
    private (object State, StorageReport Report)? made;

    public async Task<StorageReport> MakeAsync(CancellationToken cancel = default)
    {
        await making.WaitAsync(cancel);
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<StudioDb>();
            var state = (store.Care.SegmentBytes, await db.Saves.CountAsync(cancel), await db.Saves.CountAsync(s => s.Number != null, cancel));
            if (made is { } last && last.State.Equals(state)) return last.Report;
            var report = await MakeAsync(db, cancel);
            made = (state, report);
            return report;
        }
        finally
        {
            making.Release();
        }
    }

    private async Task<StorageReport> MakeAsync(StudioDb db, CancellationToken cancel)
    {
        var saves = await db.Saves.Select(s => new { s.Piece.ProjectId, s.Size, IsVersion = s.Number != null, s.ArrivedAt }).ToListAsync(cancel);
        var files = await db.SaveFiles.Join(db.Saves, f => f.SaveId, s => s.Id, (f, s) => new { s.Piece.ProjectId, f.Hash }).Distinct().ToListAsync(cancel);
        var projects = await db.Projects.Select(p => new { p.Id, p.Code, p.Title }).ToListAsync(cancel);
        var hashes = files.ToLookup(f => f.ProjectId, f => f.Hash);
        var holdings = store.Care.Account([.. projects.Select(p => hashes[p.Id].ToHashSet())]);
        var ofProject = saves.ToLookup(s => s.ProjectId);
        return new StorageReport(
            store.Care.Stat(),
            [.. projects.Select((p, i) => new ProjectHolding(p.Code, p.Title, ofProject[p.Id].Count(s => s.IsVersion), ofProject[p.Id].Count(), ofProject[p.Id].Sum(s => s.Size), holdings[i]))
                .OrderByDescending(p => p.Holding.Alone + p.Holding.Shared)],
            Growth([.. saves.Select(s => (s.ArrivedAt, s.Size, 0L)), .. store.Care.Contents().Select(c => (c.KeptAt, 0L, c.NewBytes))]),
            saves.Sum(s => s.Size));
    }

    private static List<GrowthPoint> Growth(List<(DateTimeOffset At, long Plain, long OnDisk)> steps)
    {
        var points = new List<GrowthPoint>();
        long plain = 0, onDisk = 0;
        foreach (var (at, more, moreOnDisk) in steps.OrderBy(s => s.At))
        {
            (plain, onDisk) = (plain + more, onDisk + moreOnDisk);
            points.Add(new GrowthPoint(at, plain, onDisk));
        }
        return points;
    }
}
