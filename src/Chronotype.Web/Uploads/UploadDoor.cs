using Chronotype.Content;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Arrivals;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.People;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Uploads;

/// <summary>What came of a file that was sent.</summary>
/// <param name="Location">The page that shows it; null where it was not taken.</param>
/// <param name="Error">Why it was not taken.</param>
public sealed record UploadAnswer(string? Location, string? Error, int Status = StatusCodes.Status200OK)
{
    public static UploadAnswer To(string location) => new(location, null);

    public static UploadAnswer Refused(Refusal refusal) => new(null, RefusalWords.Of(refusal), RefusalWords.StatusOf(refusal));

    public static UploadAnswer Refused(string error, int status = StatusCodes.Status422UnprocessableEntity) => new(null, error, status);
}

/// <summary>
/// How every form with a file is taken: read as it comes, checked to be ours, and answered for a script or for a person. Its file stands
/// in the form, or has arrived in parts before.
/// </summary>
public sealed class UploadDoor(
    IAntiforgery antiforgery,
    ITempDataDictionaryFactory tempData,
    JobQueue queue,
    HeldUploads held,
    Viewer viewer
)
{
    private Notice? said;

    /// <param name="work">Takes the form; of what throws nothing was taken.</param>
    public async Task<IResult> AnswerAsync(HttpContext context, Func<MultipartUpload, Task<UploadAnswer>> work, CancellationToken cancel)
    {
        // A save may be as large as the disk; only its fields are bounded.
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
            limit.MaxRequestBodySize = null;
        UploadAnswer answer;
        try
        {
            answer =
                await MultipartUpload.ReadAsync(context.Request, cancel) is not { } upload
                    ? UploadAnswer.Refused("This address takes a form with a file.", StatusCodes.Status415UnsupportedMediaType)
                : !await IsOurFormAsync(context, upload)
                    ? UploadAnswer.Refused(
                        "The form was open for too long or came from somewhere else, so nothing was taken. Load the page anew and "
                            + "send it again.",
                        StatusCodes.Status400BadRequest
                    )
                // Before a byte of the file is stored.
                : viewer.IsReader ? UploadAnswer.Refused(new Refusal.OnlyReads())
                : upload.FileName is null && upload.Field("upload") is { Length: > 0 } id
                    ? await HeldAsync(context, upload, id, work, cancel)
                : await work(upload);
        }
        catch (StorageFullException e)
        {
            // What of it got there is needed by nothing, and is freed now.
            await FreeAsync();
            answer = UploadAnswer.Refused(e.Message, StatusCodes.Status507InsufficientStorage);
        }
        catch (Exception e) when (e is InvalidDataException or BadHttpRequestException)
        {
            answer = UploadAnswer.Refused(
                "The file did not arrive whole, so nothing of it was taken and nothing older is touched. Send it again.",
                StatusCodes.Status400BadRequest
            );
        }
        if (context.Request.GetTypedHeaders().Accept?.Any(a => a.MediaType == "application/json") == true)
            return Results.Json(
                new
                {
                    location = answer.Location,
                    error = answer.Error,
                    said = IsOneOfMany(context) ? said?.Sentence : null,
                },
                statusCode: answer.Status
            );
        if (answer.Location is not null)
            return Results.Redirect(answer.Location);
        Say(context, new Notice(NoticeKind.Bad, answer.Error!));
        var back = context.Request.GetTypedHeaders().Referer;
        // Only to a path of our own: what begins with two slashes leads to another host.
        return Results.Redirect(
            back?.Host == context.Request.Host.Host && back.PathAndQuery is ['/', not ('/' or '\\'), ..] ? back.PathAndQuery : "/"
        );
    }

    /// <summary>Says something about what was taken, on the next page, or where many are sent from.</summary>
    public void Say(HttpContext context, Notice notice)
    {
        said = notice;
        if (IsOneOfMany(context))
            return;
        var data = tempData.GetTempData(context);
        Notice.Put(data, notice);
        data.Save();
    }

    // Of many files that are sent together, each result is told where they are sent from, and not on the next page.
    private static bool IsOneOfMany(HttpContext context) => context.Request.Headers.ContainsKey("X-One-Of-Many");

    // It stays held until it has its place: what was refused may be sent elsewhere without being sent again.
    private async Task<UploadAnswer> HeldAsync(
        HttpContext context,
        MultipartUpload form,
        string id,
        Func<MultipartUpload, Task<UploadAnswer>> work,
        CancellationToken cancel
    )
    {
        if (
            !Guid.TryParse(id, out var upload)
            || await held.FindAsync(upload, context.User.Actor().PersonId, cancel) is not { } found
            || found.Arrived != found.Held.Length
        )
            return UploadAnswer.Refused(
                "That file is not held here any more, or did not arrive whole. Nothing older is touched. Send it again.",
                StatusCodes.Status404NotFound
            );
        UploadAnswer answer;
        await using (var bytes = held.Open(found.Held))
            answer = await work(
                new MultipartUpload
                {
                    Fields = form.Fields,
                    FileName = found.Held.Name,
                    File = bytes,
                }
            );
        if (answer.Location is not null)
            held.Drop(upload);
        return answer;
    }

    // The script sends the token as a header; a plain form as its first field, which is moved to where it is looked for.
    private async Task<bool> IsOurFormAsync(HttpContext context, MultipartUpload upload)
    {
        if (!context.Request.Headers.ContainsKey("X-Form-Token"))
            context.Request.Headers["X-Form-Token"] = upload.Field("__RequestVerificationToken");
        return await antiforgery.IsRequestValidAsync(context);
    }

    // Whether or not it can be asked for on a full disk, whoever saves is told that the disk is full.
    private async Task FreeAsync()
    {
        try
        {
            await queue.AddAsync([JobRequest.Store(JobKind.CompactStore, JobPriority.Follows)]);
        }
        catch (Exception e) when (e is DbUpdateException or Microsoft.Data.Sqlite.SqliteException)
        {
            // The daily round asks again.
        }
    }
}
