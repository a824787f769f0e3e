using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Pieces;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Conventions;

/// <summary>A kept name that the draft would not have.</summary>
public sealed record StrayName(string Project, string Name, NameForm Form, IReadOnlyList<NameFault> Faults, NameRepair? Repair);

/// <summary>How one project stands to the draft.</summary>
/// <param name="Holds">Whether it holds this very convention.</param>
/// <param name="Plan">What moving it would rename; null where nothing can be planned.</param>
/// <param name="Undo">The last move, while it can be undone.</param>
public sealed record ProjectStanding(Guid Id, string Code, string Title, bool Holds, MovePlan? Plan, RenameRun? Undo);

/// <summary>All that the Convention screen shows about a draft.</summary>
public sealed class ConventionView(StudioDb db, ConventionStore studio, MoveProject moveProject, StudioClock clock)
{
    private const int StraysShown = 6;

    public DraftConvention Draft { get; private set; } = null!;

    /// <summary>The draft as text, so that a step can be taken back.</summary>
    public string Json { get; private set; } = "";

    /// <summary>Null while the draft holds faults.</summary>
    public Convention? Convention { get; private set; }

    /// <summary>What is wrong with the draft, by its place in the file.</summary>
    public IReadOnlyList<SettingFault> Faults { get; private set; } = [];

    public Ambiguity? Twice { get; private set; }

    /// <summary>What a studio's own convention needs beyond that.</summary>
    public IReadOnlyList<SettingFault> Lacks { get; private set; } = [];

    public bool IsUsable => Convention is not null && Twice is null && Lacks.Count == 0;

    /// <summary>Whether the draft is what the studio has.</summary>
    public bool IsSaved { get; private set; }

    public bool MayUndo { get; private set; }
    public ExamplePiece Example { get; private set; } = null!;
    public Dictionary<NameForm, FormattedName?> Names { get; } = [];
    public int Kept { get; private set; }
    public int Legal { get; private set; }
    public IReadOnlyList<StrayName> Strays { get; private set; } = [];
    public IReadOnlyList<ProjectStanding> Projects { get; private set; } = [];

    /// <summary>The studio's codes, with how many each list has.</summary>
    public IReadOnlyDictionary<string, CodeList> Lists { get; private set; } = new Dictionary<string, CodeList>();

    public IEnumerable<SettingFault> FaultsOf(string place) =>
        Faults
            .Concat(Lacks)
            .Where(f =>
                f.Place == place
                || f.Place.StartsWith(place + ".", StringComparison.Ordinal)
                || f.Place.StartsWith(place + "[", StringComparison.Ordinal)
            );

    /// <param name="planFor">The project whose move is planned, which takes a look at all of its names; null for none.</param>
    public async Task LoadAsync(DraftConvention? draft, string hand, Guid? planFor, CancellationToken cancel)
    {
        var saved = await studio.JsonAsync(cancel);
        Draft = draft ?? DraftConvention.Of(ConventionStore.Read(saved));
        Json = Draft.ToJson();
        Example = await ExamplePiece.LoadAsync(db, hand, clock.Today, cancel);
        MayUndo = await db.Studio.AnyAsync(s => s.ConventionBefore != null, cancel);
        // All of the studio's lists are wanted, whichever the draft names.
        var labels = Draft
            .Slots.Select(s => new Slot(
                s.Label,
                s.Kind == "hand"
                    ? new HandRule()
                    : new CodeRule(s.Settings.GetValueOrDefault("list") is { Length: > 0 } list ? list : s.Label)
            ))
            .ToList();
        Lists = await studio.ListsAsync(labels, cancel);
        var read = Draft.Read(Lists);
        (Convention, Faults) = (read.Convention, read.Faults);
        if (Convention is null)
            return;
        Twice = Convention.Grammar.FindAmbiguity();
        Lacks = ConventionRules.CheckForStudio(Convention);
        foreach (var form in Convention.Forms)
            Names[form] = Example.Name(Convention, form);
        var json = ConventionStore.Write(Convention);
        IsSaved = json == saved && Draft.Lists is null;
        await CheckNamesAsync(Convention, cancel);
        await LoadProjectsAsync(json, planFor, cancel);
    }

    private async Task CheckNamesAsync(Convention convention, CancellationToken cancel)
    {
        var names = (
            await db
                .Pieces.Where(p => p.HighestSequence > 0)
                .Select(p => new { Project = p.Project.Code, Name = p.CurrentName + p.Extension })
                .ToListAsync(cancel)
        ).ConvertAll(n => (n.Project, n.Name, Form: NameForm.Current));
        names.AddRange(
            (
                await db
                    .Saves.Where(s => s.Number != null)
                    .Select(s => new
                    {
                        Project = s.Piece.Project.Code,
                        Name = s.ExactName!,
                        Alt = s.Line.Name,
                    })
                    .ToListAsync(cancel)
            )
            // What stands behind a name for want of a place in it is no part of the convention.
            .Select(n => (n.Project, PieceNames.WithoutAlt(n.Name, n.Alt), NameForm.Working))
        );
        names.AddRange(
            (
                await db
                    .Saves.Where(s => s.Milestone != null)
                    .Select(s => new { Project = s.Piece.Project.Code, Name = s.Milestone!.ExactName })
                    .ToListAsync(cancel)
            ).Select(n => (n.Project, n.Name, NameForm.Milestone))
        );
        Kept = names.Count;
        var checkers = convention
            .Forms.Where(f => names.Exists(n => n.Form == f))
            .ToDictionary(f => f, f => (Grammar: convention.GrammarOf(f), Checker: (NameChecker?)null));
        var strays = new List<StrayName>();
        foreach (var (project, name, form) in names)
        {
            if (checkers.TryGetValue(form, out var by) && by.Grammar.Read(name) is not null)
            {
                Legal++;
                continue;
            }
            if (strays.Count >= StraysShown)
                continue;
            if (by.Grammar is null)
            {
                strays.Add(
                    new(
                        project,
                        name,
                        form,
                        [new(null, 0, 0, NameFaultCodes.Missing, $"There is no {ConventionFile.KeyOf(form)} form.")],
                        null
                    )
                );
                continue;
            }
            if (by.Checker is null)
                checkers[form] = by = (by.Grammar, new NameChecker(by.Grammar));
            var check = by.Checker!.Check(name);
            strays.Add(new(project, name, form, check.Faults, check.Repairs.Count == 1 ? check.Repairs[0] : null));
        }
        Strays = strays;
    }

    private async Task LoadProjectsAsync(string json, Guid? planFor, CancellationToken cancel)
    {
        var bare = Twice is null && Lacks.Count == 0 ? ConventionStore.Read(json) : null;
        var runs = (
            await db
                .RenameRuns.AsNoTracking()
                .Where(r => r.UndoneAt == null && r.Cause == RenameCause.Convention)
                .OrderByDescending(r => r.At)
                .ToListAsync(cancel)
        )
            .GroupBy(r => r.ProjectId)
            .ToDictionary(g => g.Key, g => g.First());
        var standings = new List<ProjectStanding>();
        foreach (var project in await db.Projects.AsNoTracking().OrderByDescending(p => p.StartedAt).ToListAsync(cancel))
        {
            var holds = project.Convention == json;
            var undo = runs.GetValueOrDefault(project.Id) is { } run && run.After == project.Convention ? run : null;
            standings.Add(
                new(
                    project.Id,
                    project.Code,
                    project.Title,
                    holds,
                    holds || bare is null || project.Id != planFor ? null : await moveProject.PlanAsync(project.Id, bare, cancel),
                    undo
                )
            );
        }
        Projects = standings;
    }
}
