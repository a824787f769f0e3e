using Chronotype.Storage;
using Chronotype.Studio.People;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Security;

/// <summary>Says who looks before a page asks anything: what they do not see is not found, whatever the page.</summary>
public sealed class Viewing(RequestDelegate next)
{
    public async Task InvokeAsync(HttpContext context, Viewer viewer, IDbContextFactory<StudioDb> contexts)
    {
        if (context.User.Identity is { IsAuthenticated: true })
            await viewer.IsAsync(context.User.PersonId(), contexts, context.RequestAborted);
        await next(context);
    }
}
