using System.Globalization;
using System.Text;
using Chronotype.Content;
using Chronotype.Studio.Arrivals;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Http.Features;

namespace Chronotype.Web.Uploads;

/// <summary>
/// Files that arrive in parts, and go on where they were cut off: the tus protocol 1.0.0 with its extensions for creation, expiration
/// and termination (tus.io, "Resumable upload protocol 1.0.x"). Where the file belongs is told afterwards, by the form that names it.
/// </summary>
public static class TusEndpoints
{
    private const string Version = "1.0.0",
        Part = "application/offset+octet-stream";

    public static void Map(IEndpointRouteBuilder routes)
    {
        var uploads = routes.MapGroup("/uploads").AddEndpointFilter(SpeakAsync);
        uploads.MapMethods("", ["OPTIONS"], Tell);
        uploads.MapPost("", BeginAsync);
        uploads.MapMethods("/{id:guid}", ["HEAD"], HowFarAsync);
        uploads.MapMethods("/{id:guid}", ["PATCH"], TakeAsync);
        uploads.MapDelete("/{id:guid}", DropAsync);
    }

    private static async ValueTask<object?> SpeakAsync(EndpointFilterInvocationContext invocation, EndpointFilterDelegate next)
    {
        var context = invocation.HttpContext;
        // Its answers are for programs, which know them by their number.
        if (context.Features.Get<IStatusCodePagesFeature>() is { } pages)
            pages.Enabled = false;
        context.Response.Headers["Tus-Resumable"] = Version;
        context.Response.Headers.CacheControl = "no-store";
        if (HttpMethods.IsOptions(context.Request.Method))
            return await next(invocation);
        if (context.Request.Headers["Tus-Resumable"] != Version)
        {
            context.Response.Headers["Tus-Version"] = Version;
            return Results.StatusCode(StatusCodes.Status412PreconditionFailed);
        }
        // Reading how far it is changes nothing.
        if (
            !HttpMethods.IsHead(context.Request.Method)
            && !await context.RequestServices.GetRequiredService<IAntiforgery>().IsRequestValidAsync(context)
        )
            return Results.BadRequest();
        if (HttpMethods.IsPost(context.Request.Method) || HttpMethods.IsPatch(context.Request.Method))
        {
            if (context.RequestServices.GetRequiredService<Viewer>().IsReader)
                return Results.Text(RefusalWords.Of(new Refusal.OnlyReads()), statusCode: StatusCodes.Status403Forbidden);
        }
        try
        {
            return await next(invocation);
        }
        catch (StorageFullException e)
        {
            return Results.Text(e.Message, statusCode: StatusCodes.Status507InsufficientStorage);
        }
        catch (TooManyUploadsException e)
        {
            return Results.Text(e.Message, statusCode: StatusCodes.Status429TooManyRequests);
        }
    }

    private static IResult Tell(HttpContext context)
    {
        context.Response.Headers["Tus-Version"] = Version;
        context.Response.Headers["Tus-Extension"] = "creation,expiration,termination";
        return Results.NoContent();
    }

    private static async Task<IResult> BeginAsync(HttpContext context, HeldUploads uploads, CancellationToken cancel)
    {
        if (!long.TryParse(context.Request.Headers["Upload-Length"], NumberStyles.None, CultureInfo.InvariantCulture, out var length))
            return Results.BadRequest();
        var name = NameIn(context.Request.Headers["Upload-Metadata"].ToString());
        var held = await uploads.BeginAsync(name, length, context.User.Actor().PersonId, cancel);
        Expires(context, held.BegunAt);
        return Results.Created($"/uploads/{held.Id}", null);
    }

    private static async Task<IResult> HowFarAsync(Guid id, HttpContext context, HeldUploads uploads, CancellationToken cancel)
    {
        if (await uploads.FindAsync(id, context.User.Actor().PersonId, cancel) is not { } found)
            return Results.NotFound();
        context.Response.Headers["Upload-Offset"] = found.Arrived.ToString(CultureInfo.InvariantCulture);
        context.Response.Headers["Upload-Length"] = found.Held.Length.ToString(CultureInfo.InvariantCulture);
        return Results.Ok();
    }

    private static async Task<IResult> TakeAsync(
        Guid id,
        HttpContext context,
        HeldUploads uploads,
        TimeProvider time,
        CancellationToken cancel
    )
    {
        if (context.Request.ContentType != Part)
            return Results.StatusCode(StatusCodes.Status415UnsupportedMediaType);
        if (!long.TryParse(context.Request.Headers["Upload-Offset"], NumberStyles.None, CultureInfo.InvariantCulture, out var at))
            return Results.BadRequest();
        if (await uploads.FindAsync(id, context.User.Actor().PersonId, cancel) is not { } found)
            return Results.NotFound();
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
            limit.MaxRequestBodySize = null;
        long? arrived;
        try
        {
            arrived = await uploads.AppendAsync(found.Held, at, new ArrivingStream(context.Request.Body), cancel);
        }
        catch (Exception e) when (e is InvalidDataException or BadHttpRequestException)
        {
            // The connection broke; the sender asks how far it is, and goes on there.
            return Results.BadRequest();
        }
        if (arrived is null)
            return Results.Conflict();
        context.Response.Headers["Upload-Offset"] = arrived.Value.ToString(CultureInfo.InvariantCulture);
        Expires(context, time.GetUtcNow());
        return Results.NoContent();
    }

    private static async Task<IResult> DropAsync(Guid id, HttpContext context, HeldUploads uploads, CancellationToken cancel)
    {
        if (await uploads.FindAsync(id, context.User.Actor().PersonId, cancel) is null)
            return Results.NotFound();
        uploads.Drop(id);
        return Results.NoContent();
    }

    private static void Expires(HttpContext context, DateTimeOffset from) =>
        context.Response.Headers["Upload-Expires"] = (from + HeldUploads.Lasts).ToString("R", CultureInfo.InvariantCulture);

    // Pairs of a key and a value in base64, with commas between.
    private static string NameIn(string metadata)
    {
        foreach (var pair in metadata.Split(',', StringSplitOptions.TrimEntries))
        {
            if (pair.Split(' ') is not ["filename", var value])
                continue;
            var bytes = new byte[value.Length];
            if (Convert.TryFromBase64String(value, bytes, out var length))
                return Encoding.UTF8.GetString(bytes, 0, length);
        }
        return "file";
    }
}
