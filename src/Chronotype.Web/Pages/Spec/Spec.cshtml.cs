using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Web.Pages.Projects;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Spec;

/// <summary>What came of holding the files against a spec that is typed.</summary>
/// <param name="Spec">Null where what is typed is none.</param>
/// <param name="Fault">What of it cannot be; null where all can.</param>
/// <param name="IsSet">It is the project's own already.</param>
public sealed record SpecResult(Project Project, ProjectSpec? Spec, string? Fault, SpecReport Report, bool IsSet)
{
    /// <summary>What can be converted here to what it should be.</summary>
    public IReadOnlyList<Mendable> Mendable { get; init; } = [];
}

/// <summary>What a project's files must be, and which are not.</summary>
public sealed class SpecModel(StudioDb db, FindPiece findPiece, SpecFaults specFaults, SetSpec setSpec, MendSpec mendSpec) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public SpecForm Form { get; set; } = new();

    /// <summary>The usual spec that a part is to be filled with.</summary>
    [BindProperty(SupportsGet = true, Name = "preset")]
    public string? Preset { get; set; }

    /// <summary>The form was sent, so that an empty field means "anything".</summary>
    [BindProperty(SupportsGet = true, Name = "typed")]
    public bool IsTyped { get; set; }

    public ProjectHead Head { get; private set; } = null!;
    public SpecResult Result { get; private set; } = null!;
    public Notice? Notice { get; private set; }

    public async Task<IActionResult> OnGetAsync(string project, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        if (record.Code != project)
            return Redirect(Places.OfSpec(record.Code));
        Notice = Notice.Take(TempData);
        if (!IsTyped)
            Form = SpecForm.Of(PlanStore.SpecOf(record));
        if (SpecPreset.All.FirstOrDefault(p => p.Key == Preset) is { } preset)
            Form = Form.With(preset);
        await LoadAsync(record, cancel);
        return Page();
    }

    /// <summary>Which files would be off, while it is being typed.</summary>
    public async Task<IActionResult> OnGetOffAsync(string project, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        return Partial("_Off", await ResultAsync(record, cancel));
    }

    public async Task<IActionResult> OnPostAsync(string project, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        var (spec, fault) = Form.Read();
        if (spec is not null)
        {
            var outcome = await setSpec.DoAsync(User.Actor(), record.Id, spec, cancel);
            Notice.Put(
                TempData,
                outcome.Done
                    ? Notice.Done(
                        spec.IsEmpty ? "The files of this project may be anything now." : $"The spec is set: {SpecWords.Of(spec)}."
                    )
                    : Notice.About(outcome.Refusal)
            );
            return Redirect(Places.OfSpec(record.Code));
        }
        Notice = new Notice(NoticeKind.Bad, FaultOf(fault!.Value));
        await LoadAsync(record, cancel);
        return Page();
    }

    /// <summary>Converts the files that are chosen to what they should be.</summary>
    public async Task<IActionResult> OnPostMendAsync(string project, Guid[] entries, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        var outcome = await mendSpec.AskAsync(User.Actor(), record.Id, entries, cancel);
        Notice.Put(
            TempData,
            outcome.Done
                ? Notice.Done($"{DisplayText.Count(outcome.Result.Count, "file is", "files are")} being converted. What was there stays.")
                : Notice.About(outcome.Refusal)
        );
        return Redirect(Places.OfSpec(record.Code));
    }

    private async Task LoadAsync(Project record, CancellationToken cancel)
    {
        Head = await ProjectHead.LoadAsync(db, record, null, cancel);
        Result = await ResultAsync(record, cancel);
    }

    private async Task<SpecResult> ResultAsync(Project record, CancellationToken cancel)
    {
        var (spec, fault) = Form.Read();
        return new SpecResult(
            record,
            spec,
            fault is { } point ? FaultOf(point) : null,
            spec is null ? new SpecReport([], 0) : await specFaults.LookAsync(record.Id, spec, cancel),
            spec == PlanStore.SpecOf(record)
        )
        {
            Mendable = spec is not null && spec == PlanStore.SpecOf(record) ? await MendSpec.OfAsync(db, record.Id, cancel) : [],
        };
    }

    private static string FaultOf(SpecPoint point) =>
        $"{SpecWords.Title(point)}: {(point is SpecPoint.PixelSize or SpecPoint.FrameSize ? "both sides are whole numbers of pixels, or both are left empty." : "this cannot be. Leave it empty for anything.")}";

    private async Task<Project?> FindAsync(string code, CancellationToken cancel) =>
        await findPiece.ProjectAsync(code, cancel) is { } id
            ? await db.Projects.AsNoTracking().Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == id, cancel)
            : null;
}
