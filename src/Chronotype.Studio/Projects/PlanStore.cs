using System.Collections.Concurrent;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Projects;

/// <summary>A plan that projects can start with.</summary>
/// <param name="IsUsual">Every studio begins with one of this key.</param>
/// <param name="Record">What the studio made of it; null for a usual one that nobody changed.</param>
public sealed record KnownPlan(FolderPlan Plan, bool IsUsual, StudioPlan? Record)
{
    /// <summary>A usual one that the studio has changed.</summary>
    public bool IsChanged => IsUsual && Record?.File is not null;
}

/// <summary>The folder plans of the studio, and of each project: the one that it began with.</summary>
public sealed class PlanStore(StudioDb db)
{
    /// <summary>The list of codes that a plan's functions are on.</summary>
    public const string FunctionList = "function";

    /// <summary>Stands in addresses for a plan that is not there yet.</summary>
    public const string NewPlan = "new";

    private const int MostRemembered = 64;

    private static readonly ConcurrentDictionary<string, FolderPlan> Remembered = [];

    /// <summary>The plan that a project began with, as it was then.</summary>
    public static FolderPlan Of(Project project) => Of(project.Plan, project.PlanFile);

    /// <inheritdoc cref="Of(Project)"/>
    /// <param name="key"><see cref="Project.Plan"/>.</param>
    /// <param name="file"><see cref="Project.PlanFile"/>.</param>
    public static FolderPlan Of(string key, string? file) => file is null ? FolderPlan.Of(key) : Read(file);

    /// <summary>What a project's files must be, as it is said now.</summary>
    public static ProjectSpec SpecOf(Project project) =>
        project.Spec is null ? new ProjectSpec() : RecordJson.Read<ProjectSpec>(project.Spec);

    /// <summary>Those that projects can start with: the usual ones, then the studio's own by title.</summary>
    public async Task<IReadOnlyList<KnownPlan>> AllAsync(CancellationToken cancel = default)
    {
        var records = await db.Plans.AsNoTracking().ToListAsync(cancel);
        return [.. Known(records).Where(p => p.Record?.RemovedAt is null)];
    }

    /// <summary>Those that were taken off the list.</summary>
    public async Task<IReadOnlyList<KnownPlan>> RemovedAsync(CancellationToken cancel = default)
    {
        var records = await db.Plans.AsNoTracking().Where(p => p.RemovedAt != null).ToListAsync(cancel);
        return [.. Known(records).Where(p => p.Record?.RemovedAt is not null)];
    }

    /// <summary>A key that no plan has, from what it is to be called.</summary>
    public async Task<string> FreeKeyAsync(string title, CancellationToken cancel = default)
    {
        var plain = string.Join('-', Words.Split(title, Scripts.None));
        var key = plain.Length > 0 && char.IsAsciiLetterLower(plain[0]) ? plain : $"plan-{plain}".TrimEnd('-');
        key = key[..Math.Min(key.Length, PlanRules.MaxKey - 4)].TrimEnd('-');
        var taken = (await db.Plans.Select(p => p.Key).ToListAsync(cancel)).Concat(FolderPlan.All.Select(p => p.Key)).Append(NewPlan);
        return Enumerable.Range(1, int.MaxValue).Select(n => n == 1 ? key : $"{key}-{n}").First(k => !taken.Contains(k));
    }

    /// <returns>Null where there is none of the key, or it was taken off the list.</returns>
    public async Task<KnownPlan?> FindAsync(string key, CancellationToken cancel = default) =>
        (await AllAsync(cancel)).FirstOrDefault(p => p.Plan.Key == key);

    /// <summary>
    /// A plan made from a project as it stands: its folders now, its functions with those that its pieces have besides, its spec and its
    /// convention.
    /// </summary>
    public async Task<FolderPlan> AsItStandsAsync(Project project, CancellationToken cancel = default)
    {
        var plan = Of(project);
        var folders = await db
            .Entries.AsNoTracking()
            .Where(e => e.ProjectId == project.Id && e.Kind == EntryKind.Folder && e.DeletedAt == null)
            .OrderBy(e => e.Order)
            .ThenBy(e => e.PathKey)
            .Select(e => new
            {
                e.Path,
                e.Role,
                e.Purpose,
            })
            .ToListAsync(cancel);
        var convention = ConventionStore.Read(project.Convention);
        var named = convention.Slots.Where(s => s.Rule is CodeRule { List: FunctionList }).Select(s => s.Label).ToList();
        var used = (await db.Pieces.AsNoTracking().Where(p => p.ProjectId == project.Id).ToListAsync(cancel))
            .SelectMany(p => named.Select(label => PieceNames.SlotsOf(p).GetValueOrDefault(label, "")))
            .ToHashSet();
        var more = await db
            .Codes.AsNoTracking()
            .Where(c => c.List == FunctionList && used.Contains(c.Code))
            .OrderBy(c => c.Code)
            .ToListAsync(cancel);
        return plan with
        {
            Folders = FolderPlan.InOrder([.. folders.Select(f => new PlanFolder(f.Path, f.Role, f.Purpose))]),
            Functions =
            [
                .. plan.Functions,
                .. more.Where(c => plan.Functions.All(f => f.Code != c.Code)).Select(c => new FunctionCode(c.Code, c.Meaning)),
            ],
            Keep = project.Keep,
            Spec = SpecOf(project),
            Convention = convention,
            Reserved = [],
        };
    }

    private static IEnumerable<KnownPlan> Known(IReadOnlyList<StudioPlan> records)
    {
        var byKey = records.ToDictionary(r => r.Key);
        foreach (var usual in FolderPlan.All)
        {
            var record = byKey.GetValueOrDefault(usual.Key);
            yield return new KnownPlan(record?.File is { } file ? Read(file) : usual, true, record);
        }
        foreach (
            var own in records
                .Where(r => r.File is not null && FolderPlan.All.All(u => u.Key != r.Key))
                .Select(r => new KnownPlan(Read(r.File!), false, r))
                .OrderBy(p => p.Plan.Title, StringComparer.CurrentCultureIgnoreCase)
        )
            yield return own;
    }

    private static FolderPlan Read(string file)
    {
        if (Remembered.TryGetValue(file, out var known))
            return known;
        if (Remembered.Count >= MostRemembered)
            Remembered.Clear();
        return Remembered[file] =
            PlanFile.Read(file).Plan ?? throw new InvalidOperationException("A folder plan in the records cannot be read.");
    }
}
