using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.References;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Uploads;

/// <summary>Gives a save with all that it refers to, at the places where its references lead.</summary>
public static class GatheredEndpoint
{
    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/saves/{id:guid}/gathered", GiveAsync);
        routes.MapGet("/saves/{id:guid}/packed", PackAsync);
        routes.MapGet("/saves/{id:guid}/bare", BareAsync);
    }

    /// <summary>Gives a save's file without what its maker's program keeps in it for itself.</summary>
    private static async Task<IResult> BareAsync(Guid id, StudioDb db, BareFile bare, HttpContext context, CancellationToken cancel)
    {
        var save = await db.Saves.AsNoTracking().Include(s => s.Files).FirstOrDefaultAsync(s => s.Id == id, cancel);
        if (save is not { Files.Count: 1 })
            return Results.NotFound();
        if (await bare.OfAsync(save.MainHash, cancel) is not { } made)
            return Results.Text(
                "This file cannot be written without its maker's settings here. Download it as it is; nothing was changed.",
                statusCode: StatusCodes.Status422UnprocessableEntity
            );
        context.Response.RegisterForDispose(made);
        return Results.File(File.OpenRead(made.Path), "application/octet-stream", save.ExactName ?? save.ReceivedName);
    }

    /// <summary>Gives a save's file with all that it refers to inside.</summary>
    /// <param name="then">With what the save saw, instead of what stands there now.</param>
    private static async Task<IResult> PackAsync(
        Guid id,
        bool? then,
        PackFile pack,
        BareFile bare,
        HttpContext context,
        CancellationToken cancel
    )
    {
        if (await pack.MakeAsync(id, then == true, cancel) is not var (file, name, fault))
            return Results.NotFound();
        if (file is null)
            return Results.Text(FactWords.Of(fault!), statusCode: StatusCodes.Status422UnprocessableEntity);
        context.Response.RegisterForDispose(file);
        if (await bare.IsAskedAsync(cancel) && await bare.OfAsync(() => File.OpenRead(file.Path), cancel) is { } less)
        {
            context.Response.RegisterForDispose(less);
            file = less;
        }
        return Results.File(File.OpenRead(file.Path), "application/octet-stream", name);
    }

    /// <param name="now">With what stands there now, instead of what the save saw.</param>
    private static async Task<IResult> GiveAsync(
        Guid id,
        bool? now,
        StudioDb db,
        GatherFiles gather,
        BareFile bare,
        IContentStore store,
        HttpContext context,
        CancellationToken cancel
    )
    {
        var save = await db.Saves.AsNoTracking().Include(s => s.Files).Include(s => s.Piece).FirstOrDefaultAsync(s => s.Id == id, cancel);
        if (save is null)
            return Results.NotFound();
        var gathered = await gather.OfAsync(save, now != true, cancel);
        var top =
            Path.GetFileNameWithoutExtension(save.ExactName ?? save.Piece.CurrentName)
            + (now == true ? "_with-assets-of-today" : "_as-it-was");
        var leaves = await bare.IsAskedAsync(cancel);
        return ZipAnswer.Of(
            context,
            top,
            gathered.Files.Select(f => new ZippedFile(f.Path.Text, f.Hash)),
            store,
            cancel,
            leaves ? OpenBareAsync : null
        );

        async Task<Stream?> OpenBareAsync(Core.Content.ContentHash hash)
        {
            if (await bare.OfAsync(hash, cancel) is not { } made)
                return null;
            context.Response.RegisterForDispose(made);
            return File.OpenRead(made.Path);
        }
    }
}
