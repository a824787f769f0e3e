using System.Globalization;
using System.Xml.Linq;
using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Share;
using Microsoft.AspNetCore.StaticFiles;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Share;

/// <summary>PROPFIND: what stands there, and what is in it (RFC 4918, 9.1 and 15).</summary>
public sealed class PropFindMethod : IShareMethod
{
    private static readonly FileExtensionContentTypeProvider Types = new();
    private static readonly XNamespace Dav = DavXml.Dav;

    private static readonly XName[] Live =
    [
        Dav + "creationdate",
        Dav + "displayname",
        Dav + "getcontentlength",
        Dav + "getcontenttype",
        Dav + "getetag",
        Dav + "getlastmodified",
        Dav + "lockdiscovery",
        Dav + "resourcetype",
        Dav + "supportedlock",
    ];

    /// <summary>Whether a property follows from what stands there, and cannot be given.</summary>
    public static bool IsLive(XName name) => Live.Contains(name) && name != Dav + "displayname";

    /// <summary>The media type by a file's name (RFC 6838); a program's own where it is not known.</summary>
    public static string MediaType(string name) => Types.TryGetContentType(name, out var type) ? type : "application/octet-stream";

    public async Task AnswerAsync(ShareRequest request)
    {
        var depth = request.Context.Request.Headers["Depth"].ToString();
        if (depth is not ("0" or "1"))
        {
            // RFC 4918, 9.1: a server need not go through all of a tree at once.
            await DavXml.WriteAsync(
                request.Context,
                StatusCodes.Status403Forbidden,
                new XElement(Dav + "error", new XElement(Dav + "propfind-finite-depth")),
                request.Cancel
            );
            return;
        }
        var body = await DavXml.ReadAsync(request.Context.Request, request.Cancel);
        if (body is not null && (body.Name != Dav + "propfind" || Asked(body) is null))
        {
            await request.SayAsync(StatusCodes.Status400BadRequest, "The body asks for no properties.");
            return;
        }
        var isTop = request.IsTop && request.Place.Project is null;
        if (request.Node is null && !isTop)
        {
            await request.SayAsync(StatusCodes.Status404NotFound, "Nothing stands there.");
            return;
        }
        var responses = isTop ? await OfTopAsync(request, body, depth) : await OfProjectAsync(request, body, depth);
        await DavXml.WriteAsync(request.Context, StatusCodes.Status207MultiStatus, DavXml.Multistatus(responses), request.Cancel);
    }

    private static async Task<IEnumerable<XElement>> OfTopAsync(ShareRequest request, XElement? body, string depth)
    {
        var projects =
            depth == "1"
                ? await request
                    .Db.Projects.Where(p => p.DeletedAt == null)
                    .OrderBy(p => p.Code)
                    .Select(p => new
                    {
                        p.Id,
                        p.Code,
                        p.StartedAt,
                    })
                    .ToListAsync(request.Cancel)
                : [];
        var top = new ShareNode(
            null,
            null,
            0,
            projects.Select(p => p.StartedAt).DefaultIfEmpty(DateTimeOffset.UnixEpoch).Max(),
            null,
            null
        );
        return
        [
            Response(request, new SharePlace(null, null), null, top, [], body),
            .. projects.Select(p =>
                Response(request, new SharePlace(p.Code, null), p.Id, new ShareNode(null, null, 0, p.StartedAt, null, null), [], body)
            ),
        ];
    }

    private static async Task<IEnumerable<XElement>> OfProjectAsync(ShareRequest request, XElement? body, string depth)
    {
        var (project, node) = (request.ProjectId!.Value, request.Node!);
        var nodes = new List<ShareNode> { node };
        if (depth == "1" && node.IsFolder)
            nodes.AddRange(await new ShareTree(request.Db, project).ListAsync(node, request.Cancel));
        var own = await request.Db.SharedProperties.AnyAsync(p => p.ProjectId == project, request.Cancel)
            ? await SharedProperties.OfAsync(request.Db, project, [.. nodes.Select(n => n.Path?.Key ?? "")], request.Cancel)
            : Array.Empty<SharedProperty>().ToLookup(p => p.PathKey);
        // Each is made as it is written.
        return nodes.Select(n =>
            Response(request, new SharePlace(request.Place.Project, n.Path), project, n, own[n.Path?.Key ?? ""], body)
        );
    }

    // What is asked for: null for all, and the names alone where these are.
    private static (IReadOnlyList<XName>? Names, bool AreNamesAlone)? Asked(XElement body)
    {
        if (body.Element(Dav + "propname") is not null)
            return (null, true);
        if (body.Element(Dav + "allprop") is not null)
            return (null, false);
        return body.Element(Dav + "prop") is { } prop ? ([.. prop.Elements().Select(e => e.Name)], false) : null;
    }

    private static XElement Response(
        ShareRequest request,
        SharePlace place,
        Guid? project,
        ShareNode node,
        IEnumerable<SharedProperty> own,
        XElement? body
    )
    {
        var (names, areNamesAlone) = body is null ? (null, false) : Asked(body)!.Value;
        var given = own.ToDictionary(p => p.Name);
        var (found, missing) = (new List<object>(), new List<object>());
        foreach (var name in names ?? Live)
        {
            if (given.TryGetValue(DavXml.NameOf(name), out var held))
                found.Add(XElement.Parse(held.Xml, LoadOptions.PreserveWhitespace));
            else if (Value(request, place, project, node, name) is { } value)
                found.Add(value);
            else if (names is not null)
                missing.Add(new XElement(name));
        }
        if (names is null)
            found.AddRange(
                given
                    .Values.Where(p => !Live.Any(l => DavXml.NameOf(l) == p.Name))
                    .Select(p => XElement.Parse(p.Xml, LoadOptions.PreserveWhitespace))
            );
        if (areNamesAlone)
            found = [.. found.OfType<XElement>().Select(e => new XElement(e.Name))];
        var response = new XElement(Dav + "response", new XElement(Dav + "href", place.Href(node.IsFolder)));
        if (found.Count > 0 || missing.Count == 0)
            response.Add(new XElement(Dav + "propstat", new XElement(Dav + "prop", found), DavXml.Status(StatusCodes.Status200OK)));
        if (missing.Count > 0)
            response.Add(new XElement(Dav + "propstat", new XElement(Dav + "prop", missing), DavXml.Status(StatusCodes.Status404NotFound)));
        return response;
    }

    private static XElement? Value(ShareRequest request, SharePlace place, Guid? project, ShareNode node, XName name)
    {
        if (name.Namespace != Dav)
            return null;
        return name.LocalName switch
        {
            "creationdate" => new XElement(
                name,
                (node.Entry?.StandsSince ?? node.ChangedAt).UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ssZ", CultureInfo.InvariantCulture)
            ),
            "displayname" => new XElement(name, place.Path?.Name ?? place.Project ?? "share"),
            "getcontentlength" when !node.IsFolder => new XElement(name, node.Size),
            "getcontenttype" when !node.IsFolder => new XElement(name, MediaType(node.Path!.Name)),
            "getetag" when !node.IsFolder => new XElement(name, ShareRequest.TagOf(node)!.ToString()),
            "getlastmodified" => new XElement(name, node.ChangedAt.ToString("R", CultureInfo.InvariantCulture)),
            "resourcetype" => new XElement(name, node.IsFolder ? new XElement(Dav + "collection") : null),
            "supportedlock" => new XElement(name, Supported("exclusive"), Supported("shared")),
            "lockdiscovery" => new XElement(
                name,
                project is { } id ? request.Locks.Of(id, place.Path).Select(l => LockMethod.Active(l, place.Project!)) : []
            ),
            _ => null,
        };

        static XElement Supported(string scope) =>
            new(
                Dav + "lockentry",
                new XElement(Dav + "lockscope", new XElement(Dav + scope)),
                new XElement(Dav + "locktype", new XElement(Dav + "write"))
            );
    }
}

/// <summary>PROPPATCH: what a program notes about a file (RFC 4918, 9.2).</summary>
public sealed class PropPatchMethod(SharedProperties properties) : IShareMethod
{
    public async Task AnswerAsync(ShareRequest request)
    {
        if (request.ProjectId is not { } project || request.Node is not { } node)
        {
            await request.SayAsync(
                request.Place.Project is null ? StatusCodes.Status403Forbidden : StatusCodes.Status404NotFound,
                "Nothing stands there that could be noted about."
            );
            return;
        }
        if (await DavXml.ReadAsync(request.Context.Request, request.Cancel) is not { } body || body.Name != DavXml.Dav + "propertyupdate")
        {
            await request.SayAsync(StatusCodes.Status400BadRequest, "The body changes no properties.");
            return;
        }
        if (await request.IsLockedAsync(isMember: false))
            return;
        var asked = body.Elements()
            .Where(e => e.Name == DavXml.Dav + "set" || e.Name == DavXml.Dav + "remove")
            .SelectMany(e => e.Elements(DavXml.Dav + "prop").Elements().Select(p => (Property: p, IsSet: e.Name.LocalName == "set")))
            .ToList();
        // All or none of it is done.
        var wrong = asked.Where(a => PropFindMethod.IsLive(a.Property.Name)).Select(a => a.Property.Name).ToHashSet();
        if (wrong.Count == 0)
        {
            var done = await properties.ChangeAsync(
                request.Actor,
                project,
                node.Path,
                [.. asked.Select(a => new PropertyChange(DavXml.NameOf(a.Property.Name), a.IsSet ? Written(a.Property) : null))],
                request.Cancel
            );
            if (!done.Done)
            {
                await request.SayAsync(done.Refusal);
                return;
            }
        }
        var response = new XElement(DavXml.Dav + "response", new XElement(DavXml.Dav + "href", request.Place.Href(node.IsFolder)));
        foreach (var (property, _) in asked.DistinctBy(a => a.Property.Name))
            response.Add(
                new XElement(
                    DavXml.Dav + "propstat",
                    new XElement(DavXml.Dav + "prop", new XElement(property.Name)),
                    DavXml.Status(
                        wrong.Count == 0 ? StatusCodes.Status200OK
                        : wrong.Contains(property.Name) ? StatusCodes.Status403Forbidden
                        : StatusCodes.Status424FailedDependency
                    )
                )
            );
        await DavXml.WriteAsync(request.Context, StatusCodes.Status207MultiStatus, DavXml.Multistatus([response]), request.Cancel);
    }

    // With the language that holds for it (RFC 4918, 4.3).
    private static string Written(XElement property)
    {
        var copy = new XElement(property);
        var language = property.AncestorsAndSelf().Select(a => a.Attribute(XNamespace.Xml + "lang")).FirstOrDefault(a => a is not null);
        if (language is not null)
            copy.SetAttributeValue(XNamespace.Xml + "lang", language.Value);
        return copy.ToString(SaveOptions.DisableFormatting);
    }
}
