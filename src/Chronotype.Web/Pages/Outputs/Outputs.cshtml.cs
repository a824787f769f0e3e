using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Outputs;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Outputs;

/// <summary>A recipe, and what it made of the piece.</summary>
/// <param name="Latest">Its newest output; null for none.</param>
/// <param name="IsForThis">Whether it makes anything of the version that is looked at.</param>
public sealed record RecipeRow(Recipe Recipe, ShownOutput? Latest, bool IsForThis, bool IsUnderWay);

/// <summary>What can be made of a version, what that gives up, and what was made of the piece.</summary>
public sealed class OutputsModel(StudioDb db, FindPiece findPiece, MakeOutputs makeOutputs, JobQueue queue) : PageModel
{
    // A small picture is there before anybody has looked up.
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2.5);

    /// <summary>The version; the newest without.</summary>
    [BindProperty(SupportsGet = true, Name = "b")]
    public int? Number { get; set; }

    /// <summary>The recipe's key; the first that makes anything of it without.</summary>
    [BindProperty(SupportsGet = true, Name = "recipe")]
    public string? Key { get; set; }

    public Piece Record { get; private set; } = null!;

    /// <summary>Null where nothing is kept yet.</summary>
    public Save? Save { get; private set; }

    public FileFacts? Facts { get; private set; }
    public IReadOnlyList<VersionNumber> Versions { get; private set; } = [];
    public IReadOnlyList<RecipeRow> Rows { get; private set; } = [];
    public RecipeRow? Chosen { get; private set; }
    public IReadOnlyList<ShownOutput> Made { get; private set; } = [];
    public IReadOnlyList<GivenUp> Losses { get; private set; } = [];
    public PictureFrame? Frame { get; private set; }

    /// <summary>What the studio says of formats.</summary>
    public IReadOnlyList<FormatNote> StudioFormats { get; private set; } = [];

    /// <summary>As it will be called; null where nothing is made.</summary>
    public FormattedName? Name { get; private set; }

    public ProjectPath? Folder { get; private set; }

    /// <summary>Why a recipe could not be followed the last time; null where it could.</summary>
    public FileFault? Fault { get; private set; }

    public Notice? Notice { get; private set; }

    public string Shown => new VersionNumber(Save!.Number!.Value).ToString();

    /// <summary>The output that the chosen recipe made of this very version; null for none.</summary>
    public ShownOutput? Already => Made.FirstOrDefault(m => m.Record.RecipeKey == Chosen?.Recipe.Key && m.Record.Source == Save?.MainHash);

    public bool IsUnderWay => Rows.Any(r => r.IsUnderWay);

    public async Task<IActionResult> OnGetAsync(string project, string piece, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        if (found.Project.Code != project || found.CurrentName != piece)
            return Redirect(Places.OfOutputs(found.Project.Code, found.CurrentName));
        Record = await db
            .Pieces.AsNoTracking()
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .FirstAsync(p => p.Id == found.Id, cancel);
        Notice = Notice.Take(TempData);
        await LoadAsync(cancel);
        return Save is null && Number is not null ? NotFound() : Page();
    }

    public async Task<IActionResult> OnPostMakeAsync(string project, string piece, Guid save, string? recipe, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        var outcome = await makeOutputs.AskAsync(User.Actor(), found.Id, save, recipe ?? "", cancel);
        var number = await db.Saves.Where(s => s.Id == save).Select(s => s.Number).FirstOrDefaultAsync(cancel);
        if (!outcome.Done)
            Notice.Put(TempData, Notice.About(outcome.Refusal));
        else if (outcome.Result.Already is not null)
            Notice.Put(
                TempData,
                Notice.Done("The same recipe made the same of this content before: that stands there, and nothing was made again.")
            );
        else
            await queue.EndedAsync(JobKind.MakeOutput, $"{save}/{recipe}", Patience, cancel);
        return Redirect(Places.OfOutputs(found.Project.Code, found.CurrentName, number, recipe));
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        var kept = db.Saves.AsNoTracking().Where(s => s.PieceId == Record.Id && s.Number != null && s.Line.IsCurrent);
        Versions =
        [
            .. (await kept.OrderByDescending(s => s.Number).Select(s => s.Number!.Value).ToListAsync(cancel)).Select(n => new VersionNumber(
                n
            )),
        ];
        Save = await (
            Number is { } number ? kept.Where(s => s.Number == number) : kept.OrderByDescending(s => s.Number)
        ).FirstOrDefaultAsync(cancel);
        if (Save is null)
            return;
        Facts = await ContentReader.KnownAsync(db, Save.MainHash, cancel);
        Made = await PieceOutputs.OfAsync(db, Record.Id, cancel);
        var jobs = await db
            .Jobs.Where(j => j.Kind == JobKind.MakeOutput && j.Subject.StartsWith(Save.Id.ToString()))
            .OrderByDescending(j => j.Id)
            .ToListAsync(cancel);
        Job? Of(Recipe recipe) => jobs.Find(j => j.Subject == $"{Save.Id}/{recipe.Key}");
        Rows =
        [
            .. (await RecipeBook.OfAsync(db, Record.ProjectId, cancel))
                .Select(s => s.Recipe)
                .Select(r => new RecipeRow(
                    r,
                    Made.FirstOrDefault(m => m.Record.RecipeKey == r.Key),
                    Facts is { Fault: null } facts && GivenUp.Of(facts, r) is not null,
                    Of(r) is { State: JobState.Waiting or JobState.Running }
                )),
        ];
        Chosen = Rows.FirstOrDefault(r => r.Recipe.Key == Key) ?? Rows.FirstOrDefault(r => r.IsForThis);
        if (Chosen is not { IsForThis: true } chosen)
            return;
        StudioFormats = await Studio.Formats.StudioFormats.OfAsync(db, cancel);
        Losses = GivenUp.Of(Facts!, chosen.Recipe)!;
        Frame = MakeOutputs.FrameOf(Facts!, chosen.Recipe);
        var hand = await db.Users.Where(u => u.Id == Save.KeptById).Select(u => u.Initials).FirstOrDefaultAsync(cancel) ?? "";
        Name = makeOutputs.NameOf(Record, Save, hand, Facts!, chosen.Recipe);
        Folder = await MakeOutputs.FolderAsync(db, Record.ProjectId, chosen.Recipe, cancel);
        Fault =
            Already is null && Of(chosen.Recipe) is { State: JobState.Done, Result: { } result }
                ? RecordJson.Read<FileFault>(result)
                : null;
    }
}
