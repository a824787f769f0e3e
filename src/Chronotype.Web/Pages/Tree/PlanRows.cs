using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Tree;

/// <summary>A folder of a project's plan as it is laid out.</summary>
/// <param name="Files">How many files stand in it, those in its folders not counted.</param>
public sealed record PlanRow(Guid Id, ProjectPath Path, FolderRole Role, string Purpose, int Files, bool IsHere)
{
    public int Depth => Path.Depth;

    /// <summary>What a folder is for, in a word.</summary>
    public string RoleName => RoleNameOf(Role);

    public static string RoleNameOf(FolderRole role) => (role.IsWorking() ? FolderRole.Working : role).ToString().ToLowerInvariant();
}

/// <summary>Loads a project's folders in the plan's order, each before what lies in it.</summary>
public static class PlanRows
{
    /// <summary>With more folders than this, those that are neither near the one that is looked at nor at the top are left out.</summary>
    private const int MostOpen = 80;

    /// <param name="here">The folder that is looked at; null for the top.</param>
    /// <param name="isWhole">None is left out, however many there are.</param>
    public static async Task<IReadOnlyList<PlanRow>> LoadAsync(
        StudioDb db,
        Guid projectId,
        ProjectPath? here,
        bool isWhole,
        CancellationToken cancel
    )
    {
        var there = db.Entries.AsNoTracking().Where(e => e.ProjectId == projectId && e.DeletedAt == null);
        var folders = await there
            .Where(e => e.Kind == EntryKind.Folder)
            .Select(e => new
            {
                e.Id,
                e.Path,
                e.PathKey,
                e.FolderKey,
                e.Role,
                e.Purpose,
                e.Order,
            })
            .ToListAsync(cancel);
        if (folders.Count > MostOpen && !isWhole)
        {
            var open = new HashSet<string> { "" };
            for (var at = here; at is not null; at = at.Folder)
                open.Add(at.Key);
            folders.RemoveAll(f => !open.Contains(f.FolderKey));
        }
        var counts = await there
            .Where(e => e.Kind != EntryKind.Folder)
            .GroupBy(e => e.FolderKey)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        var within = folders.OrderBy(f => f.Order).ThenBy(f => f.PathKey, StringComparer.Ordinal).ToLookup(f => f.FolderKey);
        var rows = new List<PlanRow>();
        Walk("");
        return rows;

        void Walk(string key)
        {
            foreach (var f in within[key])
            {
                rows.Add(new PlanRow(f.Id, f.Path, f.Role, f.Purpose, counts.GetValueOrDefault(f.PathKey), f.PathKey == here?.Key));
                Walk(f.PathKey);
            }
        }
    }
}
