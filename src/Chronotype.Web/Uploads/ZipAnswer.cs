using System.IO.Compression;
using Chronotype.Content;
using Chronotype.Core.Content;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.Net.Http.Headers;

namespace Chronotype.Web.Uploads;

/// <summary>A file as it goes into a zip.</summary>
/// <param name="Path">From the zip's own folder.</param>
/// <param name="Hash">Its content; null for a folder without a file, whose path ends with a slash.</param>
/// <param name="ChangedAt">When it was last changed, as far as that is known.</param>
public sealed record ZippedFile(string Path, ContentHash? Hash, DateTime? ChangedAt = null);

/// <summary>Answers with contents as one zip, which is written while it is sent.</summary>
public static class ZipAnswer
{
    /// <param name="top">The folder that all of it lies in, and the zip's own name.</param>
    /// <param name="open">Opens a content otherwise than as it is stored; null for what is given as it is.</param>
    public static IResult Of(
        HttpContext context,
        string top,
        IEnumerable<ZippedFile> files,
        IContentStore store,
        CancellationToken cancel,
        Func<ContentHash, Task<Stream?>>? open = null
    )
    {
        context.Response.Headers.ContentDisposition = new ContentDispositionHeaderValue("attachment")
        {
            FileName = $"{top}.zip",
            FileNameStar = $"{top}.zip",
        }.ToString();
        // The platform's zip writer ends each entry with a synchronous write, however asynchronously it is disposed of.
        if (context.Features.Get<IHttpBodyControlFeature>() is { } control)
            control.AllowSynchronousIO = true;
        return Results.Stream(body => WriteAsync(body, top, files, store, open, cancel), "application/zip");
    }

    private static async Task WriteAsync(
        Stream body,
        string top,
        IEnumerable<ZippedFile> files,
        IContentStore store,
        Func<ContentHash, Task<Stream?>>? open,
        CancellationToken cancel
    )
    {
        await using var zip = await ZipArchive.CreateAsync(body, ZipArchiveMode.Create, leaveOpen: true, entryNameEncoding: null, cancel);
        foreach (var file in files)
        {
            if (file.Hash is not { } hash)
            {
                zip.CreateEntry($"{top}/{file.Path}");
                continue;
            }
            var made = zip.CreateEntry($"{top}/{file.Path}", CompressionLevel.Fastest);
            if (file.ChangedAt is { } at)
                made.LastWriteTime = new DateTimeOffset(DateTime.SpecifyKind(at, DateTimeKind.Utc));
            await using var entry = await made.OpenAsync(cancel);
            await using var content = (open is null ? null : await open(hash)) ?? store.OpenRead(hash);
            await content.CopyToAsync(entry, cancel);
        }
    }
}
