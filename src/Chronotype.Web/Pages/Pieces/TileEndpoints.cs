using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Web.Security;
using Chronotype.Web.Uploads;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>
/// Pictures for zooming, tile by tile, and the difference of two: of whole saves, of their pages, or of single layers. The two of a
/// difference may be of any pieces.
/// </summary>
public static class TileEndpoints
{
    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/saves/{id:guid}/tiles", DescribeAsync);
        routes.MapGet("/saves/{id:guid}/tiles/small", SmallAsync);
        routes.MapGet("/saves/{id:guid}/tiles/{level:int}/{x:int}/{y:int}", TileAsync);
        routes.MapGet("/saves/{id:guid}/against/{other:guid}/tiles", DescribeAsync);
        routes.MapGet("/saves/{id:guid}/against/{other:guid}/tiles/small", SmallAsync);
        routes.MapGet("/saves/{id:guid}/against/{other:guid}/tiles/{level:int}/{x:int}/{y:int}", TileAsync);
    }

    /// <summary>What is looked at.</summary>
    /// <param name="Id">The save; of a difference the later one.</param>
    /// <param name="Other">The earlier save of a difference; null for one picture.</param>
    /// <param name="Page">Of pictures with pages, which, from 0.</param>
    /// <param name="Layer">Which layer of the save alone; null for the whole.</param>
    /// <param name="OtherLayer">Which layer of the earlier save.</param>
    private sealed record Asked(Guid Id, Guid? Other, int? Page, int? Layer, int? OtherLayer)
    {
        public string Query()
        {
            string?[] parts =
            [
                Page is > 0 ? $"page={Page}" : null,
                Layer is null ? null : $"layer={Layer}",
                OtherLayer is null ? null : $"otherLayer={OtherLayer}",
            ];
            return string.Join('&', parts.OfType<string>());
        }
    }

    private sealed record Found(PictureView First, PictureView? Second, Guid Piece)
    {
        // With it an address changes whenever what is behind it does.
        public string Key => PreviewAddress.Of(Second?.Content ?? First.Content) + (Second is null ? "" : PreviewAddress.Of(First.Content));
    }

    private static async Task<IResult> DescribeAsync([AsParameters] Asked asked, StudioDb db, TileStore store, CancellationToken cancel)
    {
        if (await FindAsync(db, asked, cancel) is not { } found)
            return Results.NotFound();
        var cut = await store.GetAsync(found.First, found.Second, found.Piece, cancel);
        if (cut.Tiles is not { } tiles)
            return Results.Json(new { error = WhyNot(cut) }, statusCode: StatusCodes.Status422UnprocessableEntity);
        var query = asked.Query();
        return Results.Json(
            new
            {
                width = tiles.Width,
                height = tiles.Height,
                side = tiles.TileSide,
                top = tiles.TopLevel,
                address = asked.Other is { } other ? $"/saves/{asked.Id}/against/{other}/tiles" : $"/saves/{asked.Id}/tiles",
                query = $"?of={found.Key}{(query.Length > 0 ? $"&{query}" : "")}",
                differing = tiles.Differing,
                places = tiles.Places.Select(p => new
                {
                    x = p.Box.X,
                    y = p.Box.Y,
                    width = p.Box.Width,
                    height = p.Box.Height,
                    pixels = p.Pixels,
                }),
            }
        );
    }

    private static async Task<IResult> TileAsync(
        [AsParameters] Asked asked,
        int level,
        int x,
        int y,
        string? of,
        StudioDb db,
        TileStore store,
        HttpContext context,
        CancellationToken cancel
    )
    {
        if (await FindAsync(db, asked, cancel) is not { } found)
            return Results.NotFound();
        if (store.Tile(found.First, found.Second, level, x, y) is not { } bytes)
            return Results.NotFound();
        if (of == found.Key)
            SecurityHeaders.Keep(context, "private, max-age=31536000, immutable");
        return Results.Bytes(bytes, MediaType(bytes));
    }

    /// <summary>The largest scale that is one tile: what is seen before, or without, the script that zooms.</summary>
    private static async Task<IResult> SmallAsync(
        [AsParameters] Asked asked,
        StudioDb db,
        TileStore store,
        ThemeColours theme,
        CancellationToken cancel
    )
    {
        if (await FindAsync(db, asked, cancel) is not { } found)
            return Results.NotFound();
        var cut = await store.GetAsync(found.First, found.Second, found.Piece, cancel);
        var bytes = cut.Tiles is { } tiles
            ? store.Tile(
                found.First,
                found.Second,
                Math.Min(tiles.TopLevel, System.Numerics.BitOperations.Log2((uint)tiles.TileSide)),
                0,
                0
            )
            : null;
        return bytes is null
            ? Results.Content(NotDrawnSvg.Draw(WhyNot(cut), theme), "image/svg+xml")
            : Results.Bytes(bytes, MediaType(bytes));
    }

    private static async Task<Found?> FindAsync(StudioDb db, Asked asked, CancellationToken cancel)
    {
        if (asked.Page is < 0 or >= Previews.MostPages || asked.Layer is < 0 || asked.OtherLayer is < 0)
            return null;
        var ids = new[] { asked.Id, asked.Other ?? asked.Id };
        var saves = await db
            .Saves.Where(s => ids.Contains(s.Id))
            .Select(s => new
            {
                s.Id,
                Seen = s.FaceHash ?? s.MainHash,
                s.PieceId,
            })
            .ToListAsync(cancel);
        if (saves.FirstOrDefault(s => s.Id == asked.Id) is not { } save)
            return null;
        var view = new PictureView(save.Seen, asked.Page ?? 0, asked.Layer);
        if (asked.Other is not { } id)
            return new Found(view, null, save.PieceId);
        return saves.FirstOrDefault(s => s.Id == id) is { } other
            ? new Found(new PictureView(other.Seen, asked.Page ?? 0, asked.OtherLayer), view, save.PieceId)
            : null;
    }

    private static string WhyNot(CutTiles cut) => JobWords.NotMade(cut.Error, cut.Fault, "There is no picture of it.");

    private static string MediaType(byte[] tile) => tile is [0x89, ..] ? "image/png" : "image/jpeg";
}
