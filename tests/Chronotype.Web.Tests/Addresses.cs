using System.Reflection;
using System.Text;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.AspNetCore.Routing;
using Microsoft.AspNetCore.Routing.Patterns;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Web.Tests;

/// <summary>A request that the server knows how to answer.</summary>
/// <param name="Route">As it stands in the route table.</param>
/// <param name="Method">Of HTTP.</param>
/// <param name="Path">With something that is there in the place of each of its parts.</param>
/// <param name="Fields">Of its form, or of its query: all that its handler takes, of something that is there.</param>
/// <param name="IsPage">A page answers it.</param>
/// <param name="IsOfProject">It names a project, or something in one.</param>
internal sealed record Asked(
    string Route,
    string Method,
    string Path,
    IReadOnlyDictionary<string, string> Fields,
    bool IsPage,
    bool IsOfProject
)
{
    public override string ToString() => $"{Method} {Path}";
}

/// <summary>All that the server answers to, from its route table, with the ids of a studio's project.</summary>
internal sealed class Addresses
{
    private readonly Dictionary<string, string> values;
    private readonly Dictionary<string, string> pieces;

    private Addresses(Dictionary<string, string> values, Dictionary<string, string> pieces) =>
        (this.values, this.pieces) = (values, pieces);

    /// <summary>Fields whose names say of what they are; another one that takes an id has to be added here.</summary>
    public static async Task<Addresses> OfAsync(ServedStudio studio, string project)
    {
        var (piece, saves, line, entries, person, job, milestone, shared, run) = await studio.Read(async db =>
        {
            var it = await db.Projects.SingleAsync(p => p.Code == project);
            var first = await db.Pieces.FirstAsync(p => p.ProjectId == it.Id);
            return (
                first,
                await db.Saves.Where(s => s.PieceId == first.Id).OrderBy(s => s.Sequence).Select(s => s.Id).ToListAsync(),
                await db.Lines.Where(l => l.PieceId == first.Id).Select(l => l.Id).FirstAsync(),
                await db.Entries.Where(e => e.ProjectId == it.Id && e.Kind == EntryKind.OwnFile).ToListAsync(),
                await db.Users.Where(u => u.Initials == "IK").Select(u => u.Id).SingleAsync(),
                await db.Jobs.Select(j => j.Id).FirstOrDefaultAsync(),
                await db.Milestones.Select(m => m.Id).FirstOrDefaultAsync(),
                await db.SharedFiles.Where(f => f.ProjectId == it.Id).Select(f => f.Id).FirstOrDefaultAsync(),
                await db.RenameRuns.Where(r => r.ProjectId == it.Id).Select(r => r.Id).FirstOrDefaultAsync()
            );
        });
        var entry = entries.First(e => e.DeletedAt is null).Id.ToString();
        var save = saves[0].ToString();
        return new Addresses(
            new()
            {
                ["project"] = project,
                ["save"] = save,
                ["a"] = save,
                ["b"] = saves[^1].ToString(),
                ["with"] = saves[^1].ToString(),
                ["target"] = entry,
                ["holder"] = entry,
                ["entries"] = entry,
                ["before"] = save,
                ["after"] = saves[^1].ToString(),
                ["other"] = saves[^1].ToString(),
                ["id"] = save,
                ["ids"] = entry,
                ["entry"] = entry,
                ["file"] = entry,
                ["face"] = save,
                ["line"] = line.ToString(),
                ["alt"] = line.ToString(),
                ["run"] = run.ToString(),
                ["person"] = person.ToString(),
                ["key"] = person.ToString(),
                ["session"] = person.ToString(),
                ["projects"] = save,
                ["milestone"] = milestone.ToString(),
                ["waiting"] = shared.ToString(),
                ["shared"] = shared.ToString(),
                ["arrived"] = shared.ToString(),
                ["job"] = job.ToString(System.Globalization.CultureInfo.InvariantCulture),
            },
            new()
            {
                ["name"] = piece.CurrentName,
                ["id"] = piece.Id.ToString(),
                ["project"] = piece.ProjectId.ToString(),
            }
        );
    }

    /// <summary>Every method and handler of every address but those of the share.</summary>
    public async Task<List<Asked>> AllAsync(ServedStudio studio)
    {
        var all = new List<Asked>();
        var loader = studio.App.Services.GetRequiredService<PageLoader>();
        foreach (var endpoint in studio.App.Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>())
        {
            var route = endpoint.RoutePattern.RawText!;
            if (route.StartsWith("/share", StringComparison.Ordinal))
                continue;
            var path = Path(endpoint.RoutePattern);
            var isOfProject = endpoint.RoutePattern.Parameters.Any(p => p.Name is "project" or "piece" or "id" or "entry");
            if (endpoint.Metadata.GetMetadata<PageActionDescriptor>() is { } page)
            {
                var compiled = await loader.LoadAsync(page, EndpointMetadataCollection.Empty);
                foreach (var handler in compiled.HandlerMethods)
                {
                    var fields = new Dictionary<string, string>();
                    foreach (var parameter in handler.Parameters)
                        Fill(fields, parameter.Name, parameter.ParameterType, route);
                    var query = handler.Name is { } name ? $"?handler={name}" : "";
                    all.Add(new Asked(route, handler.HttpMethod.ToUpperInvariant(), path + query, fields, true, isOfProject));
                }
                continue;
            }
            var methods = endpoint.Metadata.GetMetadata<IHttpMethodMetadata>()?.HttpMethods ?? ["GET"];
            var taken = new Dictionary<string, string>();
            foreach (var parameter in endpoint.Metadata.GetMetadata<MethodInfo>()?.GetParameters() ?? [])
                if (endpoint.RoutePattern.Parameters.All(p => p.Name != parameter.Name))
                    Fill(taken, parameter.Name!, parameter.ParameterType, route);
            all.AddRange(methods.Select(m => new Asked(route, m, path, taken, false, isOfProject)));
        }
        return [.. all.DistinctBy(a => (a.Method, a.Path))];
    }

    private void Fill(Dictionary<string, string> fields, string name, Type type, string route)
    {
        type = Nullable.GetUnderlyingType(type) ?? type;
        if (type == typeof(Guid) || type == typeof(Guid[]))
        {
            var isSaid = name is "piece" or "project" or "planFor" || values.ContainsKey(name);
            Assert.True(isSaid, $"No one has said what {name} of {route} is, so that nobody asks for it.");
            fields[name] = name switch
            {
                "piece" => pieces["id"],
                "project" or "planFor" => pieces["project"],
                _ => values[name],
            };
        }
        else if (type == typeof(long) && name == "id")
            fields[name] = values["job"];
        else if (type == typeof(string))
            fields[name] = values.GetValueOrDefault(name, "something");
        else if (type == typeof(bool))
            fields[name] = "true";
        else if (type.IsPrimitive)
            fields[name] = "1";
        else if (type.IsEnum)
            fields[name] = Enum.GetNames(type)[0];
    }

    private string Path(RoutePattern pattern)
    {
        var text = new StringBuilder();
        foreach (var segment in pattern.PathSegments)
        {
            text.Append('/');
            foreach (var part in segment.Parts)
                text.Append(
                    part switch
                    {
                        RoutePatternLiteralPart literal => literal.Content,
                        RoutePatternParameterPart parameter => (
                            parameter.Name,
                            parameter.ParameterPolicies.Any(p => p.Content == "guid")
                        ) switch
                        {
                            ("piece", true) => pieces["id"],
                            ("piece", false) => pieces["name"],
                            ("side", _) => "480",
                            ("folder", _) => "",
                            ("id", true) when pattern.RawText!.StartsWith("/files", StringComparison.Ordinal) => values["entry"],
                            (var name, _) when values.TryGetValue(name, out var value) => value,
                            (_, true) => throw new InvalidOperationException(
                                $"No one has said what {parameter.Name} of {pattern.RawText} is."
                            ),
                            _ => "0",
                        },
                        _ => throw new InvalidOperationException($"No one has said what stands at {part} of {pattern.RawText}."),
                    }
                );
        }
        return text.Length == 0 ? "/" : text.ToString();
    }
}
