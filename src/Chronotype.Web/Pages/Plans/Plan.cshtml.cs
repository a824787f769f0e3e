using System.Text;
using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Pages.Spec;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Plans;

/// <summary>What a plan that is typed would lay out.</summary>
/// <param name="Plan">Null where what is typed is none yet.</param>
public sealed record PlanDraft(FolderPlan? Plan, IReadOnlyList<string> Faults, bool IsNew);

/// <summary>One folder plan, to look at and to change; or a new one, made from another or from a project.</summary>
[RequestFormLimits(ValueCountLimit = 20_000)]
public sealed class PlanModel(StudioDb db, PlanStore plans, ConventionStore studio, FindPiece findPiece, SetPlan setPlan) : PageModel
{
    /// <summary>The plan that a new one begins as; empty for none.</summary>
    [BindProperty(SupportsGet = true, Name = "from")]
    public string? From { get; set; }

    /// <summary>The project that a new one is made from; empty for none.</summary>
    [BindProperty(SupportsGet = true, Name = "project")]
    public string? FromProject { get; set; }

    [BindProperty(Name = "preset")]
    public string? Preset { get; set; }

    [BindProperty]
    public SpecForm Spec { get; set; } = new();

    public string Key { get; private set; } = "";
    public bool IsNew => Key == PlanStore.NewPlan;
    public KnownPlan? Known { get; private set; }
    public PlanForm Form { get; private set; } = null!;
    public PlanDraft Draft { get; private set; } = null!;
    public IReadOnlyList<string> Slots { get; private set; } = [];
    public IReadOnlyList<string> Projects { get; private set; } = [];
    public Notice? Notice { get; private set; }

    /// <summary>The convention that the plan has of its own; null for none.</summary>
    private Convention? own;

    public async Task<IActionResult> OnGetAsync(string key, CancellationToken cancel)
    {
        if (await BeginAsync(key, cancel) is not { } plan)
            return NotFound();
        Notice = Notice.Take(TempData);
        Form = PlanForm.Of(plan);
        Draft = new PlanDraft(plan, [], IsNew);
        return Page();
    }

    /// <summary>The plan as a file.</summary>
    public async Task<IActionResult> OnGetFileAsync(string key, CancellationToken cancel) =>
        await plans.FindAsync(key, cancel) is { } known
            ? File(Encoding.UTF8.GetBytes(PlanFile.Write(known.Plan)), "application/json", $"{known.Plan.Key}.plan.json")
            : NotFound();

    /// <summary>What would be laid out, while it is being typed.</summary>
    public async Task<IActionResult> OnPostDraftAsync(string key, CancellationToken cancel)
    {
        if (await BeginAsync(key, cancel) is null)
            return NotFound();
        await TypedAsync(cancel);
        return Partial("_Laid", Draft);
    }

    /// <summary>The same form with a part of the spec as is usual.</summary>
    public async Task<IActionResult> OnPostPresetAsync(string key, CancellationToken cancel)
    {
        if (await BeginAsync(key, cancel) is null)
            return NotFound();
        if (SpecPreset.All.FirstOrDefault(p => p.Key == Preset) is { } preset)
            Spec = Spec.With(preset);
        await TypedAsync(cancel);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(string key, CancellationToken cancel)
    {
        if (await BeginAsync(key, cancel) is null)
            return NotFound();
        await TypedAsync(cancel);
        if (Draft.Plan is not { } plan)
            return Page();
        var outcome = await setPlan.DoAsync(User.Actor(), plan, IsNew, cancel);
        if (outcome.Done)
        {
            var said = IsNew
                ? $"Projects can start with “{plan.Title}” now."
                : $"“{plan.Title}” is changed. Projects that are there stay as they are.";
            Notice.Put(TempData, Notice.Done(said) with { Undo = IsNew ? null : $"/plans/{plan.Key}?handler=Undo" });
            return Redirect($"/plans/{plan.Key}");
        }
        Notice = Notice.About(outcome.Refusal);
        return Page();
    }

    public async Task<IActionResult> OnPostUndoAsync(string key, CancellationToken cancel)
    {
        var outcome = await setPlan.UndoAsync(User.Actor(), key, cancel);
        Notice.Put(TempData, outcome.Done ? Notice.Done("The change is taken back.") : Notice.About(outcome.Refusal));
        return Redirect($"/plans/{Uri.EscapeDataString(key)}");
    }

    public async Task<IActionResult> OnPostListAsync(string key, bool isListed, CancellationToken cancel)
    {
        var outcome = await setPlan.ListAsync(User.Actor(), key, isListed, cancel);
        Notice.Put(
            TempData,
            !outcome.Done ? Notice.About(outcome.Refusal)
                : isListed ? Notice.Done("It is on the list again.")
                : Notice.Done("It is off the list. Projects that began with it stay as they are.") with
                {
                    Undo = $"/plans/{Uri.EscapeDataString(key)}?handler=List&isListed=true",
                }
        );
        return Redirect("/plans");
    }

    /// <returns>The plan that is looked at, or that a new one begins as; null where there is none.</returns>
    private async Task<FolderPlan?> BeginAsync(string key, CancellationToken cancel)
    {
        Key = key;
        Projects = await db.Projects.OrderBy(p => p.Code).Select(p => p.Code).ToListAsync(cancel);
        FolderPlan? plan;
        if (!IsNew)
            plan = (Known = await plans.FindAsync(key, cancel))?.Plan;
        else if (FromProject is { Length: > 0 } code && await findPiece.ProjectAsync(code, cancel) is { } id)
        {
            var project = await db.Projects.AsNoTracking().FirstAsync(p => p.Id == id, cancel);
            plan = await plans.AsItStandsAsync(project, cancel) with { Title = $"As in {project.Code}", Purpose = project.Title };
        }
        else
            plan = (await plans.FindAsync(From ?? "", cancel))?.Plan is { } other
                ? other with
                {
                    Title = $"{other.Title}, changed",
                }
                : Plain;
        own = plan?.Convention;
        Slots = PlanForm.SlotsOf(own ?? ConventionStore.Read(await studio.JsonAsync(cancel)));
        return plan;
    }

    private async Task TypedAsync(CancellationToken cancel)
    {
        Form = PlanForm.From(await Request.ReadFormAsync(cancel), Spec, Slots);
        var convention = Form.Convention switch
        {
            PlanForm.Studios => null,
            PlanForm.Own => own,
            var code => await db.Projects.Where(p => p.Code == code).Select(p => p.Convention).FirstOrDefaultAsync(cancel) is { } json
                ? ConventionStore.Read(json)
                : null,
        };
        var (plan, faults) = Form.Read(IsNew ? await plans.FreeKeyAsync(Form.Title, cancel) : Key, convention);
        Draft = new PlanDraft(plan, faults, IsNew);
    }

    // The least that a project needs.
    private static readonly FolderPlan Plain = FolderPlan.Of("print") with
    {
        Key = PlanStore.NewPlan,
        Title = "",
        Purpose = "",
        Functions = [],
    };
}
