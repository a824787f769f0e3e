using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Studio.Formats;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Chronotype.Web.Pages.Formats;

/// <summary>One format, with how often the studio has it.</summary>
/// <param name="Note">Null for one that nothing is known of.</param>
/// <param name="IsOurs">The studio says nothing of its own of it.</param>
/// <param name="IsRead">It is looked into here.</param>
/// <param name="Files">How many files of the studio are of it.</param>
public sealed record FormatRow(string Ending, FormatNote? Note, bool IsOurs, bool IsRead, int Files);

/// <summary>What is native, what is a copy, who can open it, and what to use instead.</summary>
public sealed class FormatsModel(StudioDb db, StudioFormats studioFormats) : PageModel
{
    /// <summary>The format whose form is open; null for a new one.</summary>
    [BindProperty(SupportsGet = true, Name = "of")]
    public string? Of { get; set; }

    [BindProperty]
    public string? Ending { get; set; }

    [BindProperty]
    public string? Name { get; set; }

    [BindProperty]
    public bool IsNative { get; set; }

    [BindProperty]
    public bool KeepsLayers { get; set; }

    [BindProperty]
    public bool IsText { get; set; }

    [BindProperty]
    public bool IsOpen { get; set; }

    [BindProperty]
    public string? OpenedBy { get; set; }

    [BindProperty]
    public string? Advice { get; set; }

    public IReadOnlyList<FormatRow> Rows { get; private set; } = [];

    /// <summary>Files whose name says something other than what they are inside.</summary>
    public IReadOnlyList<FormatInUse> Misnamed { get; private set; } = [];

    public Notice? Notice { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Notice = Notice.Take(TempData);
        await LoadAsync(cancel);
        Fill(Rows.FirstOrDefault(r => r.Ending == Of)?.Note ?? new FormatNote(Of ?? "", "", true, false, false, false));
    }

    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        var outcome = await studioFormats.SayAsync(
            User.Actor(),
            new FormatNote(Ending ?? "", Name ?? "", IsNative, KeepsLayers, IsText, IsOpen)
            {
                OpenedBy = OpenedBy ?? "",
                Advice = Advice ?? "",
            },
            cancel
        );
        if (outcome.Done)
        {
            Notice.Put(TempData, Notice.Done($"It is set: what is said of {outcome.Result.Ending} holds for all projects."));
            return Redirect("/formats");
        }
        Of = Ending;
        await LoadAsync(cancel);
        Notice = Notice.About(outcome.Refusal);
        return Page();
    }

    public async Task<IActionResult> OnPostForgetAsync(string forget, CancellationToken cancel)
    {
        var outcome = await studioFormats.ForgetAsync(User.Actor(), forget, cancel);
        Notice.Put(TempData, outcome.Done ? Notice.Done($"What was said of {forget} here is taken back.") : Notice.About(outcome.Refusal));
        return Redirect("/formats");
    }

    private void Fill(FormatNote note)
    {
        (Ending, Name, IsNative, KeepsLayers) = (note.Ending, note.Name, note.IsNative, note.KeepsLayers);
        (IsText, IsOpen, OpenedBy, Advice) = (note.IsText, note.IsOpen, note.OpenedBy, note.Advice);
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        var said = await StudioFormats.OfAsync(db, cancel);
        var used = await StudioFormats.InUseAsync(db, cancel);
        int Files(string ending) => used.Where(u => u.Ending == ending).Sum(u => u.Files);
        var known = said.Select(n => new FormatRow(n.Ending, n, false, IsRead(n.Ending), Files(n.Ending)))
            .Concat(
                FormatNotes
                    .Ours.Where(o => said.All(n => n.Ending != o.Ending))
                    .Select(o => new FormatRow(o.Ending, o, true, o.Content != FileFormat.Other, Files(o.Ending)))
            )
            .ToList();
        var unknown = used.Where(u => u.Ending.Length > 0 && known.TrueForAll(k => k.Ending != u.Ending))
            .GroupBy(u => u.Ending)
            .Select(g => new FormatRow(g.Key, null, true, g.Any(u => u.Content != FileFormat.Other), g.Sum(u => u.Files)));
        Rows =
        [
            .. unknown
                .Concat(known)
                // What nobody has spoken of stands first: it is what is to be done here.
                .OrderBy(r => r.Note is not null)
                .ThenBy(r => r.Note is { IsNative: false })
                .ThenByDescending(r => r.Files > 0)
                .ThenBy(r => r.IsOurs),
        ];
        Misnamed =
        [
            .. used.Where(u =>
                u.Content != FileFormat.Other
                && FormatNotes.Ours.FirstOrDefault(o => o.Ending == u.Ending) is { Content: not FileFormat.Other } says
                && says.Content != u.Content
            ),
        ];
    }

    private static bool IsRead(string ending) => FormatNotes.Ours.Any(o => o.Ending == ending && o.Content != FileFormat.Other);
}
