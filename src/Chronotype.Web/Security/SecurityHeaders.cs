namespace Chronotype.Web.Security;

/// <summary>
/// Says to the browser, on every answer, what a page of this program may do: nothing from elsewhere, no inline script or style;
/// and that what only a person who is signed in may see is not to be kept.
/// </summary>
public sealed class SecurityHeaders(RequestDelegate next)
{
    // What lies inside a scene is handed to the browser's own decoders as blobs and data of the page itself.
    private const string Policy =
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob:; media-src 'self' blob:; font-src 'self'; "
        + "connect-src 'self' blob: data:; "
        + "form-action 'self'; frame-ancestors 'none'; base-uri 'none'";

    public Task InvokeAsync(HttpContext context)
    {
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy = Policy;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        headers["Cross-Origin-Opener-Policy"] = "same-origin";
        headers["Cross-Origin-Resource-Policy"] = "same-origin";
        context.Response.OnStarting(() =>
        {
            if (context.Items.ContainsKey(MayBeKept))
                return Task.CompletedTask;
            headers.CacheControl = "private, no-store";
            headers.Remove("Pragma");
            return Task.CompletedTask;
        });
        // RFC 9110, 14.2: a range in units that are not understood is as if it had not been asked for.
        if (
            context.Request.Headers.Range.ToString() is { Length: > 0 } range
            && !range.StartsWith("bytes=", StringComparison.OrdinalIgnoreCase)
        )
            context.Request.Headers.Remove("Range");
        return next(context);
    }

    /// <summary>Says what a browser may keep, where it may keep an answer at all.</summary>
    public static void Keep(HttpContext context, string cacheControl)
    {
        context.Items[MayBeKept] = true;
        context.Response.Headers.CacheControl = cacheControl;
    }

    private static readonly object MayBeKept = new();
}
