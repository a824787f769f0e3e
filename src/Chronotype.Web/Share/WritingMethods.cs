using Chronotype.Studio.Share;
using Microsoft.AspNetCore.Http.Features;

namespace Chronotype.Web.Share;

/// <summary>PUT: a file as a program writes it (RFC 9110, 9.3.4; RFC 4918, 9.7).</summary>
public sealed class PutMethod(ShareFiles files) : IShareMethod
{
    public async Task AnswerAsync(ShareRequest request)
    {
        var context = request.Context;
        if (request.IsTop || request.Node is { IsFolder: true })
        {
            await request.SayAsync(StatusCodes.Status405MethodNotAllowed, "A folder stands there; a file cannot take its place.");
            return;
        }
        // RFC 9110, 14.5: a part of a file would be taken for all of it.
        if (context.Request.Headers.ContainsKey("Content-Range"))
        {
            await request.SayAsync(StatusCodes.Status400BadRequest, "A file is written whole. Nothing was taken.");
            return;
        }
        if (await request.IsLockedAsync(isMember: request.Node is null))
            return;
        if (!request.PreconditionsHold())
        {
            await request.SayAsync(StatusCodes.Status412PreconditionFailed, "It is not what it was any more. Nothing was taken.");
            return;
        }
        if (
            await ShareFiles.RefusalBeforeAsync(
                request.Db,
                request.ProjectId!.Value,
                request.Place.Path!,
                context.Request.ContentLength,
                request.Cancel
            ) is
            { } refusal
        )
        {
            await request.SayAsync(refusal);
            return;
        }
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
            limit.MaxRequestBodySize = null;
        var put = await files.PutAsync(
            request.Actor,
            request.ProjectId!.Value,
            request.Place.Path!,
            context.Request.Body,
            request.HoldsAsync,
            request.Cancel
        );
        if (!put.Done)
        {
            await request.SayAsync(put.Refusal);
            return;
        }
        context.Response.Headers.ETag = ShareRequest.TagOf(put.Result.Hash!.Value).ToString();
        await request.SayAsync(put.Result.IsNew ? StatusCodes.Status201Created : StatusCodes.Status204NoContent);
    }
}

/// <summary>DELETE: takes a file or a folder off the share (RFC 4918, 9.6).</summary>
public sealed class DeleteMethod(ShareFiles files) : IShareMethod
{
    public async Task AnswerAsync(ShareRequest request)
    {
        if (request.IsTop)
        {
            await request.SayAsync(StatusCodes.Status403Forbidden, "A project is deleted on its own page.");
            return;
        }
        if (request.Node is null)
        {
            await request.SayAsync(StatusCodes.Status404NotFound, "Nothing stands there.");
            return;
        }
        if (await request.IsLockedAsync(isMember: true, isTree: true))
            return;
        if (!request.PreconditionsHold())
        {
            await request.SayAsync(StatusCodes.Status412PreconditionFailed, "It is not what it was any more. Nothing was deleted.");
            return;
        }
        var gone = await files.DeleteAsync(
            request.Actor,
            request.ProjectId!.Value,
            request.Place.Path!,
            request.HoldsAsync,
            request.Cancel
        );
        if (!gone.Done)
        {
            await request.SayAsync(gone.Refusal);
            return;
        }
        request.Locks.Drop(request.ProjectId.Value, request.Place.Path!);
        await request.SayAsync(StatusCodes.Status204NoContent);
    }
}

/// <summary>MKCOL: makes a folder (RFC 4918, 9.3).</summary>
public sealed class MkColMethod(ShareFiles files) : IShareMethod
{
    public async Task AnswerAsync(ShareRequest request)
    {
        if (request.IsTop || request.Node is not null)
        {
            await request.SayAsync(
                request.IsTop && request.Node is null ? StatusCodes.Status403Forbidden : StatusCodes.Status405MethodNotAllowed,
                "Something stands there already; a project is started in the browser."
            );
            return;
        }
        // A body would say what kind of folder, which nothing here understands.
        if (request.Context.Request.ContentLength > 0 || request.Context.Request.Headers.TransferEncoding.Count > 0)
        {
            await request.SayAsync(StatusCodes.Status415UnsupportedMediaType, "A folder is made without a body.");
            return;
        }
        if (await request.IsLockedAsync(isMember: true))
            return;
        var made = await files.MakeFolderAsync(request.Actor, request.ProjectId!.Value, request.Place.Path!, request.Cancel);
        if (made.Done)
            await request.SayAsync(StatusCodes.Status201Created);
        else
            await request.SayAsync(made.Refusal);
    }
}

/// <summary>COPY: a second of a file or a folder (RFC 4918, 9.8).</summary>
public sealed class CopyMethod(ShareFiles files) : IShareMethod
{
    public async Task AnswerAsync(ShareRequest request)
    {
        if (await Destination.OfAsync(request) is not { } to || await to.At.IsLockedAsync(isMember: to.At.Node is null, isTree: true))
            return;
        var depth = request.Context.Request.Headers["Depth"].ToString();
        if (depth.Length > 0 && depth is not ("0" or "infinity"))
        {
            await request.SayAsync(StatusCodes.Status400BadRequest, "A copy is of depth 0 or infinity.");
            return;
        }
        var copied = to.IsOther
            ? await to.AcrossAsync(files, isMove: false)
            : await files.CopyAsync(
                request.Actor,
                request.ProjectId!.Value,
                request.Place.Path!,
                to.At.Place.Path!,
                depth != "0",
                to.Overwrites,
                request.HoldsAsync,
                request.Cancel
            );
        if (copied.Done)
            await request.SayAsync(copied.Result.IsNew ? StatusCodes.Status201Created : StatusCodes.Status204NoContent);
        else
            await request.SayAsync(copied.Refusal, StatusCodes.Status412PreconditionFailed);
    }
}

/// <summary>MOVE: moves or renames a file or a folder (RFC 4918, 9.9).</summary>
public sealed class MoveMethod(ShareFiles files) : IShareMethod
{
    public async Task AnswerAsync(ShareRequest request)
    {
        if (await Destination.OfAsync(request) is not { } to)
            return;
        if (
            await request.IsLockedAsync(isMember: true, isTree: true)
            || await to.At.IsLockedAsync(isMember: to.At.Node is null, isTree: true)
        )
            return;
        var moved = to.IsOther
            ? await to.AcrossAsync(files, isMove: true)
            : await files.MoveAsync(
                request.Actor,
                request.ProjectId!.Value,
                request.Place.Path!,
                to.At.Place.Path!,
                to.Overwrites,
                request.HoldsAsync,
                request.Cancel
            );
        if (!moved.Done)
        {
            await request.SayAsync(moved.Refusal, StatusCodes.Status412PreconditionFailed);
            return;
        }
        // RFC 4918, 7.6: a lock stays behind when what it was on goes.
        request.Locks.Drop(request.ProjectId!.Value, request.Place.Path!);
        await request.SayAsync(moved.Result.IsNew ? StatusCodes.Status201Created : StatusCodes.Status204NoContent);
    }
}
