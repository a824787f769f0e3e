using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Jobs;

/// <summary>Which jobs somebody may know of: those of the whole studio, and those of projects that they see.</summary>
public static class JobSight
{
    /// <param name="db">Asks with the eyes of whoever looks.</param>
    /// <param name="jobs">Any.</param>
    /// <param name="cancel">Ends the look.</param>
    /// <returns>Those of them that may be known of, in their order.</returns>
    public static async Task<IReadOnlyList<Job>> SeenAsync(StudioDb db, IReadOnlyList<Job> jobs, CancellationToken cancel = default)
    {
        if (db.Sees is null)
            return jobs;
        var lanes = jobs.Select(j => Guid.TryParse(j.Lane, out var lane) ? lane : Guid.Empty)
            .Where(l => l != Guid.Empty)
            .Distinct()
            .ToList();
        var seen = await db
            .Pieces.WithDeleted()
            .Where(p => lanes.Contains(p.Id))
            .Select(p => p.Id)
            .Concat(db.Entries.Where(e => lanes.Contains(e.Id)).Select(e => e.Id))
            .ToListAsync(cancel);
        return [.. jobs.Where(j => LaneOf(j) is not { } lane || seen.Contains(lane))];
    }

    // The piece or the file that a job is about; null for one of the whole studio.
    private static Guid? LaneOf(Job job) => Guid.TryParse(job.Lane.Split('/')[^1], out var lane) ? lane : null;
}
