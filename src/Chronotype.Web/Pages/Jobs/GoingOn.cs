using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Jobs;

/// <summary>What is being done for a piece just now, how far it is and how long it still takes, for a page that waits for it.</summary>
public static class GoingOn
{
    public static void Map(IEndpointRouteBuilder routes) => routes.MapGet("/pieces/{piece:guid}/going-on", AnswerAsync);

    private static async Task<IResult> AnswerAsync(Guid piece, StudioDb db, TimeProvider time, CancellationToken cancel)
    {
        if (!await db.Pieces.AnyAsync(p => p.Id == piece, cancel))
            return Results.NotFound();
        var (lane, reading) = (piece.ToString(), JobRequest.ReadLane + piece);
        var job = await db
            .Jobs.AsNoTracking()
            .Where(j => (j.Lane == lane || j.Lane == reading) && (j.State == JobState.Running || j.State == JobState.Waiting))
            .OrderByDescending(j => j.State == JobState.Running)
            .ThenByDescending(j => j.Priority)
            .FirstOrDefaultAsync(cancel);
        return Results.Json(new { said = job is null ? null : JobWords.Progress(job, time.GetUtcNow()) });
    }
}
