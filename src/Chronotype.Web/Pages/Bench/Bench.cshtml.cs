using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Bench;

/// <summary>Some rows of the bench under one heading.</summary>
public sealed record BenchGroup(string Title, string? Address, IReadOnlyList<PieceCard> Cards);

/// <summary>All pieces that need somebody, and behind them the pieces on the go.</summary>
public sealed class BenchModel(StudioDb db, StudioClock clock, KeepSave keepSave) : PageModel
{
    /// <summary>So many of those at risk are shown with their faces; all others as rows, and none is left out.</summary>
    public const int MostFaces = 6;

    /// <summary>So many older ones are added each time that more are asked for.</summary>
    public const int Part = 60;

    // Nobody has more in hand at a time; where more have come at once, somebody has to look at them.
    private const int MostInHand = 6;

    private const int MostRecent = 18;
    private static readonly TimeSpan Recent = TimeSpan.FromDays(7);

    // Whoever saved so short a time ago is at it; but what has stood unkept for so long is told, at it or not.
    private static readonly TimeSpan AtIt = TimeSpan.FromMinutes(15),
        TooLong = TimeSpan.FromHours(2);

    /// <summary>The initials of the person whose pieces are shown; empty for everyone's.</summary>
    [BindProperty(SupportsGet = true, Name = "person")]
    public string? Person { get; set; }

    /// <summary>The code of the project whose pieces are shown; empty for all.</summary>
    [BindProperty(SupportsGet = true, Name = "project")]
    public string? Project { get; set; }

    /// <summary><c>risk</c>, <c>kept</c>, <c>reserved</c>, or <c>away</c> for what was put away; empty for all on the go.</summary>
    [BindProperty(SupportsGet = true, Name = "state")]
    public string? State { get; set; }

    /// <summary><c>project</c> groups what is kept by project; it is told by time else.</summary>
    [BindProperty(SupportsGet = true, Name = "order")]
    public string? Order { get; set; }

    /// <summary>How many times more of the older work was asked for.</summary>
    [BindProperty(SupportsGet = true, Name = "more")]
    public int More { get; set; }

    /// <summary>Those that are at risk, or wait for somebody to look at them, and that nobody is working on just now.</summary>
    public IReadOnlyList<PieceCard> Needing { get; private set; } = [];

    /// <summary>Those that are being worked on just now: saves of them arrive, and nobody has to be told.</summary>
    public IReadOnlyList<PieceCard> InHand { get; private set; } = [];

    /// <summary>All that are at risk.</summary>
    public int AtRiskCount => Needing.Concat(InHand).Count(c => c.Standing.RiskSince is not null);
    public IReadOnlyList<BenchGroup> Others { get; private set; } = [];
    public IReadOnlyList<string> People { get; private set; } = [];
    public IReadOnlyList<string> Projects { get; private set; } = [];

    /// <summary>How many pieces there are, at risk or not, under the filters.</summary>
    public int Count { get; private set; }

    /// <summary>How many pieces of the whole studio are at risk and are not shown, since others were chosen.</summary>
    public int AlsoAtRisk { get; private set; }

    /// <summary>How many more there are that are not shown.</summary>
    public int Older { get; private set; }

    /// <summary>What the link to them says.</summary>
    public string OlderWords => Older > Part ? $"{Part} more of {Older:N0} older" : DisplayText.Count(Older, "older one", "older ones");

    /// <summary>It is a studio of made-up people, to try things in.</summary>
    public bool IsDemo { get; private set; }

    public DateTimeOffset Now { get; private set; }
    public StudioClock Clock => clock;
    public Notice? Notice { get; private set; }
    public bool IsFiltered => Person is { Length: > 0 } || Project is { Length: > 0 } || State is { Length: > 0 };

    public string Title =>
        Needing.Count switch
        {
            0 when Count == 0 => "Bench",
            0 when InHand.Count > 0 => "Nothing needs you",
            0 => IsFiltered ? "None of these needs you" : "Everything is kept",
            1 => "1 piece needs you",
            var n => $"{n:N0} pieces need you",
        };

    public string Summary
    {
        get
        {
            if (Count == 0)
                return "";
            var of =
                $"{(Needing.Count == 0 ? "" : "of ")}{DisplayText.Count(Count, "piece", "pieces")} in "
                + DisplayText.Count(Project is { Length: > 0 } ? 1 : Projects.Count, "project", "projects");
            return Needing.Select(c => c.Standing.RiskSince).Min() is { } longest
                ? $"{of}. The longest has stood unkept for {DisplayText.Span(Now - longest)}."
                : of;
        }
    }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Now = clock.Now;
        Notice = Notice.Take(TempData);
        IsDemo = await db.Studio.AnyAsync(s => s.IsDemo, cancel);
        Projects = await db.Projects.Where(p => p.PutAwayAt == null).OrderBy(p => p.Code).Select(p => p.Code).ToListAsync(cancel);
        People = await db.Users.OrderBy(p => p.Initials).Select(p => p.Initials).ToListAsync(cancel);
        var pieces = Filtered();
        Count = await pieces.CountAsync(cancel);
        var risky = await pieces.AtRisk().Select(p => p.Id).ToListAsync(cancel);
        if (State is null or "" or "risk")
        {
            var cardsAtRisk = await PieceCards.LoadAsync(db, risky, withBars: false, cancel);
            InHand = [.. cardsAtRisk.Where(IsInHand).OrderByDescending(c => c.LastAt).Take(MostInHand)];
            Needing = [.. cardsAtRisk.Except(InHand).OrderByDescending(c => c.IsNewestFaulty).ThenBy(c => c.Standing.RiskSince)];
        }
        if (IsFiltered)
            AlsoAtRisk = await db.Pieces.OnTheGo().AtRisk().CountAsync(cancel) - AtRiskCount;
        var others = pieces.Where(p => !risky.Contains(p.Id));
        if (State is "kept" or "reserved")
            others = others.Where(p => p.Saves.Any(s => s.Number != null) == (State == "kept"));
        var shown = State == "risk" ? [] : await ShownAsync(others, cancel);
        // Those at risk are told by their newest save; the few of them that are shown as pictures have their last versions, too.
        var faces = Needing.Take(MostFaces).Concat(InHand).Select(c => c.Id).ToList();
        var full = (await PieceCards.LoadAsync(db, [.. faces, .. shown], withBars: true, cancel)).ToDictionary(c => c.Id);
        // Somebody may have kept one of them in this very moment.
        Needing = [.. Needing.Select(c => full.GetValueOrDefault(c.Id, c)).Where(c => c.Standing.RiskSince is not null)];
        InHand = [.. InHand.Select(c => full.GetValueOrDefault(c.Id, c)).Where(c => c.Standing.RiskSince is not null)];
        if (State == "risk")
            return;
        var cards = shown.Select(id => full.GetValueOrDefault(id)).OfType<PieceCard>().OrderByDescending(c => c.LastAt).ToList();
        Older = await others.CountAsync(cancel) - cards.Count;
        Others =
            cards.Count == 0 ? []
            : Order == "project"
                ?
                [
                    .. cards
                        .GroupBy(c => (c.Project, c.ProjectTitle))
                        .Select(g => new BenchGroup(g.Key.ProjectTitle, $"/projects/{Uri.EscapeDataString(g.Key.Project)}", [.. g])),
                ]
            :
            [
                new BenchGroup(
                    State == "away" ? "Put away"
                        : More > 0 ? "Kept"
                        : "Worked on this week",
                    null,
                    cards
                ),
            ];
    }

    private bool IsInHand(PieceCard card) =>
        !card.IsNewestFaulty && Now - card.LastAt < AtIt && (card.Standing.RiskSince is not { } since || Now - since < TooLong);

    /// <summary>The same bench with something else chosen.</summary>
    public string With(string key, string? value)
    {
        var chosen = new Dictionary<string, string?>
        {
            ["person"] = Person,
            ["project"] = Project,
            ["state"] = State,
            ["order"] = Order,
            ["more"] = More > 0 ? $"{More}" : null,
            [key] = value,
        };
        return "/" + QueryString.Create(chosen.Where(c => !string.IsNullOrEmpty(c.Value)));
    }

    // The newest first: those of this week alone before more are asked for.
    private Task<List<Guid>> ShownAsync(IQueryable<Piece> others, CancellationToken cancel)
    {
        var since = More > 0 || State == "away" ? DateTimeOffset.MinValue : Now - Recent;
        return others
            .Select(p => new
            {
                p.Id,
                LastAt = p.Saves.OrderByDescending(s => s.Sequence).Select(s => (DateTimeOffset?)s.ArrivedAt).FirstOrDefault()
                    ?? p.StartedAt,
            })
            .Where(p => p.LastAt >= since)
            .OrderByDescending(p => p.LastAt)
            .Select(p => p.Id)
            .Take(MostRecent + (Math.Clamp(More, 0, 1000) * Part))
            .ToListAsync(cancel);
    }

    private IQueryable<Piece> Filtered()
    {
        var pieces = State == "away" ? db.Pieces.Where(p => p.PutAwayAt != null || p.Project.PutAwayAt != null) : db.Pieces.OnTheGo();
        if (Project is { Length: > 0 } project)
            pieces = pieces.Where(p => p.Project.Code == project);
        if (Person is { Length: > 0 } person)
            pieces = pieces.Where(p =>
                db.Users.Any(u => u.Initials == person && (u.Id == p.StartedById || p.Saves.Any(s => s.ArrivedById == u.Id)))
            );
        return pieces;
    }

    /// <param name="what">The piece and the save, with a slash between them.</param>
    public async Task<IActionResult> OnPostKeepAsync(string? what, CancellationToken cancel)
    {
        if (what?.Split('/') is not [var first, var second] || !Guid.TryParse(first, out var piece) || !Guid.TryParse(second, out var save))
            return BadRequest();
        var at = await db.Pieces.Where(p => p.Id == piece).Select(p => new { p.Project.Code, p.CurrentName }).FirstOrDefaultAsync(cancel);
        if (at is null)
            return NotFound();
        var outcome = await keepSave.DoAsync(User.Actor(), piece, save, null, cancel: cancel);
        var said = outcome.Done ? Notice.About(outcome.Result) : Notice.About(outcome.Refusal);
        Notice.Put(TempData, said);
        // A question is answered where the piece can be seen.
        return said.Kind == NoticeKind.Done
            ? Redirect(With("order", Order))
            : RedirectToPage("/Pieces/Piece", new { project = at.Code, piece = at.CurrentName });
    }
}
