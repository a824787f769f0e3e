using Chronotype.Content;

namespace Chronotype.Web.Share;

/// <summary>OPTIONS: what can be done here (RFC 9110, 9.3.7; RFC 4918, 10.1).</summary>
public sealed class OptionsMethod : IShareMethod
{
    public Task AnswerAsync(ShareRequest request)
    {
        request.Context.Response.Headers.Allow = string.Join(", ", ShareEndpoints.Methods.Keys);
        request.Context.Response.ContentLength = 0;
        return Task.CompletedTask;
    }
}

/// <summary>GET and HEAD: what a file holds, in ranges where it is asked so (RFC 9110, 14).</summary>
public sealed class GetMethod(IContentStore store) : IShareMethod
{
    public async Task AnswerAsync(ShareRequest request)
    {
        if (request.Node is null && !(request.IsTop && request.Place.Project is null))
        {
            await request.SayAsync(StatusCodes.Status404NotFound, "Nothing stands there.");
            return;
        }
        if (request.Node?.Hash is not { } hash)
        {
            request.Context.Response.Headers.Allow = string.Join(
                ", ",
                ShareEndpoints.Methods.Keys.Where(m => m is not ("GET" or "HEAD" or "PUT"))
            );
            await request.SayAsync(
                StatusCodes.Status405MethodNotAllowed,
                "This is a folder of the share. Connect to it from your desktop; how, your own page says: /me."
            );
            return;
        }
        await Results
            .File(
                store.OpenRead(hash),
                PropFindMethod.MediaType(request.Node.Path!.Name),
                lastModified: request.Node.ChangedAt,
                entityTag: ShareRequest.TagOf(request.Node),
                enableRangeProcessing: true
            )
            .ExecuteAsync(request.Context);
    }
}
