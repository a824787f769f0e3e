using System.Globalization;
using Chronotype.Core.References;
using Chronotype.Core.Timeline;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Then;

/// <summary>A file as it stood then.</summary>
/// <param name="Says">Of a piece, which version it was; of any other, nothing.</param>
/// <param name="IsSince">Whether it is another now, or is not there any more.</param>
public sealed record ThenFile(StandingFile Record, string Says, bool IsSince);

/// <summary>A project as it stood at a moment: its tree, its pieces and its assets, to be read and not to be changed.</summary>
public sealed class ThenModel(StudioDb db, FindPiece findPiece, StudioClock clock) : PageModel
{
    public const double StripWidth = 1108;

    private const int MostFiles = 2000;

    /// <summary>The moment, in ticks of UTC; the present without.</summary>
    [BindProperty(SupportsGet = true, Name = "at")]
    public long? At { get; set; }

    /// <summary>The first and the last of what was kept that the strip shows, from 1 and in time; all of it without.</summary>
    [BindProperty(SupportsGet = true, Name = "from")]
    public int? From { get; set; }

    [BindProperty(SupportsGet = true, Name = "to")]
    public int? To { get; set; }

    public Project Record { get; private set; } = null!;
    public DateTimeOffset Moment { get; private set; }
    public bool IsNow => At is null;
    public IReadOnlyList<IGrouping<string, ThenFile>> Folders { get; private set; } = [];
    public int Count { get; private set; }
    public long Size { get; private set; }

    /// <summary>How many files are another now, or are not there any more.</summary>
    public int Since { get; private set; }

    public Strip Strip { get; private set; } = null!;

    /// <summary>By its place in the strip, what was kept, and when.</summary>
    public IReadOnlyList<(string Name, DateTimeOffset At)> Kept { get; private set; } = [];

    /// <summary>When other files came, by the key that they have in the strip.</summary>
    public IReadOnlyDictionary<Guid, (string Name, DateTimeOffset At)> Stored { get; private set; } =
        new Dictionary<Guid, (string, DateTimeOffset)>();

    public DateTimeOffset Now => clock.Now;

    public string AddressOf(DateTimeOffset at) => Address(at.UtcTicks, From, To);

    /// <summary>The same with a stretch of the strip opened; the whole of it for null.</summary>
    public string Opened(int? from, int? to) => Address(At, from, to);

    private string Address(long? at, int? from, int? to) =>
        $"/then/{Uri.EscapeDataString(Record.Code)}"
        + QueryString.Create(
            new Dictionary<string, string?>
            {
                ["at"] = at?.ToString(CultureInfo.InvariantCulture),
                ["from"] = from?.ToString(CultureInfo.InvariantCulture),
                ["to"] = to?.ToString(CultureInfo.InvariantCulture),
            }.Where(q => q.Value is not null)
        );

    public async Task<IActionResult> OnGetAsync(string project, CancellationToken cancel)
    {
        if (await findPiece.WholeProjectAsync(project, cancel) is not { } record)
            return NotFound();
        (Record, var id) = (record, record.Id);
        if (At is { } ticks && (ticks < DateTimeOffset.MinValue.UtcTicks || ticks > DateTimeOffset.MaxValue.UtcTicks))
            return BadRequest();
        var moment = At is { } at ? new DateTimeOffset(at, TimeSpan.Zero) : (DateTimeOffset?)null;
        Moment = moment is { } then ? clock.At(then) : clock.Now;
        var files = await new TreeThen(db, id, moment).AllAsync(cancel);
        var today = IsNow ? files : await new TreeThen(db, id).AllAsync(cancel);
        var byEntry = today.All.ToDictionary(f => f.Value.EntryId, f => f.Value);
        var saves = files.All.Select(f => f.Value.SaveId).OfType<Guid>().ToList();
        var numbers = new Dictionary<Guid, int?>();
        foreach (var part in saves.Chunk(400))
        {
            foreach (
                var save in await db
                    .Saves.Where(s => part.Contains(s.Id))
                    .Select(s => new
                    {
                        s.Id,
                        s.Number,
                        s.KeptAt,
                    })
                    .ToListAsync(cancel)
            )
                numbers[save.Id] = moment is { } m && save.KeptAt > m ? null : save.Number;
        }
        var all = files
            .All.Select(f => f.Value)
            // Versions and copies are there by their piece: what is shown is what one would have worked with.
            .Where(f => f.Kind is EntryKind.OwnFile or EntryKind.CurrentFile or EntryKind.Companion)
            .OrderBy(f => f.Path.Key, StringComparer.Ordinal)
            .Select(f => new ThenFile(
                f,
                f.Kind != EntryKind.CurrentFile || f.SaveId is not { } save ? ""
                    : numbers.GetValueOrDefault(save) is { } n ? new VersionNumber(n).ToString()
                    : "loose",
                byEntry.GetValueOrDefault(f.EntryId) is not { } now || now.Hash != f.Hash || now.Path != f.Path
            ))
            .ToList();
        (Count, Size, Since) = (all.Count, all.Sum(f => f.Record.Size), all.Count(f => f.IsSince));
        Folders = [.. all.Take(MostFiles).GroupBy(f => f.Record.Path.Folder?.Text ?? "")];
        await LoadStripAsync(id, cancel);
        return Page();
    }

    private async Task LoadStripAsync(Guid project, CancellationToken cancel)
    {
        var kept = await db
            .Saves.Where(s => s.Piece.ProjectId == project && s.Number != null)
            .OrderBy(s => s.KeptAt)
            .Select(s => new
            {
                s.KeptAt,
                s.ExactName,
                s.Piece.CurrentName,
                Milestone = s.Milestone!.Reason,
            })
            .ToListAsync(cancel);
        var stored = await db
            .FileContents.Join(
                db.Entries.Where(e => e.ProjectId == project),
                c => c.EntryId,
                e => e.Id,
                (c, e) =>
                    new
                    {
                        c.Id,
                        c.At,
                        e.Path,
                    }
            )
            .OrderBy(c => c.At)
            .ToListAsync(cancel);
        Kept = kept.ConvertAll(k => (k.ExactName ?? k.CurrentName, clock.At(k.KeptAt!.Value)));
        Stored = stored.ToDictionary(s => s.Id, s => (s.Path.Text, clock.At(s.At)));
        var shown = Kept.Select((k, i) => (k.At, kept[i].Milestone, Number: i + 1)).ToList();
        var rings = stored.Select(c => (c.Id, At: clock.At(c.At))).ToList();
        if (From is { } from && To is { } to && from >= 1 && to <= shown.Count && from <= to)
        {
            var (begin, end) = (shown[from - 1].At, shown[to - 1].At);
            rings.RemoveAll(r => r.At < begin || r.At > end);
            shown = shown[(from - 1)..to];
        }
        else
            (From, To) = (null, null);
        Strip = StripLayout.Lay(
            new StripInput(
                [.. shown.Select(k => new StripVersion(new VersionNumber(k.Number), "", k.At, null, 0.3, k.Milestone))],
                [.. rings.Select(r => new StripLoose(r.Id, r.At))],
                From is null ? clock.Now : null,
                "",
                StripWidth
            )
            {
                Dates = DisplayText.Dates,
            }
        );
    }
}
