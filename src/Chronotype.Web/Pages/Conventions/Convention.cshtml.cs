using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Learning;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Chronotype.Web.Pages.Conventions;

[RequestSizeLimit(MaxRequest)]
[RequestFormLimits(MultipartBodyLengthLimit = MaxRequest)]
public sealed class ConventionModel(
    StudioDb db,
    ConventionStore studio,
    SetConvention setConvention,
    MoveProject moveProject,
    KeepDraft keepDraft,
    StudioClock clock
) : PageModel
{
    private const int MaxNames = 200_000;

    // Far more than any convention, so that a wrong file is answered with a sentence instead of a closed connection.
    private const int MaxRequest = 512 << 20;

    public ConventionView View { get; private set; } = null!;
    public DateTimeOffset Now => clock.Now;
    public Notice? Notice { get; private set; }

    /// <summary>What was wrong with a file that was not imported.</summary>
    public IReadOnlyList<SettingFault> FileFaults { get; private set; } = [];

    /// <summary>What was learned, when the draft comes from names.</summary>
    public LearnedConvention? Learned { get; private set; }

    /// <summary>When the person's own draft was last changed; null where there is none, or it is what is shown.</summary>
    public DateTimeOffset? DraftAt { get; private set; }

    /// <param name="draft">Goes on with one's draft; else the studio's convention is shown, with a word on the draft.</param>
    public async Task OnGetAsync(bool draft, CancellationToken cancel)
    {
        Notice = Notice.Take(TempData);
        var own = await keepDraft.OfAsync(User.PersonId(), cancel);
        await LoadAsync(draft && own is not null ? DraftConvention.Parse(own.Draft) : null, cancel);
        if (own is not null && View.IsSaved)
            DraftAt = clock.At(own.At);
    }

    public async Task<IActionResult> OnPostDropAsync(CancellationToken cancel)
    {
        await keepDraft.DoAsync(User.Actor(), null, cancel);
        return Back(Notice.Done("The draft is dropped. The studio’s convention is as it was."));
    }

    /// <summary>The draft as it is now, with all that is found about it.</summary>
    public async Task<IActionResult> OnPostDraftAsync(CancellationToken cancel)
    {
        await LoadAsync(DraftConvention.From(Request.Form), cancel);
        await KeepAsync(cancel);
        return Request.Headers.ContainsKey("HX-Request") ? Partial("_Draft", View) : Page();
    }

    /// <summary>What moving one project to the draft would rename.</summary>
    public async Task<IActionResult> OnPostPlanAsync(Guid project, CancellationToken cancel)
    {
        await LoadAsync(DraftConvention.From(Request.Form), cancel, project);
        return Page();
    }

    public async Task<IActionResult> OnPostSaveAsync(CancellationToken cancel)
    {
        var draft = DraftConvention.From(Request.Form);
        await LoadAsync(draft, cancel);
        if (View.Convention is not { } convention)
        {
            Notice = new Notice(NoticeKind.Bad, "The draft has faults, so nothing was changed. Each stands at its place below.");
            return Page();
        }
        // Only what came with a file is handed on: the studio keeps the rest already.
        var outcome = await setConvention.DoAsync(
            User.Actor(),
            new Convention(convention.Slots, convention.Labels, draft.OwnLists(), convention.Filler),
            cancel
        );
        if (outcome.Done)
            await keepDraft.DoAsync(User.Actor(), null, cancel);
        if (outcome.Done)
            return Back(new Notice(NoticeKind.Done, "New projects begin with this convention. Nothing that is there was renamed."));
        if (outcome.Refusal is Refusal.NotAllowed)
            return StatusCode(StatusCodes.Status403Forbidden);
        Notice = new Notice(NoticeKind.Bad, $"Nothing was changed. {RefusalWords.Of(outcome.Refusal)}");
        return Page();
    }

    public async Task<IActionResult> OnPostUndoAsync(CancellationToken cancel)
    {
        var outcome = await setConvention.UndoAsync(User.Actor(), cancel);
        return Back(outcome, r => Notice.Done("The convention before is the studio’s again."));
    }

    public async Task<IActionResult> OnPostMoveAsync(Guid project, CancellationToken cancel)
    {
        if (await db.Projects.FindAsync([project], cancel) is not { } record)
            return NotFound();
        var outcome = await moveProject.DoAsync(User.Actor(), project, ConventionStore.Read(await studio.JsonAsync(cancel)), cancel);
        return Back(
            outcome,
            r =>
                Notice.Done(
                    $"{record.Code} holds the studio’s convention now: {DisplayText.Count(r.Names.Count, "name", "names")} changed. The "
                        + $"old ones still find their pieces."
                )
        );
    }

    public async Task<IActionResult> OnPostMoveBackAsync(Guid run, CancellationToken cancel)
    {
        var outcome = await moveProject.UndoAsync(User.Actor(), run, cancel);
        return Back(outcome, r => Notice.Done($"The old names are back: {DisplayText.Count(r.Names.Count, "name", "names")}."));
    }

    public async Task<IActionResult> OnPostImportAsync(IFormFile? file, CancellationToken cancel)
    {
        DraftConvention? draft = null;
        if (file is null)
            Notice = new Notice(NoticeKind.Bad, "Choose a convention's file first.");
        else
        {
            await using var stream = file.OpenReadStream();
            var read = ConventionFile.Read(stream);
            FileFaults = read.Faults;
            if (read.Convention is { } convention)
            {
                draft = DraftConvention.Of(convention, withLists: true);
                Notice = new Notice(NoticeKind.Done, $"{FileNames.Received(file.FileName)} is the draft below. Nothing was changed yet.");
            }
            else
                Notice = new Notice(NoticeKind.Bad, $"{FileNames.Received(file.FileName)} was not imported, and nothing was changed.");
        }
        await LoadAsync(draft, cancel);
        if (draft is not null)
            await KeepAsync(cancel);
        return Page();
    }

    /// <summary>The draft as a file, with the studio's codes.</summary>
    public async Task<IActionResult> OnPostExportAsync(CancellationToken cancel)
    {
        await LoadAsync(DraftConvention.From(Request.Form), cancel);
        if (View.Convention is { } convention)
            return File(System.Text.Encoding.UTF8.GetBytes(ConventionFile.Write(convention)), "application/json", "convention.json");
        Notice = new Notice(NoticeKind.Bad, "A draft with faults is no file that could be read back. Mend them first.");
        return Page();
    }

    public async Task<IActionResult> OnPostLearnAsync(string? names, CancellationToken cancel)
    {
        var lines = (names ?? "").Split('\n', MaxNames + 1).Take(MaxNames).Select(n => n.Trim('\r', ' ')).Where(n => n.Length > 0).ToList();
        Learned = NameLearner.Learn(lines);
        DraftConvention? draft = null;
        if (lines.Count == 0)
            (Notice, Learned) = (new Notice(NoticeKind.Bad, "Paste some names first, one a line."), null);
        else if (Learned.Convention is { } convention)
        {
            draft = DraftConvention.Of(convention, withLists: true);
            Notice = new Notice(
                NoticeKind.Done,
                $"The draft below explains {Learned.Explained:N0} of {DisplayText.Count(Learned.Names, "name", "names")}. Nothing was "
                    + $"changed yet."
            );
        }
        else
            Notice = new Notice(NoticeKind.Ask, "These names have no convention in common, so the draft is what it was.");
        await LoadAsync(draft, cancel);
        if (draft is not null)
            await KeepAsync(cancel);
        return Page();
    }

    // What is the studio's convention again is no draft any more.
    private Task KeepAsync(CancellationToken cancel) => keepDraft.DoAsync(User.Actor(), View.IsSaved ? null : View.Json, cancel);

    private async Task LoadAsync(DraftConvention? draft, CancellationToken cancel, Guid? planFor = null)
    {
        View = new ConventionView(db, studio, moveProject, clock);
        await View.LoadAsync(draft, User.Initials(), planFor, cancel);
    }

    private IActionResult Back<T>(Outcome<T> outcome, Func<T, Notice> done)
        where T : class =>
        outcome switch
        {
            { Done: true } => Back(done(outcome.Result)),
            { Refusal: Refusal.NotAllowed } => StatusCode(StatusCodes.Status403Forbidden),
            _ => Back(Notice.About(outcome.Refusal)),
        };

    private RedirectToPageResult Back(Notice said)
    {
        Notice.Put(TempData, said);
        return RedirectToPage("Convention", new { handler = "" });
    }
}
