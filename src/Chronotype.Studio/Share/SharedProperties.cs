using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Share;

/// <summary>A property that is to be set, or, without XML, removed.</summary>
/// <param name="Name">The namespace in braces, and the local name.</param>
public sealed record PropertyChange(string Name, string? Xml);

/// <summary>
/// What programs note about what stands on the share (RFC 4918, 4): kept as they wrote it, moved and copied with it. Nothing here is read
/// for anything else.
/// </summary>
public sealed class SharedProperties(DeedRunner deeds)
{
    /// <summary>The most that one file or folder has.</summary>
    public const int Most = 1_000;

    /// <summary>The longest, in characters.</summary>
    public const int MaxLength = 64 << 10;

    /// <param name="keys">Of paths.</param>
    public static async Task<ILookup<string, SharedProperty>> OfAsync(
        StudioDb db,
        Guid projectId,
        IReadOnlyList<string> keys,
        CancellationToken cancel = default
    )
    {
        var found = new List<SharedProperty>();
        foreach (var some in keys.Chunk(500))
            found.AddRange(
                await db
                    .SharedProperties.AsNoTracking()
                    .Where(p => p.ProjectId == projectId && some.Contains(p.PathKey))
                    .ToListAsync(cancel)
            );
        return found.ToLookup(p => p.PathKey);
    }

    /// <summary>Does all changes, in order, or none.</summary>
    /// <param name="path">Null for the project's top.</param>
    public Task<Outcome<Done>> ChangeAsync(
        Actor actor,
        Guid projectId,
        ProjectPath? path,
        IReadOnlyList<PropertyChange> changes,
        CancellationToken cancel = default
    ) =>
        deeds.DoAsync<Done>(
            actor,
            Right.Work,
            async deed =>
            {
                var key = path?.Key ?? "";
                var there = await deed
                    .Db.SharedProperties.Where(p => p.ProjectId == projectId && p.PathKey == key)
                    .ToDictionaryAsync(p => p.Name, cancel);
                foreach (var (name, xml) in changes)
                {
                    if (there.TryGetValue(name, out var old))
                    {
                        if (xml is not null)
                            old.Xml = xml;
                        else if (there.Remove(name))
                            deed.Db.SharedProperties.Remove(old);
                    }
                    else if (xml is not null)
                    {
                        if (there.Count >= Most || xml.Length > MaxLength)
                            return new Refusal.TooManyAtOnce(Most);
                        there[name] = new SharedProperty
                        {
                            ProjectId = projectId,
                            PathKey = key,
                            Name = name,
                            Xml = xml,
                        };
                        deed.Db.SharedProperties.Add(there[name]);
                    }
                }
                return Done.It;
            },
            cancel
        );

    internal static async Task CopyAsync(StudioDb db, Guid projectId, ProjectPath from, ProjectPath to, CancellationToken cancel)
    {
        await db.SharedProperties.Where(p => p.ProjectId == projectId && p.PathKey == to.Key).ExecuteDeleteAsync(cancel);
        foreach (
            var property in await db
                .SharedProperties.AsNoTracking()
                .Where(p => p.ProjectId == projectId && p.PathKey == from.Key)
                .ToListAsync(cancel)
        )
            db.SharedProperties.Add(
                new SharedProperty
                {
                    ProjectId = projectId,
                    PathKey = to.Key,
                    Name = property.Name,
                    Xml = property.Xml,
                }
            );
    }

    /// <summary>Has what stands in another project have the properties that something has here; those of what it takes the place of go.</summary>
    internal static async Task TakeAcrossAsync(
        StudioDb db,
        (Guid Project, ProjectPath Path) from,
        (Guid Project, ProjectPath Path) to,
        CancellationToken cancel
    )
    {
        await ForgetAsync(db, to.Project, to.Path, cancel);
        foreach (
            var property in await db
                .SharedProperties.AsNoTracking()
                .Where(p => p.ProjectId == from.Project && p.PathKey == from.Path.Key)
                .ToListAsync(cancel)
        )
            db.SharedProperties.Add(
                new SharedProperty
                {
                    ProjectId = to.Project,
                    PathKey = to.Path.Key,
                    Name = property.Name,
                    Xml = property.Xml,
                }
            );
    }

    internal static async Task MoveAsync(StudioDb db, Guid projectId, ProjectPath from, ProjectPath to, CancellationToken cancel)
    {
        if (from.Key == to.Key)
            return;
        await ForgetAsync(db, projectId, to, cancel);
        foreach (var property in await Under(db, projectId, from).ToListAsync(cancel))
            property.PathKey = to.Key + property.PathKey[from.Key.Length..];
    }

    internal static Task<int> ForgetAsync(StudioDb db, Guid projectId, ProjectPath path, CancellationToken cancel) =>
        Under(db, projectId, path).ExecuteDeleteAsync(cancel);

    private static IQueryable<SharedProperty> Under(StudioDb db, Guid projectId, ProjectPath path)
    {
        var (key, from, to) = (path.Key, path.Key + "/", path.Key + "0");
        return db.SharedProperties.Where(p =>
            p.ProjectId == projectId && (p.PathKey == key || (string.Compare(p.PathKey, from) > 0 && string.Compare(p.PathKey, to) < 0))
        );
    }
}
