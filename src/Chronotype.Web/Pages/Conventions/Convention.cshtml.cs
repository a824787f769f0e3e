using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Conventions;
using Chronotype.Web.Pages.Pieces;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Chronotype.Web.Pages.Conventions;

[RequestSizeLimit(MaxRequest)]
[RequestFormLimits(MultipartBodyLengthLimit = MaxRequest)]
public sealed class ConventionModel(StudioDb db, StudioConvention studio, SetConvention setConvention, MoveProject moveProject, TimeProvider time) : PageModel
{
    private const int MaxNames = 200_000;

    // Far more than any convention, so that a wrong file is answered with a sentence instead of a closed connection.
    private const int MaxRequest = 512 << 20;

    public ConventionView View { get; private set; } = null!;
    public Said? Said { get; private set; }

    /// <summary>What was wrong with a file that was not imported.</summary>
    public IReadOnlyList<ConventionFault> FileFaults { get; private set; } = [];

    /// <summary>What was learned, when the draft comes from names.</summary>
    public LearnedConvention? Learned { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Said = Said.Take(TempData);
        await LoadAsync(null, cancel);
    }

    /// <summary>The draft as it is now, with all that is found about it.</summary>
    public async Task<IActionResult> OnPostDraftAsync(CancellationToken cancel)
    {
        await LoadAsync(DraftConvention.From(Request.Form), cancel);
        return Request.Headers.ContainsKey("HX-Request") ? Partial("_Draft", View) : Page();
    }

    public async Task<IActionResult> OnPostSaveAsync(CancellationToken cancel)
    {
        if (!User.IsOwner()) return StatusCode(StatusCodes.Status403Forbidden);
        var draft = DraftConvention.From(Request.Form);
        await LoadAsync(draft, cancel);
        if (View.Convention is not { } convention)
        {
            Said = new Said(SaidKind.Bad, "The draft has faults, so nothing was changed. Each stands at its place below.");
            return Page();
        }
        // Only what came with a file is handed on: the studio keeps the rest already.
        var outcome = await setConvention.DoAsync(new Convention(convention.Slots, convention.Labels, draft.OwnLists(), convention.Filler), cancel);
        if (outcome.Done) return Back(new Said(SaidKind.Done, "New projects begin with this convention. Nothing that is there was renamed."));
        Said = new Said(SaidKind.Bad, $"Nothing was changed. {outcome.Refusal}");
        return Page();
    }

    public async Task<IActionResult> OnPostUndoAsync(CancellationToken cancel)
    {
        if (!User.IsOwner()) return StatusCode(StatusCodes.Status403Forbidden);
        var outcome = await setConvention.UndoAsync(cancel);
        return Back(outcome.Done ? new Said(SaidKind.Done, "The convention before is the studio’s again.") : new Said(SaidKind.Bad, outcome.Refusal));
    }

    public async Task<IActionResult> OnPostMoveAsync(Guid project, CancellationToken cancel)
    {
        if (!User.IsOwner()) return StatusCode(StatusCodes.Status403Forbidden);
        if (await db.Projects.FindAsync([project], cancel) is not { } record) return NotFound();
        var outcome = await moveProject.DoAsync(project, StudioConvention.Read(await studio.JsonAsync(cancel)), User.PersonId(), cancel);
        return Back(outcome.Done ? new Said(SaidKind.Done, $"{record.Code} holds the studio’s convention now: {Plain.Count(outcome.Result.Names.Count, "name", "names")} changed. The old ones still find their pieces.") : new Said(SaidKind.Bad, outcome.Refusal));
    }

    public async Task<IActionResult> OnPostMoveBackAsync(Guid run, CancellationToken cancel)
    {
        if (!User.IsOwner()) return StatusCode(StatusCodes.Status403Forbidden);
        var outcome = await moveProject.UndoAsync(run, cancel);
        return Back(outcome.Done ? new Said(SaidKind.Done, $"The old names are back: {Plain.Count(outcome.Result.Names.Count, "name", "names")}.") : new Said(SaidKind.Bad, outcome.Refusal));
    }

    public async Task<IActionResult> OnPostImportAsync(IFormFile? file, CancellationToken cancel)
    {
        DraftConvention? draft = null;
        if (file is null) Said = new Said(SaidKind.Bad, "Choose a convention's file first.");
        else
        {
            await using var stream = file.OpenReadStream();
            var read = ConventionFile.Read(stream);
            FileFaults = read.Faults;
            if (read.Convention is { } convention)
            {
                draft = DraftConvention.Of(convention, withLists: true);
                Said = new Said(SaidKind.Done, $"{FileNames.Received(file.FileName)} is the draft below. Nothing was changed yet.");
            }
            else Said = new Said(SaidKind.Bad, $"{FileNames.Received(file.FileName)} was not imported, and nothing was changed.");
        }
        await LoadAsync(draft, cancel);
        return Page();
    }

    /// <summary>The draft as a file, with the studio's codes.</summary>
    public async Task<IActionResult> OnPostExportAsync(CancellationToken cancel)
    {
        await LoadAsync(DraftConvention.From(Request.Form), cancel);
        if (View.Convention is { } convention) return File(System.Text.Encoding.UTF8.GetBytes(ConventionFile.Write(convention)), "application/json", "convention.json");
        Said = new Said(SaidKind.Bad, "A draft with faults is no file that could be read back. Mend them first.");
        return Page();
    }

    public async Task<IActionResult> OnPostLearnAsync(string? names, CancellationToken cancel)
    {
        var lines = (names ?? "").Split('\n', MaxNames + 1).Take(MaxNames).Select(n => n.Trim('\r', ' ')).Where(n => n.Length > 0).ToList();
        Learned = NameLearner.Learn(lines);
        DraftConvention? draft = null;
        if (lines.Count == 0) (Said, Learned) = (new Said(SaidKind.Bad, "Paste some names first, one a line."), null);
        else if (Learned.Convention is { } convention)
        {
            draft = DraftConvention.Of(convention, withLists: true);
            Said = new Said(SaidKind.Done, $"The draft below explains {Learned.Explained:N0} of {Plain.Count(Learned.Names, "name", "names")}. Nothing was changed yet.");
        }
        else Said = new Said(SaidKind.Ask, "These names have no convention in common, so the draft is what it was.");
        await LoadAsync(draft, cancel);
        return Page();
    }

    private async Task LoadAsync(DraftConvention? draft, CancellationToken cancel)
    {
        View = new ConventionView(db, studio, moveProject, time);
        await View.LoadAsync(draft, User.Initials(), cancel);
    }

    private RedirectToPageResult Back(Said said)
    {
        Said.Put(TempData, said);
        return RedirectToPage("Convention", new { handler = "" });
    }
}
