using Chronotype.Storage;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>Tells an open page of a piece that a save arrived, as it does (HTML, 9.2, server-sent events).</summary>
public static class ArrivingSaves
{
    // A line now and then keeps what lies between from taking the silence for an end.
    private static readonly TimeSpan Sign = TimeSpan.FromSeconds(20);

    public static void Map(IEndpointRouteBuilder routes) => routes.MapGet("/pieces/{piece:guid}/arriving", AnswerAsync);

    private static async Task AnswerAsync(Guid piece, StudioDb db, SavesSeen seen, HttpContext context, IHostApplicationLifetime life)
    {
        using var ends = CancellationTokenSource.CreateLinkedTokenSource(context.RequestAborted, life.ApplicationStopping);
        if (!await db.Pieces.AnyAsync(p => p.Id == piece, ends.Token))
        {
            context.Response.StatusCode = StatusCodes.Status404NotFound;
            return;
        }
        // It may be open all day; its context is not to be held so long.
        await db.DisposeAsync();
        context.Response.ContentType = "text/event-stream";
        try
        {
            using var watch = seen.Of(piece);
            await context.Response.WriteAsync(": here\n\n", ends.Token);
            await context.Response.Body.FlushAsync(ends.Token);
            while (true)
            {
                using var sign = CancellationTokenSource.CreateLinkedTokenSource(ends.Token);
                sign.CancelAfter(Sign);
                string line;
                try
                {
                    line = $"event: save\ndata: {await watch.Saves.ReadAsync(sign.Token)}\n\n";
                }
                catch (OperationCanceledException) when (!ends.IsCancellationRequested)
                {
                    line = ": here\n\n";
                }
                await context.Response.WriteAsync(line, ends.Token);
                await context.Response.Body.FlushAsync(ends.Token);
            }
        }
        catch (OperationCanceledException)
        {
            // Whoever looked has gone.
        }
    }
}
