using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>What of a project is to be mended, or looked at.</summary>
/// <param name="Broken">References that lead nowhere, are absolute, or lead out of the project; each file's together.</param>
/// <param name="Misspelt">References that are found only where cases are not told apart.</param>
/// <param name="OffConvention">Pieces whose name the project's convention does not read.</param>
/// <param name="Unused">Some of the assets that nothing that can be read refers to, nor did any kept version.</param>
/// <param name="UnusedCount">How many there are.</param>
/// <param name="Closed">Of so many pieces nobody knows what they refer to.</param>
/// <param name="Strays">Files that stand in no folder.</param>
/// <param name="AtRisk">Pieces whose saves are not all kept.</param>
/// <param name="OffSpec">Files that are not what the project's files must be.</param>
public sealed record HealthReport(
    IReadOnlyList<CurrentLink> Broken,
    IReadOnlyList<CurrentLink> Misspelt,
    IReadOnlyList<string> OffConvention,
    IReadOnlyList<(Guid Id, ProjectPath Path)> Unused,
    int UnusedCount,
    int Closed,
    IReadOnlyList<(Guid Id, ProjectPath Path)> Strays,
    IReadOnlyList<string> AtRisk,
    IReadOnlyList<OffSpec> OffSpec
)
{
    /// <summary>How many things are to be mended; what is only to be known is not among them.</summary>
    public int ToMend => Broken.Count + Misspelt.Count + OffConvention.Count + Strays.Count + OffSpec.Count;
}

/// <summary>Looks a project over.</summary>
public sealed class ProjectHealth(StudioDb db, ProjectLinks links, WhoUses whoUses, SpecFaults specFaults)
{
    private const int MostUnused = 12;

    public async Task<HealthReport> LookAsync(Project project, CancellationToken cancel = default) =>
        await LookAsync(project, await links.LoadAsync(project.Id, cancel), cancel);

    /// <param name="current">The project's references as they are, where they are known already.</param>
    public async Task<HealthReport> LookAsync(Project project, IReadOnlyList<CurrentLink> current, CancellationToken cancel = default)
    {
        var there = db.Entries.AsNoTracking().Where(e => e.ProjectId == project.Id && e.DeletedAt == null);
        var used = current.Select(l => l.TargetId).OfType<Guid>().ToHashSet();
        var unused = there.Where(e =>
            e.Kind == EntryKind.OwnFile
            && e.Role == FolderRole.Assets
            && !used.Contains(e.Id)
            && !db.Links.Any(l => l.SeenEntryId == e.Id && db.Saves.Any(s => s.Id == l.SaveId && s.Number != null))
        );
        var assets = await unused.OrderBy(e => e.PathKey).Take(MostUnused).Select(e => new { e.Id, e.Path }).ToListAsync(cancel);
        var count = assets.Count < MostUnused ? assets.Count : await unused.CountAsync(cancel);
        var strays = await there
            .Where(e => e.Kind == EntryKind.OwnFile && e.FolderKey == "")
            .Select(e => new { e.Id, e.Path })
            .ToListAsync(cancel);
        var pieces = await db
            .Pieces.Where(p => p.ProjectId == project.Id && p.PutAwayAt == null)
            .Select(p => p.CurrentName)
            .OrderBy(n => n)
            .ToListAsync(cancel);
        var grammar = ConventionStore.Read(project.Convention).Grammar;
        return new HealthReport(
            [.. current.Where(l => l.State.IsBroken()).OrderBy(l => l.HolderPath.Text, StringComparer.Ordinal)],
            [.. current.Where(l => l.State == ReferenceState.OtherCase).OrderBy(l => l.HolderPath.Text, StringComparer.Ordinal)],
            [.. pieces.Where(n => grammar.Read(n) is null)],
            assets.ConvertAll(a => (a.Id, a.Path)),
            count,
            await whoUses.ClosedAsync(project.Id, cancel),
            [.. strays.OrderBy(s => s.Path.Text, StringComparer.Ordinal).Select(s => (s.Id, s.Path))],
            await db
                .Pieces.Where(p => p.ProjectId == project.Id && p.PutAwayAt == null)
                .AtRisk()
                .OrderBy(p => p.CurrentName)
                .Select(p => p.CurrentName)
                .ToListAsync(cancel),
            (await specFaults.LookAsync(project.Id, PlanStore.SpecOf(project), cancel)).Off
        );
    }
}
