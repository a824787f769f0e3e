using Chronotype.Storage;
using Chronotype.Storage.Content;
using Chronotype.Storage.Records;
using Chronotype.Studio.Background;
using Chronotype.Studio.Care;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Chronotype.Web.Pages.Pieces;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Uploads;

/// <summary>Where files arrive: a new piece with its first content, the next save of a piece, and copies to repair from.</summary>
public sealed class UploadEndpoints(
    StudioDb db, IAntiforgery antiforgery, ITempDataDictionaryFactory tempData, StartPiece startPiece, TakeSave takeSave, KeepSave keepSave, PlaceFile placeFile, FindPiece findPiece, RepairContent repairContent, CareRunner careRunner, SaveQueue queue)
{
    /// <summary>How long an answer waits for the save to be read, so that small files show at once.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    public static void Map(IEndpointRouteBuilder routes)
    {
        routes.MapPost("/projects/{project}/pieces", (HttpContext context, UploadEndpoints uploads, string project, CancellationToken cancel) =>
            uploads.AnswerAsync(context, upload => uploads.StartAsync(context, project, upload, cancel), cancel));
        routes.MapPost("/projects/{project}/{piece}/saves", (HttpContext context, UploadEndpoints uploads, string project, string piece, CancellationToken cancel) =>
            uploads.AnswerAsync(context, upload => uploads.SaveAsync(context, project, piece, upload, cancel), cancel));
        routes.MapPost("/storage/copies", (HttpContext context, UploadEndpoints uploads, CancellationToken cancel) =>
            uploads.AnswerAsync(context, upload => uploads.RepairAsync(context, upload, cancel), cancel));
    }

    private sealed record Answer(string? Location, string? Error, int Status = StatusCodes.Status200OK)
    {
        public static Answer To(string location) => new(location, null);
        public static Answer Refused(string error, int status = StatusCodes.Status422UnprocessableEntity) => new(null, error, status);
    }

    private async Task<IResult> AnswerAsync(HttpContext context, Func<MultipartUpload, Task<Answer>> work, CancellationToken cancel)
    {
        // A save may be as large as the disk; only its fields are bounded.
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit) limit.MaxRequestBodySize = null;
        Answer answer;
        try
        {
            answer = await MultipartUpload.ReadAsync(context.Request, cancel) is not { } upload ? Answer.Refused("This address takes a form with a file.", StatusCodes.Status415UnsupportedMediaType)
                : !await IsOurFormAsync(context, upload) ? Answer.Refused("The form was open for too long or came from somewhere else, so nothing was taken. Load the page anew and send it again.", StatusCodes.Status400BadRequest)
                : await work(upload);
        }
        catch (StorageFullException e)
        {
            // What of it got there is needed by nothing, and is freed now.
            careRunner.TryStart(CareKind.Compact, null);
            answer = Answer.Refused(e.Message, StatusCodes.Status507InsufficientStorage);
        }
        catch (Exception e) when (e is InvalidDataException or BadHttpRequestException)
        {
            answer = Answer.Refused("The file did not arrive whole, so nothing of it was taken and nothing older is touched. Send it again.", StatusCodes.Status400BadRequest);
        }
        if (context.Request.GetTypedHeaders().Accept?.Any(a => a.MediaType == "application/json") == true)
            return Results.Json(new { location = answer.Location, error = answer.Error }, statusCode: answer.Status);
        if (answer.Location is not null) return Results.Redirect(answer.Location);
        Say(context, new Said(SaidKind.Bad, answer.Error!));
        var back = context.Request.GetTypedHeaders().Referer;
        // Only to a path of our own: what begins with two slashes leads to another host.
        return Results.Redirect(back?.Host == context.Request.Host.Host && back.PathAndQuery is ['/', not ('/' or '\\'), ..] ? back.PathAndQuery : "/");
    }

    // The script sends the token as a header; a plain form as its first field, which is moved to where it is looked for.
    private async Task<bool> IsOurFormAsync(HttpContext context, MultipartUpload upload)
    {
        if (!context.Request.Headers.ContainsKey("X-Form-Token")) context.Request.Headers["X-Form-Token"] = upload.Field("__RequestVerificationToken");
        return await antiforgery.IsRequestValidAsync(context);
    }

    private async Task<Answer> StartAsync(HttpContext context, string projectCode, MultipartUpload upload, CancellationToken cancel)
    {
        var project = await db.Projects.AsNoTracking().FirstOrDefaultAsync(p => p.Code == projectCode, cancel);
        if (project is null) return Answer.Refused("There is no such project.", StatusCodes.Status404NotFound);
        var person = context.User.PersonId();
        var outcome = await startPiece.DoAsync(project.Id, person, SlotFields.From(upload.Fields), goOn: upload.FileName is not null, cancel);
        if (!outcome.Done) return Answer.Refused(outcome.Refusal);
        var piece = outcome.Result;
        var page = PiecePage(project.Code, piece);
        if (upload.FileName is null) return Answer.To(page);

        var taken = await takeSave.DoAsync(piece.Id, person, upload.FileName, upload.File, cancel);
        // The first content is kept at once: the piece begins with a number.
        var result = await keepSave.DoAsync(piece.Id, taken.Save.Id, person, null, cancel: cancel);
        queue.Add(taken.Save.Id);
        Say(context, Said.About(result));
        return Answer.To(page);
    }

    private async Task<Answer> SaveAsync(HttpContext context, string projectCode, string pieceName, MultipartUpload upload, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(projectCode, pieceName, cancel) is not { } piece) return Answer.Refused("There is no such piece.", StatusCodes.Status404NotFound);
        if (upload.FileName is null) return Answer.Refused("Choose a file first.");
        var person = context.User.PersonId();
        var first = piece.HighestSequence == 0;
        var taken = await takeSave.DoAsync(piece.Id, person, upload.FileName, upload.File, cancel);
        if (first) Say(context, Said.About(await keepSave.DoAsync(piece.Id, taken.Save.Id, person, null, cancel: cancel)));
        else if (!taken.IsNew) Say(context, Said.Unchanged(taken.Save));
        else if (taken.Save.ArrivalNotice is { } notice) Say(context, new Said(SaidKind.Done, $"It is stored as a loose save. {notice}"));
        else if (taken.NumberNotice is { } why) Say(context, new Said(SaidKind.Done, $"It is stored. {why}"));
        else if (await ElsewhereAsync(context, piece, taken.Save, cancel) is { } elsewhere) Say(context, elsewhere);
        queue.Add(taken.Save.Id);
        await WaitForReading(taken.Save.Id, cancel);
        return Answer.To(PiecePage(projectCode, piece));
    }

    private async Task<Answer> RepairAsync(HttpContext context, MultipartUpload upload, CancellationToken cancel)
    {
        if (upload.FileName is null) return Answer.Refused("Choose a file first.");
        var repaired = await repairContent.DoAsync(upload.File, cancel);
        Say(context, repaired switch
        {
            { Name: { } name, Bytes: 0 } => new Said(SaidKind.Done, $"That is {name}, and it is whole here: nothing had to be repaired."),
            { Name: { } name } => new Said(SaidKind.Done, $"{name} is whole again: {Plain.Size(repaired.Bytes)} of it were kept anew. Verify to see what else that mended."),
            _ => new Said(SaidKind.Ask, "No save here has exactly this content, so it was not kept. Any damaged part that it shares with one was repaired; verify to see."),
        });
        return Answer.To("/storage");
    }

    // The name may speak for another piece. The file stays where the person put it.
    private async Task<Said?> ElsewhereAsync(HttpContext context, Piece piece, Save save, CancellationToken cancel)
    {
        var proposal = await placeFile.DoAsync(piece.ProjectId, save.ReceivedName, context.User.Initials(), cancel);
        if (proposal.Places.Count == 0 || proposal.Places[0].PieceId == piece.Id) return proposal.Facts.Count == 0 ? null : new Said(SaidKind.Done, $"It is stored as a loose save. Read from its name: {string.Join("; ", proposal.Facts)}.");
        var best = proposal.Places[0];
        if (proposal.Places.FirstOrDefault(p => p.PieceId == piece.Id) is { } here && here.Share >= best.Share) return null;
        return new Said(SaidKind.Ask, $"It is stored here as a loose save, though its name speaks for {best.CurrentName}: {string.Join("; ", best.Reasons)}.", Give: save.Id, GiveTo: best.CurrentName);
    }

    private async Task WaitForReading(Guid saveId, CancellationToken cancel)
    {
        var until = DateTime.UtcNow + Patience;
        while (DateTime.UtcNow < until && !await db.Saves.AnyAsync(s => s.Id == saveId && s.Reading != null, cancel)) await Task.Delay(40, cancel);
    }

    private void Say(HttpContext context, Said said)
    {
        var data = tempData.GetTempData(context);
        Said.Put(data, said);
        data.Save();
    }

    private static string PiecePage(string project, Piece piece) => $"/projects/{Uri.EscapeDataString(project)}/{Uri.EscapeDataString(piece.CurrentName)}";
}
