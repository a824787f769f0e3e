using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Conventions;
using Chronotype.Web.Uploads;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

/// <summary>A file as it stands in the tree.</summary>
/// <param name="Link">Where it opens.</param>
public sealed record TreeFile(string Name, long Size, string Link);

/// <summary>The versions, or the milestone copies, of one piece: folded until asked for.</summary>
public sealed record TreeSeries(string Name, IReadOnlyList<TreeFile> Files)
{
    public long Size => Files.Sum(f => f.Size);
}

/// <summary>A folder of the plan with what is in it.</summary>
public sealed record TreeFolder(string Name, int Depth, FolderRole Role, string Purpose, IReadOnlyList<TreeFile> Files, IReadOnlyList<TreeSeries> Series, bool HoldsVersions)
{
    public long Size => Files.Sum(f => f.Size) + Series.Sum(s => s.Size);
    public IReadOnlyList<TreeFile> Versions => HoldsVersions ? [.. Series.SelectMany(s => s.Files)] : [];
}

/// <summary>Lays out a project's pieces where its plan says they belong.</summary>
public static class ProjectTree
{
    public static async Task<IReadOnlyList<TreeFolder>> LoadAsync(StudioDb db, Project project, CancellationToken cancel)
    {
        var plan = FolderPlan.Of(project.Plan);
        var pieces = await db.Pieces.AsNoTracking().Where(p => p.ProjectId == project.Id).OrderBy(p => p.CurrentName).Select(p => new
        {
            p.CurrentName, p.Extension, p.Folder,
            Newest = p.Saves.OrderByDescending(s => s.Sequence).Select(s => (long?)s.Size).FirstOrDefault(),
            Kept = p.Saves.Where(s => s.Number != null).OrderByDescending(s => s.Number)
                .Select(s => new { s.Number, s.ExactName, s.Size, Copy = s.Milestone == null ? null : s.Milestone.ExactName }).ToList(),
        }).ToListAsync(cancel);
        return [.. project.Folders.OrderBy(f => f.Order).Select(folder => new TreeFolder(
            folder.Path[(folder.Path.LastIndexOf('/') + 1)..], folder.Path.Count(c => c == '/'), folder.Role, folder.Purpose,
            pieces.Where(p => p.Folder == folder.Path).Select(p => new TreeFile(p.CurrentName + p.Extension, p.Newest ?? 0, Address(p.CurrentName))).ToList(),
            folder.Path == plan.VersionsIn
                ? pieces.Where(p => p.Kept.Count > 0).Select(p => new TreeSeries(p.CurrentName, p.Kept.ConvertAll(k => new TreeFile(k.ExactName!, k.Size, $"{Address(p.CurrentName)}?b={k.Number}")))).ToList()
                : folder.Path == plan.MilestonesIn
                    ? pieces.Where(p => p.Kept.Exists(k => k.Copy != null)).Select(p => new TreeSeries(p.CurrentName,
                        p.Kept.Where(k => k.Copy != null).Select(k => new TreeFile(k.Copy!, k.Size, $"{Address(p.CurrentName)}?b={k.Number}")).ToList())).ToList()
                    : [],
            folder.Path == plan.VersionsIn))];

        string Address(string piece) => $"/projects/{Uri.EscapeDataString(project.Code)}/{Uri.EscapeDataString(piece)}";
    }
}

/// <summary>A slot that a person fills when a piece is started.</summary>
/// <param name="Codes">What may be chosen; null where it is typed.</param>
/// <param name="IsNeeded">Whether the current file's name needs it; else it may stand open.</param>
public sealed record AskedSlot(Slot Slot, IReadOnlyList<CodeMeaning>? Codes, bool IsNeeded)
{
    public string Field => SlotFields.Prefix + Slot.Label;
    public string Title => char.ToUpperInvariant(Slot.Label[0]) + Slot.Label[1..].Replace('-', ' ');

    /// <summary>The slots that a project's convention asks for, words first; the codes of its plan stand first on their list.</summary>
    public static async Task<IReadOnlyList<AskedSlot>> LoadAsync(StudioDb db, Project project, CancellationToken cancel)
    {
        var convention = StudioConvention.Read(project.Convention);
        var needed = convention.Form(NameForm.Current);
        var order = FolderPlan.Of(project.Plan).Functions.Select((f, i) => (f.Code, i)).ToDictionary(f => f.Code, f => f.i);
        var codes = (await db.Codes.AsNoTracking().ToListAsync(cancel)).ToLookup(c => c.List);
        return [.. StudioConvention.OwnSlots(convention).Select(slot => new AskedSlot(
            slot,
            slot.Rule is CodeRule { List: var list } ? [.. codes[list].OrderBy(c => order.GetValueOrDefault(c.Code, int.MaxValue)).ThenBy(c => c.Code, StringComparer.Ordinal).Select(c => new CodeMeaning(c.Code, c.Meaning))] : null,
            needed.Contains(slot) && !slot.MayBeAbsent)).OrderBy(a => a.Slot.Rule is not WordsRule).ThenBy(a => !a.IsNeeded)];
    }
}
