using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Studio.Share;
using Chronotype.Studio.Tree;
using Chronotype.Web.Pages.Projects;
using Chronotype.Web.Pages.Shared;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Chronotype.Web.Pages.Tree;

/// <summary>A project's tree: its folders as a plan, what stands in one of them, and one file beside it.</summary>
public sealed partial class TreeModel(
    StudioDb db,
    FindPiece findPiece,
    WhoUses whoUses,
    TendTree tendTree,
    MatchOutputs matchOutputs,
    TendFiles tendFiles,
    MoveAndRelink moveAndRelink,
    ShareFiles shareFiles,
    FolderList folderList,
    StudioClock clock
) : PageModel
{
    /// <summary>The file that is looked at beside the list.</summary>
    [BindProperty(SupportsGet = true, Name = "file")]
    public Guid? Looked { get; set; }

    /// <summary>Which part of a long list, from 1.</summary>
    [BindProperty(SupportsGet = true, Name = "part")]
    public int Part { get; set; } = 1;

    public Project Record { get; private set; } = null!;
    public ProjectHead Head { get; private set; } = null!;
    public IReadOnlyList<PlanRow> Plan { get; private set; } = [];

    /// <summary>The folder that is looked at; null for the project's top.</summary>
    public PlanRow? Here { get; private set; }

    public FolderRows Rows { get; private set; } = null!;
    public FilePanel? Panel { get; private set; }
    public Notice? Notice { get; private set; }
    public DateTimeOffset Now => clock.Now;

    /// <summary>The folders that lie in the one that is looked at.</summary>
    public IEnumerable<PlanRow> Within => Plan.Where(f => f.Path.Folder == Here?.Path);

    public async Task<IActionResult> OnGetAsync(string project, string? folder, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        Record = record;
        Notice = Notice.Take(TempData);
        var path = await FolderAsync(folder, cancel);
        if (folder is not null && path is null)
            return Redirect(Places.OfTree(record.Code));
        if (record.Code != project)
            return Redirect(Places.OfTree(record.Code, path));
        Plan = await PlanRows.LoadAsync(db, record.Id, path, isWhole: false, cancel);
        Here = path is null ? null : Plan.FirstOrDefault(f => f.Path == path);
        Rows = await folderList.LoadAsync(record, path, Part, cancel);
        Part = Rows.Part;
        Head = await ProjectHead.LoadAsync(db, record, ProjectView.Tree, cancel);
        if (Looked is { } file)
            Panel = await FilePanel.LoadAsync(db, whoUses, clock, record, file, cancel);
        // A file is found wherever it stands by now.
        return Panel is { Entry.Path.Folder: { } now } && now != path ? Redirect(Places.OfTree(record.Code, now, Looked)) : Page();
    }

    /// <summary>One file, for the place beside the list.</summary>
    public async Task<IActionResult> OnGetPanelAsync(string project, CancellationToken cancel) =>
        await FindAsync(project, cancel) is { } record
        && Looked is { } file
        && await FilePanel.LoadAsync(db, whoUses, clock, record, file, cancel) is { } panel
            ? Partial("_Panel", (panel, clock.Now))
            : NotFound();

    /// <summary>The files of one series of a folder.</summary>
    public async Task<IActionResult> OnGetSeriesAsync(string project, Guid piece, EntryKind kind, CancellationToken cancel) =>
        await FindAsync(project, cancel) is { } record
            ? Partial("_Series", await folderList.SeriesAsync(record, piece, kind, cancel))
            : NotFound();

    /// <summary>What deleting, moving or renaming some files would touch, with the form that does it.</summary>
    public async Task<IActionResult> OnGetSightAsync(string project, Guid[] ids, TreeDeed deed, string? to, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        var folders = deed == TreeDeed.Move ? await PlanRows.LoadAsync(db, record.Id, null, isWhole: true, cancel) : [];
        return await Sight.LoadAsync(db, whoUses, record, deed, ids, cancel) is { } sight
            ? Partial("_Sight", sight with { Folders = folders, To = to })
            : NotFound();
    }

    private async Task<Project?> FindAsync(string project, CancellationToken cancel) =>
        await findPiece.WholeProjectAsync(project, cancel) is { } found ? Record = found : null;

    // As it is spelt there; null for the top, and where there is none.
    private async Task<ProjectPath?> FolderAsync(string? folder, CancellationToken cancel) =>
        folder is not null
        && ProjectPath.TryParse(folder.Trim('/'), out var path, out _)
        && await new ProjectTree(db, Record.Id).FindAsync(path, cancel) is { Kind: EntryKind.Folder } there
            ? there.Path
            : null;
}
