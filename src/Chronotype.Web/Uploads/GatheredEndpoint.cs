using System.IO.Compression;
using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Studio.References;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.EntityFrameworkCore;
using Microsoft.Net.Http.Headers;

namespace Chronotype.Web.Uploads;

/// <summary>Gives a save with all that it refers to, at the places where its references lead.</summary>
public static class GatheredEndpoint
{
    public static void Map(IEndpointRouteBuilder routes) => routes.MapGet("/saves/{id:guid}/gathered", GiveAsync);

    /// <param name="now">With what stands there now, instead of what the save saw.</param>
    private static async Task<IResult> GiveAsync(
        Guid id,
        bool? now,
        StudioDb db,
        GatherFiles gather,
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
        context.Response.Headers.ContentDisposition = new ContentDispositionHeaderValue("attachment")
        {
            FileName = $"{top}.zip",
            FileNameStar = $"{top}.zip",
        }.ToString();
        // The platform's zip writer ends each entry with a synchronous write, however asynchronously it is disposed of.
        if (context.Features.Get<IHttpBodyControlFeature>() is { } control)
            control.AllowSynchronousIO = true;
        return Results.Stream(
            async body =>
            {
                await using var zip = await ZipArchive.CreateAsync(
                    body,
                    ZipArchiveMode.Create,
                    leaveOpen: true,
                    entryNameEncoding: null,
                    cancel
                );
                foreach (var file in gathered.Files)
                {
                    await using var entry = await zip.CreateEntry($"{top}/{file.Path}", CompressionLevel.Fastest).OpenAsync(cancel);
                    await using var content = store.OpenRead(file.Hash);
                    await content.CopyToAsync(entry, cancel);
                }
            },
            "application/zip"
        );
    }
}
