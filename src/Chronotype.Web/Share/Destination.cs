using Chronotype.Studio.Deeds;
using Chronotype.Studio.Share;

namespace Chronotype.Web.Share;

/// <summary>Where something is copied or moved to (RFC 4918, 10.3 and 10.6).</summary>
/// <param name="From">What is copied or moved.</param>
/// <param name="At">The place, and what stands there.</param>
/// <param name="Overwrites">What stands there may go.</param>
public sealed record Destination(ShareRequest From, ShareRequest At, bool Overwrites)
{
    /// <summary>It is in another project.</summary>
    public bool IsOther => At.ProjectId != From.ProjectId;

    /// <returns>Null where it is no place to go to; then the answer is given.</returns>
    public static async Task<Destination?> OfAsync(ShareRequest request)
    {
        var headers = request.Context.Request.Headers;
        var text = headers["Destination"].ToString();
        if (request.Node is null || request.IsTop)
        {
            await request.SayAsync(
                request.IsTop ? StatusCodes.Status403Forbidden : StatusCodes.Status404NotFound,
                request.IsTop ? "A project is moved and renamed on its own page." : "Nothing stands there."
            );
            return null;
        }
        if (!request.PreconditionsHold())
        {
            await request.SayAsync(StatusCodes.Status412PreconditionFailed, "It is not what it was any more. Nothing was changed.");
            return null;
        }
        if (text.Length == 0)
        {
            await request.SayAsync(StatusCodes.Status400BadRequest, "It is not said where to.");
            return null;
        }
        // Whatever host it names: behind a proxy the server knows itself by another name than programs do.
        if (!SharePlace.TryParse(text, out var place, out var why))
        {
            await request.SayAsync(StatusCodes.Status400BadRequest, why ?? "That is no address of the share.");
            return null;
        }
        if (place!.Path is null || await request.AtAsync(place) is not { } at)
        {
            await request.SayAsync(StatusCodes.Status409Conflict, "There is no such project, or it is not one that you may see.");
            return null;
        }
        var overwrites = headers["Overwrite"].ToString() != "F";
        if (at.ProjectId == request.ProjectId && place.Path == request.Place.Path)
        {
            await request.SayAsync(StatusCodes.Status403Forbidden, "That is where it is.");
            return null;
        }
        var isRecased = at.ProjectId == request.ProjectId && place.Path.Key == request.Place.Path!.Key;
        if (!overwrites && at.Node is not null && !isRecased)
        {
            await request.SayAsync(StatusCodes.Status412PreconditionFailed, "Something stands there already. Nothing was changed.");
            return null;
        }
        if (at.ProjectId != request.ProjectId && request.Node.IsFolder)
        {
            await request.SayAsync(StatusCodes.Status403Forbidden, "A folder stays in its project. Copy its files, each by itself.");
            return null;
        }
        return new Destination(request, at, overwrites);
    }

    /// <summary>Takes a file into the other project, as one deed.</summary>
    public Task<Outcome<SharedChange>> AcrossAsync(ShareFiles files, bool isMove) =>
        files.AcrossAsync(
            From.Actor,
            new SharedPlace(From.ProjectId!.Value, From.Place.Path!),
            new SharedPlace(At.ProjectId!.Value, At.Place.Path!),
            isMove,
            Overwrites,
            From.HoldsAsync,
            From.Cancel
        );
}
