using System.Globalization;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Parts;

/// <summary>A piece whose parts can be put in, by its newest version.</summary>
public sealed record PartSource(Guid Save, string Project, string Name, FileFacts Facts);

/// <summary>Puts parts of another piece into this one.</summary>
public sealed class PartsModel(StudioDb db, FindPiece findPiece, PutParts putParts, JobQueue queue) : PageModel
{
    // A small picture is there before anybody has looked up.
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(6);

    private const int MostSources = 200;

    /// <summary>The version that the parts are of; null where it is to be chosen.</summary>
    [BindProperty(SupportsGet = true, Name = "of")]
    public Guid? Of { get; set; }

    public Piece Record { get; private set; } = null!;
    public FileFacts? Facts { get; private set; }
    public IReadOnlyList<PartSource> Sources { get; private set; } = [];
    public PartSource? Chosen { get; private set; }
    public Notice? Notice { get; private set; }
    public string Address => $"/parts/{Uri.EscapeDataString(Record.Project.Code)}/{Uri.EscapeDataString(Record.CurrentName)}";

    public async Task<IActionResult> OnGetAsync(string project, string piece, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        Record = found;
        Notice = Notice.Take(TempData);
        var newest = await db.Saves.Where(s => s.PieceId == found.Id && s.IsCurrent).Select(s => s.MainHash).FirstOrDefaultAsync(cancel);
        Facts = await ContentReader.KnownAsync(db, newest, cancel);
        if (Facts is not { Fault: null } facts)
            return Page();
        var others = await db
            .Saves.AsNoTracking()
            .Where(s => s.PieceId != found.Id && s.Number != null && s.Line.IsCurrent)
            .Where(s => s.Id == Of || !db.Saves.Any(n => n.LineId == s.LineId && n.Number > s.Number))
            .OrderByDescending(s => s.Piece.ProjectId == found.ProjectId)
            .ThenBy(s => s.ExactName)
            .Take(MostSources)
            .Select(s => new
            {
                s.Id,
                s.Piece.Project.Code,
                s.ExactName,
                Facts = ContentReader.Current(db).Where(f => f.Content == s.MainHash).Select(f => f.Facts).FirstOrDefault(),
            })
            .ToListAsync(cancel);
        Sources =
        [
            .. others
                .Where(o => o.Facts is not null)
                .Select(o => new PartSource(o.Id, o.Code, o.ExactName!, RecordJson.Read<FileFacts>(o.Facts!)))
                .Where(o => o.Facts.Fault is null && PutParts.IsPossible(facts.Format, o.Facts.Format)),
        ];
        Chosen = Sources.FirstOrDefault(s => s.Save == Of) ?? (Sources.Count == 1 ? Sources[0] : null);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(
        string project,
        string piece,
        int[] parts,
        string? from,
        string? seconds,
        string? at,
        CancellationToken cancel
    )
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        Record = found;
        static double? Number(string? text) =>
            string.IsNullOrWhiteSpace(text) ? null
            : double.TryParse(text.Replace(',', '.'), CultureInfo.InvariantCulture, out var n) && double.IsFinite(n) ? n
            : -1;
        var stretch =
            Number(from) is null && Number(seconds) is null ? null : new SoundStretch(Number(from) ?? 0, Number(seconds) ?? 360_000);
        var outcome = await putParts.AskAsync(User.Actor(), found.Id, Of ?? Guid.Empty, parts, stretch, Number(at) ?? 0, cancel);
        if (!outcome.Done)
        {
            Notice.Put(TempData, Notice.About(outcome.Refusal));
            return Redirect($"{Address}?of={Of}");
        }
        var isOver = await queue.EndedAsync(JobKind.PutParts, outcome.Result, Patience, cancel);
        var refused = await db
            .Jobs.Where(j => j.Kind == JobKind.PutParts && j.Subject == outcome.Result)
            .OrderByDescending(j => j.Id)
            .Select(j => j.State == JobState.Failed || j.Result != null)
            .FirstOrDefaultAsync(cancel);
        if (isOver && refused)
        {
            var name = await db.Saves.Where(s => s.Id == Of).Select(s => s.Piece.CurrentName).FirstOrDefaultAsync(cancel);
            Notice.Put(TempData, Notice.About(new Refusal.NotPut(name ?? "")));
            return Redirect($"{Address}?of={Of}");
        }
        Notice.Put(
            TempData,
            Notice.Done(
                isOver
                    ? "The parts are in, as a loose save on top. What was there stays as it was."
                    : "The parts are being put in: they appear here as a loose save. You need not wait."
            )
        );
        return Redirect(Places.Of(found));
    }
}
