using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Web.Pages.Tree;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Contents;

/// <summary>Two contents that a file of a project's own had, beside one another, with what changed from one to the other.</summary>
public sealed class ContentsModel(StudioDb db, FindPiece findPiece, WhoUses whoUses, CompareSaves compareSaves, StudioClock clock)
    : PageModel
{
    public FilePanel Shown { get; private set; } = null!;
    public PastContent A { get; private set; } = null!;
    public PastContent B { get; private set; } = null!;
    public Comparison? Comparison { get; private set; }
    public JobError Error { get; private set; }
    public FileFormat Format => Shown.Facts?.Format ?? FileFormat.Other;
    public DateTimeOffset Now => clock.Now;

    /// <param name="a">The place of the earlier among the file's contents, from 1.</param>
    /// <param name="b">The later; null for what it holds now.</param>
    public async Task<IActionResult> OnGetAsync(string project, Guid entry, int a, int? b, CancellationToken cancel)
    {
        if (await findPiece.WholeProjectAsync(project, cancel) is not { } record)
            return NotFound();
        if (await FilePanel.LoadAsync(db, whoUses, clock, record, entry, cancel) is not { } file)
            return NotFound();
        Shown = file;
        var first = file.Past.FirstOrDefault(p => p.Record.Sequence == a);
        var second = b is null ? file.Past[0] : file.Past.FirstOrDefault(p => p.Record.Sequence == b);
        if (first is null || second is null)
            return NotFound();
        // The earlier stands first, whichever was asked for.
        (A, B) = first.Record.Sequence <= second.Record.Sequence ? (first, second) : (second, first);
        (Comparison, Error) = await compareSaves.DoAsync(A.Record.Hash, B.Record.Hash, entry, cancel);
        return Page();
    }
}
