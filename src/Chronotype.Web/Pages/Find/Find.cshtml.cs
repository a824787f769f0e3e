using Chronotype.Storage;
using Chronotype.Storage.Finding;
using Chronotype.Studio;
using Chronotype.Studio.Finding;
using Chronotype.Web.Pages.Shared;
using Microsoft.AspNetCore.Html;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Find;

/// <summary>What was found of one piece, or of a project outside its pieces.</summary>
/// <param name="Title">The piece's or the project's own name.</param>
public sealed record FoundGroup(string Title, string Address, string Where, bool IsPutAway, IReadOnlyList<Found> Hits);

/// <summary>Finds work by what it is called and what was written about it, as one types.</summary>
public sealed class FindModel(StudioDb db, FindWork find, StudioClock clock) : PageModel
{
    private const int Most = 60,
        MostOfGroup = 4;

    [BindProperty(SupportsGet = true, Name = "q")]
    public string? Q { get; set; }

    /// <summary>A kind's name in small letters; empty for all.</summary>
    [BindProperty(SupportsGet = true, Name = "kind")]
    public string? Kind { get; set; }

    [BindProperty(SupportsGet = true, Name = "client")]
    public string? Client { get; set; }

    [BindProperty(SupportsGet = true, Name = "person")]
    public string? Person { get; set; }

    /// <summary><c>week</c>, <c>month</c> or <c>year</c>; empty for all times.</summary>
    [BindProperty(SupportsGet = true, Name = "when")]
    public string? When { get; set; }

    public IReadOnlyList<FoundGroup> Groups { get; private set; } = [];
    public IReadOnlyList<string> Words { get; private set; } = [];
    public IReadOnlyList<(string Code, string Name)> Clients { get; private set; } = [];
    public IReadOnlyList<string> People { get; private set; } = [];
    public bool IsMore { get; private set; }
    public DateTimeOffset Now => clock.Now;
    public StudioClock Clock => clock;

    /// <summary>What is shown, as an address.</summary>
    public string Address =>
        "/find"
        + QueryString.Create(
            new Dictionary<string, string?>
            {
                ["q"] = Q,
                ["kind"] = Kind,
                ["client"] = Client,
                ["person"] = Person,
                ["when"] = When,
            }.Where(c => !string.IsNullOrEmpty(c.Value))
        );

    public bool IsFiltered => new[] { Kind, Client, Person, When }.Any(f => !string.IsNullOrEmpty(f));

    /// <summary>The kinds that can be chosen, as people call them.</summary>
    public static IReadOnlyList<(FoundKind Kind, string Title)> Kinds { get; } =
    [
        (FoundKind.Project, "projects"),
        (FoundKind.Piece, "pieces"),
        (FoundKind.Version, "versions and notes"),
        (FoundKind.Milestone, "milestones"),
        (FoundKind.Loose, "loose saves"),
        (FoundKind.File, "other files"),
        (FoundKind.FormerName, "former names"),
    ];

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        Words = FindWork.WordsOf(Q ?? "");
        await LoadAsync(cancel);
        if (Request.Headers.ContainsKey("HX-Request"))
            return Partial("_Found", this);
        Clients = (await db.Clients.OrderBy(c => c.Name).Select(c => new { c.Code, c.Name }).ToListAsync(cancel)).ConvertAll(c =>
            (c.Code, c.Name)
        );
        People = await db.Users.OrderBy(p => p.Initials).Select(p => p.Initials).ToListAsync(cancel);
        return Page();
    }

    /// <summary>A text with what was looked for in bold.</summary>
    public IHtmlContent Marked(string text)
    {
        var html = new HtmlContentBuilder();
        var at = 0;
        while (at < text.Length)
        {
            var (from, length) = Next(text, at);
            html.Append(text[at..from]);
            if (length > 0)
                html.AppendHtml("<b>").Append(text.Substring(from, length)).AppendHtml("</b>");
            at = from + length;
        }
        return html;
    }

    /// <summary>What a hit is, in a word.</summary>
    public static string Says(Found hit) =>
        hit.Kind switch
        {
            FoundKind.Version => "version",
            FoundKind.Milestone => "milestone",
            FoundKind.Loose => "loose save",
            FoundKind.File => "file",
            FoundKind.FormerName => "formerly",
            FoundKind.Piece => "piece",
            _ => "project",
        };

    public static string Link(Found hit) =>
        hit.Entry is { } entry ? $"/files/{entry}"
        : hit.Piece is null ? Places.OfProject(hit.Project)
        : hit.Save is { } save ? $"{Places.OfPiece(hit.Project, hit.Piece)}?save={save}"
        : Places.OfPiece(hit.Project, hit.Piece);

    private async Task LoadAsync(CancellationToken cancel)
    {
        if (Words.Count == 0)
            return;
        var since = When switch
        {
            "week" => clock.Now.AddDays(-7),
            "month" => clock.Now.AddMonths(-1),
            "year" => clock.Now.AddYears(-1),
            _ => (DateTimeOffset?)null,
        };
        var query = new FindQuery(Q!, Enum.TryParse<FoundKind>(Kind, ignoreCase: true, out var kind) ? kind : null, Client, Person, since);
        var hits = await find.DoAsync(query, Most, cancel);
        IsMore = hits.Count == Most;
        // Pieces and projects that are called so come first, however old they are; what is in them comes in the order of its time.
        if (query.Kind is null)
            hits =
            [
                .. await find.DoAsync(query with { Kind = FoundKind.Project }, 6, cancel),
                .. await find.DoAsync(query with { Kind = FoundKind.Piece }, 12, cancel),
                .. hits.Where(h => h.Kind is not (FoundKind.Project or FoundKind.Piece)),
            ];
        Groups =
        [
            .. hits.GroupBy(h => (h.Project, h.Piece))
                .Select(g => new FoundGroup(
                    g.Key.Piece ?? g.Key.Project,
                    g.Key.Piece is { } piece ? Places.OfPiece(g.Key.Project, piece) : Places.OfProject(g.Key.Project),
                    g.Key.Piece is null ? g.First().ProjectTitle : $"{g.Key.Project} · {g.First().ProjectTitle}",
                    g.First().IsPutAway,
                    [.. g.Where(h => h.Kind is not (FoundKind.Piece or FoundKind.Project))]
                )),
        ];
    }

    public static IEnumerable<Found> Shown(FoundGroup group) => group.Hits.Take(MostOfGroup);

    public static int Hidden(FoundGroup group) => Math.Max(0, group.Hits.Count - MostOfGroup);

    // The beginning of a word that a typed one begins.
    private (int From, int Length) Next(string text, int at)
    {
        for (var i = at; i < text.Length; i++)
        {
            if (i > 0 && char.IsLetterOrDigit(text[i - 1]))
                continue;
            var word = Words
                .Where(w => string.Compare(text, i, w, 0, w.Length, StringComparison.OrdinalIgnoreCase) == 0)
                .MaxBy(w => w.Length);
            if (word is not null)
                return (i, Math.Min(word.Length, text.Length - i));
        }
        return (text.Length, 0);
    }
}
