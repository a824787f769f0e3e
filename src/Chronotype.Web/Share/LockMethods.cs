using System.Globalization;
using System.Xml.Linq;
using Chronotype.Core.Content;
using Chronotype.Studio.Share;

namespace Chronotype.Web.Share;

/// <summary>LOCK: keeps other programs from a file (RFC 4918, 9.10), or has a lock hold for longer.</summary>
public sealed class LockMethod(ShareFiles files) : IShareMethod
{
    private const int MaxOwner = 4_000;

    public async Task AnswerAsync(ShareRequest request)
    {
        if (request.ProjectId is not { } project)
        {
            await request.SayAsync(StatusCodes.Status403Forbidden, "The whole share is not locked.");
            return;
        }
        var body = await DavXml.ReadAsync(request.Context.Request, request.Cancel);
        if (body is null)
        {
            await RefreshAsync(request, project);
            return;
        }
        var scope = body.Element(DavXml.Dav + "lockscope")?.Elements().FirstOrDefault()?.Name.LocalName;
        var depth = request.Context.Request.Headers["Depth"].ToString();
        if (
            body.Name != DavXml.Dav + "lockinfo"
            || body.Element(DavXml.Dav + "locktype")?.Element(DavXml.Dav + "write") is null
            || scope is not ("exclusive" or "shared")
            || depth is not ("" or "0" or "infinity")
        )
        {
            await request.SayAsync(StatusCodes.Status400BadRequest, "A lock is for writing, exclusive or shared, of depth 0 or infinity.");
            return;
        }
        if (request.Node is null && await request.IsLockedAsync(isMember: true))
            return;
        var owner = body.Element(DavXml.Dav + "owner")?.ToString(SaveOptions.DisableFormatting) ?? "";
        var wanted = new ShareLock(
            $"urn:uuid:{Guid.NewGuid()}",
            project,
            request.Place.Path,
            // A file has nothing in it.
            IsDeep: depth != "0" && (request.IsTop || request.Node is { IsFolder: true }),
            IsShared: scope == "shared",
            request.Actor.PersonId,
            owner.Length > MaxOwner ? "" : owner,
            Lasts(request) ?? ShareLocks.Longest
        );
        if (!request.Locks.TryTake(wanted, out var taken, out var against))
        {
            var href = new SharePlace(request.Place.Project, against?.Path).Href(against?.IsDeep == true);
            await DavXml.WriteAsync(
                request.Context,
                StatusCodes.Status423Locked,
                new XElement(
                    DavXml.Dav + "error",
                    new XElement(DavXml.Dav + "no-conflicting-lock", new XElement(DavXml.Dav + "href", href))
                ),
                request.Cancel
            );
            return;
        }
        // 7.3: what is locked where nothing stands is there from then on, without anything in it.
        if (request.Node is null)
        {
            var made = await files.PutAsync(request.Actor, project, request.Place.Path!, Stream.Null, null, request.Cancel);
            if (!made.Done)
            {
                request.Locks.Release(taken.Token, project, request.Place.Path, request.Actor.PersonId);
                await request.SayAsync(made.Refusal);
                return;
            }
        }
        request.Context.Response.Headers["Lock-Token"] = $"<{taken.Token}>";
        await AnswerAsync(request, taken, request.Node is null ? StatusCodes.Status201Created : StatusCodes.Status200OK);
    }

    /// <summary>A lock as answers tell it (RFC 4918, 14.1).</summary>
    public static XElement Active(ShareLock held, string project) =>
        new(
            DavXml.Dav + "activelock",
            new XElement(DavXml.Dav + "locktype", new XElement(DavXml.Dav + "write")),
            new XElement(DavXml.Dav + "lockscope", new XElement(DavXml.Dav + (held.IsShared ? "shared" : "exclusive"))),
            new XElement(DavXml.Dav + "depth", held.IsDeep ? "infinity" : "0"),
            held.Owner.Length > 0 ? XElement.Parse(held.Owner) : null,
            new XElement(DavXml.Dav + "timeout", $"Second-{(long)held.Lasts.TotalSeconds}"),
            new XElement(DavXml.Dav + "locktoken", new XElement(DavXml.Dav + "href", held.Token)),
            new XElement(
                DavXml.Dav + "lockroot",
                new XElement(DavXml.Dav + "href", new SharePlace(project, held.Path).Href(held.Path is null))
            )
        );

    private static async Task RefreshAsync(ShareRequest request, Guid project)
    {
        var refreshed = request
            .Tokens.Select(t => request.Locks.Refresh(t, project, request.Place.Path, request.Actor.PersonId, Lasts(request)))
            .FirstOrDefault(l => l is not null);
        if (refreshed is null)
            await request.SayAsync(
                StatusCodes.Status412PreconditionFailed,
                "There is no such lock any more, or it is not yours. Take another one."
            );
        else
            await AnswerAsync(request, refreshed, StatusCodes.Status200OK);
    }

    private static Task AnswerAsync(ShareRequest request, ShareLock held, int status) =>
        DavXml.WriteAsync(
            request.Context,
            status,
            new XElement(
                DavXml.Dav + "prop",
                new XAttribute(XNamespace.Xmlns + "D", DavXml.Dav.NamespaceName),
                new XElement(DavXml.Dav + "lockdiscovery", Active(held, request.Place.Project!))
            ),
            request.Cancel
        );

    // 10.7: the first of the wishes that is understood, and never longer than a program that was killed should be waited for.
    private static TimeSpan? Lasts(ShareRequest request)
    {
        foreach (var wish in request.Context.Request.Headers["Timeout"].ToString().Split(',').Select(w => w.Trim()))
        {
            if (wish == "Infinite")
                return ShareLocks.Longest;
            if (
                wish.StartsWith("Second-", StringComparison.Ordinal)
                && ulong.TryParse(wish[7..], NumberStyles.None, CultureInfo.InvariantCulture, out var seconds)
                && seconds > 0
            )
                return TimeSpan.FromSeconds(Math.Min(seconds, ShareLocks.Longest.TotalSeconds));
        }
        return null;
    }
}

/// <summary>UNLOCK: gives a lock up (RFC 4918, 9.11).</summary>
public sealed class UnlockMethod : IShareMethod
{
    public async Task AnswerAsync(ShareRequest request)
    {
        var token = request.Context.Request.Headers["Lock-Token"].ToString().Trim();
        if (token is not ['<', .. var inner, '>'] || request.ProjectId is not { } project)
        {
            await request.SayAsync(StatusCodes.Status400BadRequest, "It is not said which lock.");
            return;
        }
        if (request.Locks.Release(inner, project, request.Place.Path, request.Actor.PersonId))
            await request.SayAsync(StatusCodes.Status204NoContent);
        else
            await request.SayAsync(StatusCodes.Status409Conflict, "There is no such lock on it any more, or it is not yours.");
    }
}
