using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Jobs;

/// <summary>What the top bar says of the work that goes on by itself.</summary>
/// <param name="Active">How many jobs wait or run.</param>
/// <param name="Failed">How many could not be done.</param>
public sealed record JobCounts(int Active, int Failed)
{
    public string? Text =>
        (Active, Failed) switch
        {
            (0, 0) => null,
            (0, 1) => "1 job failed",
            (0, _) => $"{Failed:N0} jobs failed",
            (1, 0) => "1 job going on",
            (_, 0) => $"{Active:N0} jobs going on",
            _ => $"{Active:N0} going on, {Failed:N0} failed",
        };
}

/// <summary>Counts them, for every page.</summary>
public sealed class JobLine(IDbContextFactory<StudioDb> contexts)
{
    public async Task<JobCounts> LoadAsync()
    {
        await using var db = await contexts.CreateDbContextAsync();
        var counts = await db
            .Jobs.Where(j => j.State == JobState.Waiting || j.State == JobState.Running || j.State == JobState.Failed)
            .GroupBy(j => j.State == JobState.Failed)
            .Select(g => new { IsFailed = g.Key, Count = g.Count() })
            .ToListAsync();
        return new JobCounts(counts.Where(c => !c.IsFailed).Sum(c => c.Count), counts.Where(c => c.IsFailed).Sum(c => c.Count));
    }
}
