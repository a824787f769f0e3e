using Chronotype.Studio.People;

namespace Chronotype.Web.Security;

/// <summary>Leads everyone to the founding page while the studio has no owner.</summary>
public sealed class FirstVisit(RequestDelegate next)
{
    // Once founded a studio stays so; the database is not asked again.
    private volatile bool founded;

    public async Task InvokeAsync(HttpContext context, FoundStudio studio)
    {
        if (!founded && !context.Request.Path.StartsWithSegments("/welcome") && !context.Request.Path.StartsWithSegments("/healthz"))
        {
            founded = await studio.IsFoundedAsync(context.RequestAborted);
            if (!founded)
            {
                context.Response.Redirect("/welcome");
                return;
            }
        }
        await next(context);
    }
}
