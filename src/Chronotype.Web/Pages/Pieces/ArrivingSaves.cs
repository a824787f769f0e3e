using System.Text.Json;
using Chronotype.Storage;
using Chronotype.Studio.People;
using Chronotype.Studio.Saves;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>Tells an open page of a piece that a save arrived, as it does (HTML, 9.2, server-sent events).</summary>
public static class ArrivingSaves
{
    // A line now and then keeps what lies between from taking the silence for an end.
    private static readonly TimeSpan Sign = TimeSpan.FromSeconds(20);

    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/pieces/{piece:guid}/arriving", OfPieceAsync);
        routes.MapGet("/arriving", OfAllAsync);
    }

    /// <summary>A piece of which a save arrived, as a notice of the browser tells of it.</summary>
    /// <param name="Says">How many saves are not kept, and for how long; null where all is kept.</param>
    /// <param name="IsMine">Whoever asks saved it.</param>
    private sealed record Arrived(Guid Piece, string Name, string Address, string? Says, bool IsMine);

    private static async Task OfAllAsync(
        SavesSeen seen,
        IDbContextFactory<StudioDb> contexts,
        HttpContext context,
        TimeProvider time,
        IHostApplicationLifetime life
    )
    {
        using var watch = seen.OfAll();
        await TellAsync(context, life, watch, LineAsync);

        async Task<string?> LineAsync(SeenSave save)
        {
            // What somebody sees may be another today than when the page was opened.
            var viewer = new Viewer();
            await viewer.IsAsync(context.User.PersonId(), contexts, context.RequestAborted);
            await using var db = await contexts.CreateDbContextAsync(context.RequestAborted);
            db.Sees = viewer.Projects;
            if (await PieceCards.LoadAsync(db, [save.Piece], withBars: false, context.RequestAborted) is not [var card])
                return null;
            var by = await db.Saves.Where(s => s.Id == save.Save).Select(s => s.ArrivedById).FirstOrDefaultAsync(context.RequestAborted);
            var says = card.Standing.RiskSince is { } since
                ? $"{DisplayText.Count(card.Standing.LooseSince, "loose save", "loose saves")}, "
                    + $"at risk {DisplayText.Span(time.GetUtcNow() - since)}"
                : null;
            return JsonSerializer.Serialize(
                new Arrived(card.Id, card.CurrentName + card.Extension, card.Address, says, by == context.User.PersonId()),
                JsonSerializerOptions.Web
            );
        }
    }

    private static async Task OfPieceAsync(Guid piece, StudioDb db, SavesSeen seen, HttpContext context, IHostApplicationLifetime life)
    {
        if (!await db.Pieces.AnyAsync(p => p.Id == piece, context.RequestAborted))
        {
            context.Response.StatusCode = StatusCodes.Status404NotFound;
            return;
        }
        // It may be open all day; its context is not to be held so long.
        await db.DisposeAsync();
        using var watch = seen.Of(piece);
        await TellAsync(
            context,
            life,
            watch,
            save => Task.FromResult<string?>(save.IsDecided ? $"{save.Save}/decided" : save.Save.ToString())
        );
    }

    private static async Task TellAsync(
        HttpContext context,
        IHostApplicationLifetime life,
        SavesSeen.Watch watch,
        Func<SeenSave, Task<string?>> tell
    )
    {
        using var ends = CancellationTokenSource.CreateLinkedTokenSource(context.RequestAborted, life.ApplicationStopping);
        context.Response.ContentType = "text/event-stream";
        try
        {
            await context.Response.WriteAsync(": here\n\n", ends.Token);
            await context.Response.Body.FlushAsync(ends.Token);
            while (true)
            {
                using var sign = CancellationTokenSource.CreateLinkedTokenSource(ends.Token);
                sign.CancelAfter(Sign);
                var line = ": here\n\n";
                try
                {
                    var save = await watch.Saves.ReadAsync(sign.Token);
                    if (await tell(save) is not { } told)
                        continue;
                    line = $"event: save\ndata: {told}\n\n";
                }
                catch (OperationCanceledException) when (!ends.IsCancellationRequested)
                {
                    // Nothing arrived for a while.
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
