using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Studio.Projects;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Plans;

/// <summary>The folder plans that projects can start with.</summary>
public sealed class PlansModel(StudioDb db, PlanStore plans, SetPlan setPlan) : PageModel
{
    public IReadOnlyList<KnownPlan> All { get; private set; } = [];
    public IReadOnlyList<KnownPlan> Removed { get; private set; } = [];
    public IReadOnlyDictionary<string, int> Projects { get; private set; } = new Dictionary<string, int>();
    public IReadOnlyList<(string Code, string Title)> Known { get; private set; } = [];
    public IReadOnlyList<string> Faults { get; private set; } = [];
    public Notice? Notice { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Notice = Notice.Take(TempData);
        await LoadAsync(cancel);
    }

    /// <summary>Takes in a plan that another studio, or this one, exported.</summary>
    public async Task<IActionResult> OnPostImportAsync(IFormFile? file, CancellationToken cancel)
    {
        if (file is null)
            Faults = ["Choose a file first."];
        else
        {
            await using var bytes = file.OpenReadStream();
            // The reader refuses a text that is longer than any plan.
            var read = PlanFile.Read(SettingText.Read(bytes, 4 * PlanFile.MaxLength) ?? new string(' ', PlanFile.MaxLength + 1));
            Faults = [.. read.Faults.Select(f => f.ToString())];
            if (read.Plan is { } plan)
            {
                var named = plan with { Key = await plans.FreeKeyAsync(plan.Key, cancel) };
                var outcome = await setPlan.DoAsync(User.Actor(), named, isNew: true, cancel);
                if (outcome.Done)
                {
                    Notice.Put(
                        TempData,
                        Notice.Done(
                            named.Key == plan.Key
                                ? $"“{plan.Title}” is on the list."
                                : $"“{plan.Title}” is on the list, as {named.Key}, since there is a plan {plan.Key} already."
                        )
                    );
                    return Redirect("/plans");
                }
                Faults = [RefusalWords.Of(outcome.Refusal)];
            }
        }
        await LoadAsync(cancel);
        return Page();
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        All = await plans.AllAsync(cancel);
        Removed = await plans.RemovedAsync(cancel);
        Projects = await db
            .Projects.GroupBy(p => p.Plan)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        Known = (await db.Projects.OrderBy(p => p.Code).Select(p => new { p.Code, p.Title }).ToListAsync(cancel)).ConvertAll(p =>
            (p.Code, p.Title)
        );
    }
}
