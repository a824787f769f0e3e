using Microsoft.Net.Http.Headers;

namespace Chronotype.Web.Security;

/// <summary>Refuses a body in letters that nobody here reads (a charset that is unknown or not safe, such as UTF-7), before anything tries to.</summary>
public sealed class ReadableForms(RequestDelegate next)
{
    public Task InvokeAsync(HttpContext context)
    {
        if (IsReadable(context.Request.ContentType))
            return next(context);
        // The error page must not try to read the form either.
        context.Request.ContentType = null;
        context.Response.StatusCode = StatusCodes.Status400BadRequest;
        return Task.CompletedTask;
    }

    private static bool IsReadable(string? contentType)
    {
        if (!MediaTypeHeaderValue.TryParse(contentType, out var type) || !type.Charset.HasValue)
            return true;
        try
        {
            return type.Encoding is not null;
        }
        catch (Exception e) when (e is ArgumentException or NotSupportedException)
        {
            return false;
        }
    }
}
