using Chronotype.Storage.Mirror;

namespace Chronotype.Web.Security;

/// <summary>
/// No answer tells of what a power cut could still take, whoever committed it: where something was committed and is not on the disk yet,
/// every answer waits the moment until it is.
/// </summary>
public sealed class KeptBeforeTold(RequestDelegate next, RecordMirror mirror)
{
    public Task InvokeAsync(HttpContext context)
    {
        context.Response.OnStarting(async () =>
        {
            if (!mirror.IsBehind)
                return;
            try
            {
                await mirror.DrainAsync();
            }
            catch (Exception e) when (e is IOException or Microsoft.Data.Sqlite.SqliteException)
            {
                // The person who made the change is told so.
            }
        });
        return next(context);
    }
}
