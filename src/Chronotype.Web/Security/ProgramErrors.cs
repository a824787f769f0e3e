using System.Globalization;
using Chronotype.Web.Share;

namespace Chronotype.Web.Security;

/// <summary>
/// Answers a program by a status and a sentence where something goes wrong, and never with a page: on the share, and to every method that
/// no page has. A passing failure is 503 with a time to try again (RFC 9110, 10.2.3 and 15.6.4), a full disk 507 (RFC 4918, 11.5); it
/// is never 404, which a program that syncs would take for deleted.
/// </summary>
public sealed class ProgramErrors(RequestDelegate next, ILogger<ProgramErrors> log)
{
    /// <summary>After so many seconds a program may try again.</summary>
    public const int RetryAfter = 5;

    public async Task InvokeAsync(HttpContext context)
    {
        try
        {
            await next(context);
        }
        catch (Exception e)
            when (IsOfProgram(context.Request) && !context.Response.HasStarted && !context.RequestAborted.IsCancellationRequested)
        {
            var failure = Failure.Of(e);
            log.LogError(e, "{Method} {Path} failed: {Heading}", context.Request.Method, context.Request.Path, failure.Heading);
            context.Response.Clear();
            context.Response.StatusCode = failure.Status;
            if (failure.Status == StatusCodes.Status503ServiceUnavailable)
                context.Response.Headers.RetryAfter = RetryAfter.ToString(CultureInfo.InvariantCulture);
            context.Response.ContentType = "text/plain; charset=utf-8";
            if (!HttpMethods.IsHead(context.Request.Method))
                await context.Response.WriteAsync(failure.Sentence + "\n");
        }
    }

    private static bool IsOfProgram(HttpRequest request) =>
        request.Path.StartsWithSegments(SharePlace.Root)
        || !(HttpMethods.IsGet(request.Method) || HttpMethods.IsPost(request.Method) || HttpMethods.IsHead(request.Method));
}
