using System.Xml;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Studio.Share;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Http.Features;

namespace Chronotype.Web.Share;

/// <summary>The share: every project as a network folder (WebDAV, RFC 4918, classes 1 and 2), for programs that hold a device key.</summary>
public sealed class ShareEndpoints(StudioDb db, Viewer viewer, ShareLocks locks, IServiceProvider services)
{
    /// <summary>What it answers to, each by a class of its own.</summary>
    public static readonly IReadOnlyDictionary<string, Type> Methods = new Dictionary<string, Type>
    {
        ["OPTIONS"] = typeof(OptionsMethod),
        ["GET"] = typeof(GetMethod),
        ["HEAD"] = typeof(GetMethod),
        ["PUT"] = typeof(PutMethod),
        ["DELETE"] = typeof(DeleteMethod),
        ["MKCOL"] = typeof(MkColMethod),
        ["COPY"] = typeof(CopyMethod),
        ["MOVE"] = typeof(MoveMethod),
        ["PROPFIND"] = typeof(PropFindMethod),
        ["PROPPATCH"] = typeof(PropPatchMethod),
        ["LOCK"] = typeof(LockMethod),
        ["UNLOCK"] = typeof(UnlockMethod),
    };

    // What changes nothing, and so is answered to whoever only reads.
    private static readonly HashSet<string> Reading = ["OPTIONS", "GET", "HEAD", "PROPFIND"];

    public static void AddServices(IServiceCollection services)
    {
        services.AddScoped<ShareEndpoints>();
        foreach (var method in Methods.Values.Distinct())
            services.AddScoped(method);
    }

    public static void Map(IEndpointRouteBuilder routes) =>
        routes
            .Map(SharePlace.Root + "/{**path}", (HttpContext context, ShareEndpoints share) => share.AnswerAsync(context))
            .RequireAuthorization(new AuthorizationPolicyBuilder(DeviceKeyHandler.Name).RequireAuthenticatedUser().Build())
            .DisableAntiforgery();

    private async Task AnswerAsync(HttpContext context)
    {
        context.Response.Headers["DAV"] = "1, 2";
        context.Response.Headers["MS-Author-Via"] = "DAV";
        var cancel = context.RequestAborted;
        var nothing = new ShareRequest(context, new SharePlace(null, null), null, null, db, locks, null);
        if (!Methods.TryGetValue(context.Request.Method, out var method))
        {
            context.Response.Headers.Allow = string.Join(", ", Methods.Keys);
            await nothing.SayAsync(StatusCodes.Status405MethodNotAllowed, $"The share does not know {context.Request.Method}.");
            return;
        }
        var target = context.Features.GetRequiredFeature<IHttpRequestFeature>().RawTarget;
        // What comes in process has no raw target.
        if (target.Length == 0)
            target = context.Request.Path.ToUriComponent();
        if (!SharePlace.TryParse(target, out var place, out var why))
        {
            await nothing.SayAsync(StatusCodes.Status400BadRequest, why ?? "This is no address of the share.");
            return;
        }
        if (viewer.IsReader && !Reading.Contains(context.Request.Method))
        {
            await nothing.SayAsync(StatusCodes.Status403Forbidden, RefusalWords.Of(new Refusal.OnlyReads()));
            return;
        }
        IfHeader? condition = null;
        if (context.Request.Headers["If"].ToString() is { Length: > 0 } text && (condition = IfHeader.Parse(text)) is null)
        {
            await nothing.SayAsync(StatusCodes.Status400BadRequest, "The If header is not written as RFC 4918, 10.4, says.");
            return;
        }
        if (await (nothing with { If = condition }).AtAsync(place!) is not { } request)
        {
            await nothing.SayAsync(StatusCodes.Status404NotFound, "There is no such project, or it is not one that you may see.");
            return;
        }
        try
        {
            if (!await request.IfHoldsAsync())
                await request.SayAsync(StatusCodes.Status412PreconditionFailed, "None of the conditions of the If header holds any more.");
            else
                await ((IShareMethod)services.GetRequiredService(method)).AnswerAsync(request);
        }
        catch (XmlException e) when (!context.Response.HasStarted)
        {
            await request.SayAsync(StatusCodes.Status400BadRequest, $"The body cannot be read: {e.Message}");
        }
        catch (BadHttpRequestException e) when (!context.Response.HasStarted)
        {
            // What came of it is nothing that anybody saved.
            await request.SayAsync(e.StatusCode, "It did not arrive whole. Nothing was taken, and nothing older is touched.");
        }
    }
}
