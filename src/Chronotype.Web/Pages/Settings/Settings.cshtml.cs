using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.People;
using Chronotype.Studio.References;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Settings;

/// <summary>What patterns find in a text that is tried.</summary>
/// <param name="Fault">What is wrong with a pattern; null for nothing.</param>
/// <param name="Found">A path and its line.</param>
public sealed record TriedPatterns(string? Fault, IReadOnlyList<(string Path, int Line)> Found);

/// <summary>What holds for all projects of the studio.</summary>
public sealed class SettingsModel(StudioDb db, SetStudio setStudio, ReferencePatterns referencePatterns) : PageModel
{
    // Nobody tries a pattern on more than this.
    private const int MostTried = 20_000;

    [BindProperty]
    public bool LeavesSettings { get; set; }

    /// <summary>Endings, parted by spaces, commas or line ends.</summary>
    [BindProperty]
    public string? Companions { get; set; }

    /// <summary>Of the patterns, in their order; empty for a row that is not filled in.</summary>
    [BindProperty]
    public string?[] Ending { get; set; } = [];

    /// <summary>As <see cref="Ending"/>, the lines.</summary>
    [BindProperty]
    public string?[] Line { get; set; } = [];

    public string Name { get; private set; } = "";
    public IReadOnlyList<string> Usual => Core.Structure.Companions.Usual;
    public IReadOnlyList<ReferencePattern> Patterns { get; private set; } = [];
    public Notice? Notice { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Notice = Notice.Take(TempData);
        await LoadAsync(cancel);
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
            return Said("It is set, for all projects.");
        var (leaves, companions) = (LeavesSettings, Companions);
        await LoadAsync(cancel);
        (LeavesSettings, Companions) = (leaves, companions);
        Notice = Notice.About(outcome.Refusal);
        return Page();
    }

    public async Task<IActionResult> OnPostPatternsAsync(CancellationToken cancel)
    {
        var outcome = await referencePatterns.SetAsync(User.Actor(), Typed(), cancel);
        if (outcome.Done)
            return Said(
                outcome.Result.Texts == 0
                    ? "It is set, for all projects."
                    : $"It is set, for all projects. {DisplayText.Count(outcome.Result.Texts, "text is", "texts are")} read anew by it now."
            );
        await LoadAsync(cancel);
        Patterns = Typed();
        Notice = Notice.About(outcome.Refusal);
        return Page();
    }

    /// <summary>What the patterns as they are typed find in a text.</summary>
    public IActionResult OnPostTry(string? sample)
    {
        // A pattern is tried before anybody has said for which files it is.
        var patterns = Typed().Select(p => p.Ending.Length == 0 ? p with { Ending = ".any" } : p).ToList();
        var wrong = patterns.FirstOrDefault(p => p.Fault() is not null);
        if (wrong is not null)
            return Partial("_Tried", new TriedPatterns(PatternWords.Of(wrong.Ending, wrong.Line, wrong.Fault()!.Value), []));
        var text = (sample ?? "")[..Math.Min(sample?.Length ?? 0, MostTried)];
        var found = patterns.SelectMany(p => p.Find(text)).OrderBy(f => f.At).DistinctBy(f => f.At).Take(100);
        return Partial("_Tried", new TriedPatterns(null, [.. found.Select(f => (f.Written, f.Line))]));
    }

    private List<ReferencePattern> Typed() =>
        [
            .. Ending
                .Zip(Line, (ending, line) => new ReferencePattern(ReferencePatterns.Ended(ending ?? ""), (line ?? "").Trim()))
                .Where(p => p.Ending.Length > 0 || p.Line.Length > 0),
        ];

    private RedirectResult Said(string what)
    {
        Notice.Put(TempData, Notice.Done(what));
        return Redirect("/studio");
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        var record = await db.Studio.AsNoTracking().SingleAsync(cancel);
        (Name, LeavesSettings, Companions) = (record.Name, record.LeavesSettingsBehind, record.Companions?.Replace('\n', ' '));
        Patterns = await ReferencePatterns.OfAsync(db, cancel);
    }
}
