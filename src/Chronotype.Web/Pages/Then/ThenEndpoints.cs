using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Web.Uploads;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Then;

/// <summary>Gives a project's files as they stood at a moment: one of them, or all as a zip.</summary>
public static class ThenEndpoints
{
    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapGet("/then/{project}/file/{entry:guid}", FileAsync);
        routes.MapGet("/then/{project}/zip", ZipAsync);
    }

    private static async Task<IResult> FileAsync(
        string project,
        Guid entry,
        long? at,
        StudioDb db,
        FindPiece findPiece,
        IContentStore store,
        CancellationToken cancel
    )
    {
        if (await FilesAsync(project, at, db, findPiece, cancel) is not { } files)
            return Results.NotFound();
        var file = files.FirstOrDefault(f => f.EntryId == entry);
        return file?.Hash is { } hash
            ? Results.File(store.OpenRead(hash), "application/octet-stream", file.Path.Name, enableRangeProcessing: true)
            : Results.NotFound();
    }

    private static async Task<IResult> ZipAsync(
        string project,
        long? at,
        StudioDb db,
        FindPiece findPiece,
        IContentStore store,
        StudioClock clock,
        HttpContext context,
        CancellationToken cancel
    )
    {
        if (await FilesAsync(project, at, db, findPiece, cancel) is not { } files)
            return Results.NotFound();
        var saves = files.Where(f => f.Kind == EntryKind.CurrentFile).Select(f => f.SaveId).OfType<Guid>().ToList();
        var folders = new Dictionary<Guid, List<SaveFile>>();
        foreach (var part in saves.Chunk(400))
        {
            foreach (
                var save in (await db.SaveFiles.AsNoTracking().Where(f => part.Contains(f.SaveId)).ToListAsync(cancel)).GroupBy(f =>
                    f.SaveId
                )
            )
                folders[save.Key] = [.. save];
        }
        var stamp = clock.At(at is { } ticks ? new DateTimeOffset(ticks, TimeSpan.Zero) : clock.Now);
        var top = $"{project}_{stamp:yyyyMMdd-HHmm}";
        return ZipAnswer.Of(context, top, files.SelectMany(f => Zipped(f, folders)), store, cancel);
    }

    private static IEnumerable<ZippedFile> Zipped(StandingFile file, Dictionary<Guid, List<SaveFile>> folders)
    {
        if (file.SaveId is not { } save || folders.GetValueOrDefault(save) is not { Count: > 1 } inside)
            return file.Hash is { } hash ? [new ZippedFile(file.Path.Text, hash)] : [];
        // A piece of several files is a folder that stands where its current file does.
        var name = Path.GetFileNameWithoutExtension(file.Path.Name);
        var mount = file.Path.Folder is { } around ? $"{around}/{name}" : name;
        return inside.Select(f => new ZippedFile($"{mount}/{f.Path}", f.Hash, f.ChangedAt));
    }

    private static async Task<List<StandingFile>?> FilesAsync(
        string project,
        long? at,
        StudioDb db,
        FindPiece findPiece,
        CancellationToken cancel
    )
    {
        if (at < DateTimeOffset.MinValue.UtcTicks || at > DateTimeOffset.MaxValue.UtcTicks)
            return null;
        if (await findPiece.ProjectAsync(project, cancel) is not { } id)
            return null;
        var moment = at is { } ticks ? new DateTimeOffset(ticks, TimeSpan.Zero) : (DateTimeOffset?)null;
        return
        [
            .. (await new TreeThen(db, id, moment).AllAsync(cancel))
                .All.Select(f => f.Value)
                .Where(f => f.Kind is EntryKind.OwnFile or EntryKind.CurrentFile or EntryKind.Companion)
                .OrderBy(f => f.Path.Key, StringComparer.Ordinal),
        ];
    }
}
