using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;
using Microsoft.Net.Http.Headers;

namespace Chronotype.Web.Uploads;

/// <summary>Where content leaves again: under its exact name, byte for byte, in ranges; and its previews.</summary>
public static class DownloadEndpoints
{
    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/saves/{id:guid}/file", FileAsync);
        routes.MapGet("/saves/{id:guid}/seen", SeenAsync);
        routes.MapGet("/saves/{id:guid}/film", FilmAsync);
        routes.MapGet("/files/{id:guid}", OwnFileAsync);
        routes.MapGet("/saves/{id:guid}/preview/{side:int}", PreviewAsync);
        routes.MapGet("/files/{id:guid}/preview/{side:int}", FilePreviewAsync);
    }

    /// <param name="milestone">Under the milestone copy's name.</param>
    /// <param name="master">Under the master's name.</param>
    private static async Task<IResult> FileAsync(
        Guid id,
        bool? milestone,
        bool? master,
        StudioDb db,
        IContentStore store,
        HttpContext context,
        CancellationToken cancel
    )
    {
        var save = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Include(s => s.Milestone)
            .Include(s => s.Master)
            .Include(s => s.Piece)
            .FirstOrDefaultAsync(s => s.Id == id, cancel);
        if (save is null || (milestone == true && save.Milestone is null) || (master == true && save.Master is null))
            return Results.NotFound();
        var main = save.Files.First(f => f.IsMain);
        // A loose save has no number, so it leaves under the piece's current name and the time it came.
        var name =
            milestone == true ? save.Milestone!.ExactName
            : master == true ? save.Master!.ExactName
            : save.ExactName
                ?? $"{save.Piece.CurrentName}_loose-{save.ArrivedAt.UtcDateTime:yyyyMMdd-HHmmss}{FileNames.Extension(main.Path)}";
        if (save.Files.Count == 1)
            return Results.File(
                store.OpenRead(main.Hash),
                "application/octet-stream",
                name,
                entityTag: Tag(main.Hash.ToString()),
                enableRangeProcessing: true
            );

        var stem = FileNames.Stem(name);
        return ZipAnswer.Of(
            context,
            stem,
            save.Files.OrderBy(f => f.Path, StringComparer.Ordinal)
                .Select(f => new ZippedFile(f.Path, f.Hash, f.ChangedAt))
                .Concat((save.EmptyFolders?.Split('\n') ?? []).Select(e => new ZippedFile($"{e}/", null))),
            store,
            cancel
        );
    }

    /// <summary>What is looked at in a save's place, for a script that draws it.</summary>
    private static async Task<IResult> SeenAsync(
        Guid id,
        string? of,
        StudioDb db,
        IContentStore store,
        HttpContext context,
        CancellationToken cancel
    )
    {
        var save = await db.Saves.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, cancel);
        if (save is null)
            return Results.NotFound();
        if (of == PreviewAddress.Of(save.SeenHash))
            SecurityHeaders.Keep(context, "private, max-age=31536000, immutable");
        return Results.File(
            store.OpenRead(save.SeenHash),
            "application/octet-stream",
            entityTag: Tag(save.SeenHash.ToString()),
            enableRangeProcessing: true
        );
    }

    private static async Task<IResult> FilmAsync(Guid id, StudioDb db, IContentStore store, CancellationToken cancel)
    {
        var save = await db.Saves.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, cancel);
        if (save is null || await ContentReader.KnownAsync(db, save.SeenHash, cancel) is not { Format: FileFormat.Film })
            return Results.NotFound();
        var film = store.OpenRead(save.SeenHash);
        // Matroska begins with EBML's mark (RFC 8794); the others are of one family.
        var type = film.ReadByte() == 0x1A ? "video/webm" : "video/mp4";
        film.Position = 0;
        return Results.File(film, type, entityTag: Tag(save.SeenHash.ToString()), enableRangeProcessing: true);
    }

    /// <param name="content">Which of the file's contents, counted from 1; null for what it holds now.</param>
    private static async Task<IResult> OwnFileAsync(Guid id, int? content, StudioDb db, IContentStore store, CancellationToken cancel)
    {
        var entry = await db
            .Entries.AsNoTracking()
            .Include(e => e.Contents)
            .FirstOrDefaultAsync(e => e.Id == id && (e.Kind == EntryKind.OwnFile || e.Kind == EntryKind.Companion), cancel);
        var held = content is { } n ? entry?.Contents.FirstOrDefault(c => c.Sequence == n) : entry?.Contents.MaxBy(c => c.Sequence);
        return held is null
            ? Results.NotFound()
            : Results.File(
                store.OpenRead(held.Hash),
                "application/octet-stream",
                entry!.Path.Name,
                entityTag: Tag(held.Hash.ToString()),
                enableRangeProcessing: true
            );
    }

    /// <param name="of">What the page that shows it took the content to be; with it the address changes whenever the picture does.</param>
    private static async Task<IResult> PreviewAsync(
        Guid id,
        int side,
        string? of,
        int? page,
        StudioDb db,
        Previews previews,
        ThemeColours theme,
        HttpContext context,
        CancellationToken cancel
    )
    {
        if (!Previews.Sides.Contains(side) || page is < 0 or >= Previews.MostPages)
            return Results.NotFound();
        var save = await db.Saves.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, cancel);
        return save is null
            ? Results.NotFound()
            : await DrawnAsync(save.SeenHash, save.PieceId, side, of, page ?? 0, previews, theme, context, cancel);
    }

    /// <param name="content">Which of the file's contents, counted from 1; null for what it holds now.</param>
    private static async Task<IResult> FilePreviewAsync(
        Guid id,
        int side,
        string? of,
        int? content,
        StudioDb db,
        Previews previews,
        ThemeColours theme,
        HttpContext context,
        CancellationToken cancel
    )
    {
        var hash = await db
            .FileContents.Where(c => c.EntryId == id && (content == null || c.Sequence == content))
            .OrderByDescending(c => c.Sequence)
            .Select(c => (ContentHash?)c.Hash)
            .FirstOrDefaultAsync(cancel);
        return hash is { } held && Previews.Sides.Contains(side)
            ? await DrawnAsync(held, id, side, of, 0, previews, theme, context, cancel)
            : Results.NotFound();
    }

    private static async Task<IResult> DrawnAsync(
        ContentHash hash,
        Guid lane,
        int side,
        string? of,
        int page,
        Previews previews,
        ThemeColours theme,
        HttpContext context,
        CancellationToken cancel
    )
    {
        var preview = await previews.GetAsync(hash, lane, side, page, cancel);
        if (preview.Error == JobError.None && of == PreviewAddress.Of(hash))
            SecurityHeaders.Keep(context, "private, max-age=31536000, immutable");
        return preview.Path is not null
            ? Results.File(preview.Path, preview.MediaType, entityTag: Tag($"{hash}-{side}-{page}-{ReaderVersions.PreviewVersion}"))
            : Results.Content(NotDrawnSvg.Draw(WhyNot(preview), theme), "image/svg+xml");
    }

    private static string WhyNot(Preview preview) =>
        JobWords.NotMade(preview.Error, preview.Fault, "Files of this kind are carried as they are; there is no picture of them here.");

    private static EntityTagHeaderValue Tag(string value) => new($"\"{value}\"");
}
