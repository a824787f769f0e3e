using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Share;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Uploads;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

public sealed class ProjectModel(
    StudioDb db,
    PlaceFile placeFile,
    FindPiece findPiece,
    MakeOutputs makeOutputs,
    ArrivedFiles arrivedFiles,
    SettleShare settleShare,
    ShareFiles shareFiles,
    IServiceScopeFactory scopes,
    Viewer viewer,
    Templates templates,
    StudioClock clock
) : PageModel
{
    /// <summary>So many pieces are shown as pictures; more are rows, in parts.</summary>
    public const int MostCards = 12;

    private const int MostRows = 60;

    /// <summary>A part of the names that are shown; empty for all.</summary>
    [BindProperty(SupportsGet = true, Name = "q")]
    public string? Q { get; set; }

    /// <summary><c>risk</c>, <c>kept</c>, <c>reserved</c> or <c>away</c>; empty for all on the go.</summary>
    [BindProperty(SupportsGet = true, Name = "state")]
    public string? State { get; set; }

    /// <summary>Which part of the rows, from 1.</summary>
    [BindProperty(SupportsGet = true, Name = "part")]
    public int Part { get; set; } = 1;

    /// <summary>The original that a piece is to be started from.</summary>
    [BindProperty(SupportsGet = true, Name = "from")]
    public Guid? FromId { get; set; }

    public TreeEntry? From { get; private set; }

    /// <summary>The save, of any piece of the studio, that a piece is to be started from.</summary>
    [BindProperty(SupportsGet = true, Name = "start")]
    public Guid? StartId { get; set; }

    public StartingSave? Start { get; private set; }

    public IReadOnlyList<Template> Templates { get; private set; } = [];

    /// <summary>How many pieces the project has, put away or not, and how many of them are put away.</summary>
    public int Count { get; private set; }

    public int Away { get; private set; }

    /// <summary>How many there are under the filters.</summary>
    public int Found { get; private set; }

    public int Parts => (Found + MostRows - 1) / MostRows;
    public bool IsLarge => Count - Away > MostCards;
    public StudioClock Clock => clock;
    public Project Record { get; private set; } = null!;
    public IReadOnlyList<PieceCard> Cards { get; private set; } = [];
    public ProjectHead Head { get; private set; } = null!;
    public HealthReport Health { get; private set; } = null!;

    /// <summary>What came on the share under names that fit no piece.</summary>
    public IReadOnlyList<ArrivedFile> Arrived { get; private set; } = [];

    /// <summary>The outputs that are not of the newest versions any more.</summary>
    public IReadOnlyList<StaleOutput> Stale { get; private set; } = [];

    /// <summary>The outputs that came, and whose version is not known.</summary>
    public IReadOnlyList<WaitingOutput> Waiting { get; private set; } = [];
    public IReadOnlyList<AskedSlot> Asked { get; private set; } = [];
    public DateTimeOffset Now { get; private set; }
    public Notice? Notice { get; private set; }

    public async Task<IActionResult> OnGetAsync(string project, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        if (record.Code != project)
            return Redirect(Places.Of(record));
        Record = record;
        Now = clock.Now;
        Notice = Notice.Take(TempData);
        var looked = Task.Run(() => LookAsync(record, cancel), cancel);
        Asked = await AskedSlot.LoadAsync(db, record, cancel);
        await LoadCardsAsync(record.Id, cancel);
        Head = await ProjectHead.LoadAsync(db, record, ProjectView.Pieces, cancel);
        if (FromId is { } from)
            From = await db
                .Entries.AsNoTracking()
                .FirstOrDefaultAsync(
                    e => e.Id == from && e.ProjectId == record.Id && e.Kind == EntryKind.OwnFile && e.DeletedAt == null,
                    cancel
                );
        if (StartId is { } start)
            Start = await templates.FindAsync(start, cancel);
        Templates = await templates.AllAsync(record.Id, cancel);
        Stale = await PieceOutputs.StaleAsync(db, record.Id, null, cancel);
        Arrived = await arrivedFiles.OfAsync(record, cancel);
        Waiting = await MatchOutputs.WaitingAsync(db, record.Id, cancel);
        Health = await looked;
        return Page();
    }

    /// <summary>Makes all outputs that are not of the newest versions anew.</summary>
    public async Task<IActionResult> OnPostOutputsAnewAsync(string project, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        var outcome = await makeOutputs.AskAnewAsync(User.Actor(), record.Id, null, cancel);
        Notice.Put(
            TempData,
            outcome.Done ? Notice.Done($"{OutputWords.Of(outcome.Result)} The old ones stay beside them.") : Notice.About(outcome.Refusal)
        );
        return Redirect(Places.Of(record));
    }

    /// <summary>Says what a file is that came on the share.</summary>
    /// <param name="piece">That it is a save of; null for a piece of its own, and for nothing.</param>
    /// <param name="remove">It is nothing, and goes off the share.</param>
    public async Task<IActionResult> OnPostArrivedAsync(string project, Guid file, Guid? piece, bool remove, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        var asked = (await arrivedFiles.OfAsync(record, cancel)).FirstOrDefault(a => a.File.Id == file);
        if (asked is null)
            Notice.Put(TempData, Notice.About(new Refusal.NoSuchEntry()));
        else if (remove)
        {
            var gone = await shareFiles.DeleteAsync(User.Actor(), record.Id, asked.File.Path, cancel: cancel);
            Notice.Put(
                TempData,
                gone.Done
                    ? Notice.Done($"{asked.File.Path.Name} is off the share. It stays under “Deleted” for {GracePeriod.Length.Days} days.")
                    : Notice.About(gone.Refusal)
            );
        }
        else
        {
            SaveTarget target = piece is { } id ? new SaveTarget.OfPiece(id) : new SaveTarget.NewPiece(record.Id, asked.Proposal.Slots);
            var taken = await settleShare.TakeAsync(User.Actor(), file, target, cancel);
            Notice.Put(
                TempData,
                taken.Done
                    ? Notice.Done(
                        $"{asked.File.Path.Name} is a save of {taken.Result.Piece.CurrentName} now, and so is what is saved over it."
                    )
                    : Notice.About(taken.Refusal)
            );
        }
        return Redirect(Places.Of(record));
    }

    // On records of its own, beside the pieces: of a large project each takes as long as the other.
    private async Task<HealthReport> LookAsync(Project record, CancellationToken cancel)
    {
        await using var scope = scopes.CreateAsyncScope();
        // With the same eyes.
        scope.ServiceProvider.GetRequiredService<Viewer>().Is(viewer);
        return await scope.ServiceProvider.GetRequiredService<ProjectHealth>().LookAsync(record, cancel);
    }

    /// <summary>The same list with another part of it shown.</summary>
    public string PartOf(int part) =>
        QueryString
            .Create(
                new Dictionary<string, string?>
                {
                    ["q"] = Q,
                    ["state"] = State,
                    ["part"] = part > 1 ? part.ToString(System.Globalization.CultureInfo.InvariantCulture) : null,
                }.Where(c => !string.IsNullOrEmpty(c.Value))
            )
            .ToString()
            is { Length: > 0 } query
            ? query
            : "?";

    private async Task LoadCardsAsync(Guid id, CancellationToken cancel)
    {
        var all = db.Pieces.Where(p => p.ProjectId == id);
        Count = await all.CountAsync(cancel);
        Away = await all.CountAsync(p => p.PutAwayAt != null, cancel);
        var shown = State == "away" ? all.Where(p => p.PutAwayAt != null) : all.Where(p => p.PutAwayAt == null);
        shown = State switch
        {
            "risk" => shown.AtRisk(),
            "kept" => shown.Where(p => p.Saves.Any(s => s.Number != null)),
            "reserved" => shown.Where(p => p.HighestSequence == 0),
            _ => shown,
        };
        if (Q is { Length: > 0 } q)
            shown = shown.Where(p => p.CurrentName.Contains(q));
        Found = await shown.CountAsync(cancel);
        Part = Math.Clamp(Part, 1, Math.Max(1, Parts));
        var risky = shown.AtRisk();
        var part = shown
            .OrderByDescending(p => risky.Any(r => r.Id == p.Id))
            .ThenByDescending(p =>
                p.Saves.OrderByDescending(s => s.Sequence).Select(s => (DateTimeOffset?)s.ArrivedAt).FirstOrDefault() ?? p.StartedAt
            )
            .ThenBy(p => p.CurrentName)
            .Skip((Part - 1) * MostRows)
            .Take(MostRows);
        Cards =
        [
            // Of many, which are rows, no strip is drawn.
            .. (await PieceCards.LoadAsync(db, await part.Select(p => p.Id).ToListAsync(cancel), withBars: !IsLarge, cancel))
                .OrderByDescending(c => c.Standing.RiskSince is not null)
                .ThenByDescending(c => c.LastAt),
        ];
    }

    /// <summary>The full name that results, while it is being typed.</summary>
    public async Task<IActionResult> OnGetNameAsync(string project, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        var slots = SlotFields.From(Request.Query).ToDictionary(s => s.Key, s => PieceSlots.Bounded(s.Value));
        var names = PieceNames.Of(record, slots);
        var (current, faults) = names.Current();
        // What is not typed yet is no fault yet.
        if (current is null)
            return Partial(
                "_ResultingName",
                new ResultingName(
                    null,
                    null,
                    faults.FirstOrDefault(f => !string.IsNullOrWhiteSpace(slots.GetValueOrDefault(f.Slot)))?.Message
                )
            );
        var stem = current.Stem;
        var person = User.PersonId();
        var taken = await db.Pieces.AnyAsync(
            p => p.ProjectId == record.Id && p.CurrentName == stem && (p.HighestSequence > 0 || p.StartedById != person),
            cancel
        );
        var (first, wrong) = names.Working(User.Initials(), names.Next(null), clock.Today, "");
        return Partial(
            "_ResultingName",
            new ResultingName(
                first,
                stem,
                taken ? "A piece of this name is there already. Change what it is called, or drop the file on that piece."
                    : first is null ? wrong[0].Message
                    : null
            )
        );
    }

    /// <summary>What a dropped file's name says: where it belongs, and what a new piece would be called by.</summary>
    public async Task<IActionResult> OnGetFileAsync(string project, string? file, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        return Partial("_Proposal", new ProposalView(record.Code, await placeFile.DoAsync(record.Id, file ?? "", User.Initials(), cancel)));
    }

    private async Task<Project?> FindAsync(string code, CancellationToken cancel) =>
        await findPiece.ProjectAsync(code, cancel) is { } id
            ? await db.Projects.AsNoTracking().Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == id, cancel)
            : null;
}

/// <param name="First">The first version's name; null where there is none yet.</param>
/// <param name="Current">The current file's.</param>
public sealed record ResultingName(Core.Naming.FormattedName? First, string? Current, string? Fault);

/// <summary>A proposal with the project that it is for.</summary>
public sealed record ProposalView(string Project, Proposal Proposal)
{
    public string Address(ProposedPlace place) =>
        $"/projects/{Uri.EscapeDataString(Project)}/{Uri.EscapeDataString(place.CurrentName)}/saves";
}
