using Chronotype.Storage;
using Chronotype.Studio.People;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Settings;

/// <summary>What holds for all projects of the studio.</summary>
public sealed class SettingsModel(StudioDb db, SetStudio setStudio) : PageModel
{
    [BindProperty]
    public bool LeavesSettings { get; set; }

    /// <summary>Endings, parted by spaces, commas or line ends.</summary>
    [BindProperty]
    public string? Companions { get; set; }

    public string Name { get; private set; } = "";
    public IReadOnlyList<string> Usual => Core.Structure.Companions.Usual;
    public Notice? Notice { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Notice = Notice.Take(TempData);
        var record = await db.Studio.AsNoTracking().SingleAsync(cancel);
        (Name, LeavesSettings, Companions) = (record.Name, record.LeavesSettingsBehind, record.Companions?.Replace('\n', ' '));
    }

    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        var outcome = await setStudio.DoAsync(
            User.Actor(),
            LeavesSettings,
            (Companions ?? "").Split([' ', ',', ';', '\n', '\r', '\t'], StringSplitOptions.RemoveEmptyEntries),
            cancel
        );
        if (outcome.Done)
        {
            Notice.Put(TempData, Notice.Done("It is set, for all projects."));
            return Redirect("/studio");
        }
        Notice = Notice.About(outcome.Refusal);
        Name = await db.Studio.Select(s => s.Name).SingleAsync(cancel);
        return Page();
    }
}
