using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Uploads;

/// <summary>Files that are to be stored in a folder, before they are sent.</summary>
/// <param name="Folder">From the project's top; empty for the top.</param>
/// <param name="Replaces">The file that the one of them is the next content of, whatever it is called.</param>
/// <param name="Paths">Of the files, from the folder.</param>
public sealed record FilesToStore(string? Folder, Guid? Replaces, IReadOnlyList<string>? Paths);

/// <summary>Where files of a project's own arrive: in a folder, which says by its role what becomes of them.</summary>
public sealed class FolderUploads(
    StudioDb db,
    UploadDoor door,
    FindPiece findPiece,
    TendFiles tendFiles,
    WhoUses whoUses,
    IAntiforgery antiforgery
)
{
    /// <summary>More are asked about in several goes.</summary>
    public const int MostFiles = 2000;

    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapPost(
            "/tree/{project}/files",
            (HttpContext context, FolderUploads uploads, string project, CancellationToken cancel) =>
                uploads.AnswerAsync(context, project, cancel)
        );
        routes.MapPost(
            "/tree/{project}/before",
            (HttpContext context, FolderUploads uploads, string project, FilesToStore asked, CancellationToken cancel) =>
                uploads.BeforeAsync(context, project, asked, cancel)
        );
    }

    private Task<IResult> AnswerAsync(HttpContext context, string project, CancellationToken cancel) =>
        door.AnswerAsync(context, upload => StoreAsync(context, project, upload, cancel), cancel);

    private async Task<UploadAnswer> StoreAsync(HttpContext context, string projectCode, MultipartUpload upload, CancellationToken cancel)
    {
        if (await findPiece.ProjectAsync(projectCode, cancel) is not { } project)
            return UploadAnswer.Refused(new Refusal.NoSuchProject());
        if (upload.FileName is null)
            return UploadAnswer.Refused(new Refusal.NoContent());
        // Of a folder that was dropped, the files come with the folders that they lay in.
        var whole = string.Join('/', new[] { upload.Field("folder"), upload.Field("within") }.Where(f => f.Length > 0));
        ProjectPath? folder = null;
        if (whole.Length > 0 && !ProjectPath.TryParse(whole, out folder, out var fault))
            return UploadAnswer.Refused($"“{whole}” is no folder of a project: {fault}.");
        var outcome = await tendFiles.ReceiveAsync(
            context.User.Actor(),
            project,
            folder,
            // A file that is put where a reference leads is called as the reference says.
            new ArrivingContent(upload.Field("as") is { Length: > 0 } name ? name : upload.FileName, upload.File),
            Guid.TryParse(upload.Field("replaces"), out var replaces) ? replaces : null,
            cancel
        );
        if (!outcome.Done)
            return UploadAnswer.Refused(outcome.Refusal);
        var (entry, content, isNew) = outcome.Result;
        door.Say(context, Notice.Done(Said(entry, content, isNew)));
        return UploadAnswer.To(
            upload.Field("back") is ['/', not ('/' or '\\'), ..] and var back
                ? back
                : Places.OfTree(projectCode, entry.Path.Folder, entry.Id)
        );
    }

    private static string Said(TreeEntry entry, FileContent content, bool isNew) =>
        (isNew, content.Sequence) switch
        {
            (true, _) when entry.Path.Name != content.ReceivedName =>
                $"It is stored as {entry.Path.Name}: something called {content.ReceivedName} stands there already, and stays as it is.",
            (true, _) => $"{entry.Path} is stored.",
            (false, 1) => $"{entry.Path} holds this already, so nothing was added.",
            _ => $"{entry.Path} holds this now; what it held before stays in its past.",
        };

    /// <summary>Says for each file what would become of it, and of what it would take the place of, who needs that.</summary>
    private async Task<IResult> BeforeAsync(HttpContext context, string projectCode, FilesToStore asked, CancellationToken cancel)
    {
        if (!await antiforgery.IsRequestValidAsync(context))
            return Results.BadRequest();
        if (await findPiece.ProjectAsync(projectCode, cancel) is not { } project)
            return Results.NotFound();
        if (asked.Paths is not { Count: > 0 and <= MostFiles } paths)
            return Results.UnprocessableEntity();
        var told = new List<object>();
        var full = paths
            .Select(p => ProjectPath.TryParse($"{asked.Folder}/{p}".TrimStart('/'), out var path, out _) ? path : null)
            .ToList();
        var there = new Dictionary<string, TreeEntry>();
        foreach (var part in full.Select(p => p?.Key).OfType<string>().Distinct().Chunk(400))
        {
            foreach (
                var entry in await db
                    .Entries.AsNoTracking()
                    .Where(e => e.ProjectId == project && e.DeletedAt == null && part.Contains(e.PathKey))
                    .ToListAsync(cancel)
            )
                there[entry.PathKey] = entry;
        }
        if (asked.Replaces is { } id)
        {
            var replaced = await db.Entries.AsNoTracking().FirstOrDefaultAsync(e => e.Id == id && e.ProjectId == project, cancel);
            return Results.Json(new { files = new[] { await ToldAsync(replaced, cancel) } });
        }
        foreach (var path in full)
            told.Add(await ToldAsync(path is null ? null : there.GetValueOrDefault(path.Key), cancel));
        return Results.Json(new { files = told });
    }

    private async Task<object> ToldAsync(TreeEntry? standing, CancellationToken cancel)
    {
        if (standing is null)
            return new { kind = "new", says = "" };
        if (!standing.MayReplace)
            return new { kind = "beside", says = "one of its name is there, and stays: this stands beside it" };
        var users = await whoUses.OfAsync(standing, cancel);
        var (versions, pieces) = (users.Versions.Count, users.Versions.Select(v => v.PieceId).Distinct().Count());
        var saw = $"{DisplayText.Count(versions, "version", "versions")} of {DisplayText.Count(pieces, "piece", "pieces")}";
        var needs =
            versions > 0 ? $"{saw} saw what is there, and keep it"
            : users.Today.Count > 0 ? $"{DisplayText.Count(users.Today.Count, "file", "files")} will show the new content"
            : "nothing that can be read refers to it";
        return new { kind = "replaces", says = $"takes the place of what is there: {needs}" };
    }
}
