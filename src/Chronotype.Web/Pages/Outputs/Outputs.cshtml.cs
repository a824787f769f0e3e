using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Drawings;
using Chronotype.Core.Naming;
using Chronotype.Core.Outputs;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Outputs;

/// <summary>A recipe, and what it made of the piece.</summary>
/// <param name="Latest">Its newest output; null for none.</param>
/// <param name="IsForThis">Whether it makes anything of the version that is looked at.</param>
public sealed record RecipeRow(Recipe Recipe, ShownOutput? Latest, bool IsForThis, bool IsUnderWay);

/// <summary>What can be made of a version, what that gives up, and what was made of the piece.</summary>
public sealed class OutputsModel(
    StudioDb db,
    FindPiece findPiece,
    MakeOutputs makeOutputs,
    JobQueue queue,
    IContentStore store,
    OutputEstimates estimates,
    StudioClock clock
) : PageModel
{
    // A small picture is there before anybody has looked up.
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2.5);

    /// <summary>The version; the newest without.</summary>
    [BindProperty(SupportsGet = true, Name = "b")]
    public int? Number { get; set; }

    /// <summary>The recipe's key; the first that makes anything of it without.</summary>
    [BindProperty(SupportsGet = true, Name = "recipe")]
    public string? Key { get; set; }

    /// <summary>The layers, groups or nodes that it is made of alone, by name; none for all.</summary>
    [BindProperty(SupportsGet = true, Name = "only")]
    public string[] Only { get; set; } = [];

    /// <summary>What it can be made of alone.</summary>
    public IReadOnlyList<string> Parts { get; private set; } = [];

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
    public ShownOutput? Already =>
        Made.FirstOrDefault(m =>
            m.Record.RecipeKey == Chosen?.Recipe.Key && m.Record.Source == Save?.MainHash && m.Layers.SequenceEqual(Chosen.Recipe.Layers)
        );

    /// <summary>The job that makes the chosen output; null where none does.</summary>
    public Job? Work { get; private set; }

    public DateTimeOffset Now => clock.Now;

    /// <summary>How many outputs of the piece can be made anew, since their versions are not the newest.</summary>
    public int Stale { get; private set; }

    /// <summary>The way of a cutting machine over the output that was made; null for any other output.</summary>
    public CutPath? Cut { get; private set; }

    public bool IsUnderWay => Rows.Any(r => r.IsUnderWay);

    public async Task<IActionResult> OnGetAsync(string project, string piece, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        if (found.Project.Code != project || found.CurrentName != piece)
            return Redirect(Places.OfOutputs(found.Project.Code, found.CurrentName));
        var record = await db
            .Pieces.AsNoTracking()
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .FirstOrDefaultAsync(p => p.Id == found.Id, cancel);
        if (record is null)
            return NotFound();
        Record = record;
        Notice = Notice.Take(TempData);
        await LoadAsync(cancel);
        return Save is null && Number is not null ? NotFound() : Page();
    }

    public async Task<IActionResult> OnPostMakeAsync(string project, string piece, Guid save, string? recipe, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        var outcome = await makeOutputs.AskAsync(User.Actor(), found.Id, save, recipe ?? "", Only, cancel);
        var number = await db.Saves.Where(s => s.Id == save).Select(s => s.Number).FirstOrDefaultAsync(cancel);
        if (!outcome.Done)
            Notice.Put(TempData, Notice.About(outcome.Refusal));
        else if (outcome.Result.Already is not null)
            Notice.Put(
                TempData,
                Notice.Done("The same recipe made the same of this content before: that stands there, and nothing was made again.")
            );
        else
            await queue.EndedAsync(JobKind.MakeOutput, MakeOutputs.SubjectOf(save, recipe ?? "", Only), Patience, cancel);
        return Redirect(Places.OfOutputs(found.Project.Code, found.CurrentName, number, recipe, Only));
    }

    /// <summary>About how large the chosen output will be.</summary>
    public Task<IActionResult> OnGetEstimateAsync(string project, string piece, CancellationToken cancel) =>
        EstimateAsync("_Estimate", project, piece, cancel);

    /// <summary>What will become of the texts of a drawing.</summary>
    public Task<IActionResult> OnGetTextsAsync(string project, string piece, CancellationToken cancel) =>
        EstimateAsync("_Texts", project, piece, cancel);

    private async Task<IActionResult> EstimateAsync(string partial, string project, string piece, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        var main = await db
            .Saves.Where(s => s.PieceId == found.Id && s.Line.IsCurrent && s.Number == Number)
            .Select(s => (ContentHash?)s.MainHash)
            .FirstOrDefaultAsync(cancel);
        if (main is not { } content || await MakeOutputs.FindAsync(db, found.ProjectId, Key ?? "", Only, cancel) is not { } recipe)
            return Content("");
        return Partial(partial, await estimates.GetAsync(found.ProjectId, content, recipe, cancel));
    }

    /// <summary>Makes what is chosen of several versions by several recipes.</summary>
    public async Task<IActionResult> OnPostSeveralAsync(
        string project,
        string piece,
        int[] numbers,
        string[] recipes,
        CancellationToken cancel
    )
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        var saves = await db
            .Saves.Where(s => s.PieceId == found.Id && s.Line.IsCurrent && numbers.Contains(s.Number ?? -1))
            .OrderByDescending(s => s.Number)
            .Select(s => s.Id)
            .ToListAsync(cancel);
        var asked = saves.SelectMany(s => recipes.Select(r => (found.Id, s, r))).ToList();
        if (asked.Count == 0)
            Notice.Put(TempData, new Notice(NoticeKind.Bad, "Choose a version and a recipe at least. Nothing was made."));
        else
            Say(await makeOutputs.AskAsync(User.Actor(), asked, cancel));
        return Redirect(Places.OfOutputs(found.Project.Code, found.CurrentName, Number, Key));
    }

    /// <summary>Makes all outputs of the piece anew that are not of the newest version.</summary>
    public async Task<IActionResult> OnPostAnewAsync(string project, string piece, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        Say(await makeOutputs.AskAnewAsync(User.Actor(), found.ProjectId, found.Id, cancel));
        return Redirect(Places.OfOutputs(found.Project.Code, found.CurrentName));
    }

    private void Say(Outcome<AskedOutputs> outcome) =>
        Notice.Put(TempData, outcome.Done ? Notice.Done(OutputWords.Of(outcome.Result)) : Notice.About(outcome.Refusal));

    // A stand-in reads what was made here back, as a machine would.
    private async Task<CutPath?> FollowAsync(ContentHash file, CancellationToken cancel)
    {
        using var reader = new StreamReader(store.OpenRead(file));
        try
        {
            return new CuttingMachine().Follow(await reader.ReadToEndAsync(cancel));
        }
        catch (Exception e) when (e is FormatException or IOException)
        {
            return null;
        }
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
        Parts = Facts is { Fault: null } read && FileParts.Of(read).Count > 1 ? FileParts.Names(read) : [];
        Only = [.. Only.Where(Parts.Contains).Distinct()];
        Job? Of(Recipe recipe) =>
            jobs.Find(j => j.Subject == MakeOutputs.SubjectOf(Save.Id, recipe.Key, Only) || j.Subject == $"{Save.Id}/{recipe.Key}");
        Rows =
        [
            .. (await RecipeBook.OfAsync(db, Record.ProjectId, cancel))
                .Select(s => s.Recipe)
                .Select(r => Only.Length > 0 && (r.Picture ?? (object?)r.Drawing) is not null ? r with { Layers = Only } : r)
                .Select(r => new RecipeRow(
                    r,
                    Made.FirstOrDefault(m => m.Record.RecipeKey == r.Key && m.Layers.SequenceEqual(r.Layers)),
                    Facts is { Fault: null } facts && GivenUp.Of(facts, r) is not null,
                    Of(r) is { State: JobState.Waiting or JobState.Running }
                )),
        ];
        Stale = (await PieceOutputs.StaleAsync(db, Record.ProjectId, Record.Id, cancel)).Count(s =>
            !s.Output.IsReceived && Rows.Any(r => r.Recipe.Key == s.Output.Record.RecipeKey && !r.IsUnderWay)
        );
        Chosen = Rows.FirstOrDefault(r => r.Recipe.Key == Key) ?? Rows.FirstOrDefault(r => r.IsForThis);
        if (Chosen is not { IsForThis: true } chosen)
            return;
        StudioFormats = await Chronotype.Studio.Formats.StudioFormats.OfAsync(db, cancel);
        Losses = GivenUp.Of(Facts!, chosen.Recipe)!;
        Frame = MakeOutputs.FrameOf(Facts!, chosen.Recipe);
        var hand = await db.Users.Where(u => u.Id == Save.KeptById).Select(u => u.Initials).FirstOrDefaultAsync(cancel) ?? "";
        Name = makeOutputs.NameOf(Record, Save, hand, Facts!, chosen.Recipe);
        Folder = await MakeOutputs.FolderAsync(db, Record.ProjectId, chosen.Recipe, cancel);
        Work = Of(chosen.Recipe) is { State: JobState.Waiting or JobState.Running } work ? work : null;
        if (chosen.Recipe.Drawing is { File: not DrawingFile.Svg } && Already is { Size: < CutFile.MaxLength } cut)
            Cut = await FollowAsync(cut.Record.Hash, cancel);
        Fault =
            Already is null && Of(chosen.Recipe) is { State: JobState.Done, Result: { } result }
                ? RecordJson.Read<FileFault>(result)
                : null;
    }
}
