using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.References;

/// <summary>A link that leads nowhere, with what it may mean.</summary>
/// <param name="Likely">The likeliest first.</param>
/// <param name="IsSure">The likeliest is no guess: it holds what the link led to, stood there, or is called so.</param>
public sealed record BrokenRow(CurrentLink Link, IReadOnlyList<LikelyTarget<FoundFile>> Likely, bool IsSure)
{
    /// <summary>As the link would be written, to lead to a file.</summary>
    public string WrittenFor(FoundFile file) =>
        RelativePath.Write(
            Link.Folder.Length == 0 ? null : ProjectPath.Parse(Link.Folder),
            file.Path,
            ReferenceSyntax.Uri,
            WrittenReference.Read(Link.Record.Written, ReferenceSyntax.Uri).Tail
        );
}

/// <summary>Every link of a project that leads nowhere, to be mended at once, each change seen before.</summary>
public sealed class ProjectReferencesModel(
    StudioDb db,
    FindPiece findPiece,
    ProjectLinks projectLinks,
    LikelyReferences likely,
    Relink relink
) : PageModel
{
    public Project Record { get; private set; } = null!;

    /// <summary>By the name of the piece, or the path of the asset or document, that they stand in.</summary>
    public IReadOnlyList<IGrouping<string, BrokenRow>> Pieces { get; private set; } = [];

    /// <summary>Links of originals, which are never changed.</summary>
    public IReadOnlyList<CurrentLink> OfFiles { get; private set; } = [];

    /// <summary>How many more there are than are shown at once.</summary>
    public int More { get; private set; }

    public Notice? Notice { get; private set; }

    public async Task<IActionResult> OnGetAsync(string project, CancellationToken cancel)
    {
        if (await findPiece.WholeProjectAsync(project, cancel) is not { } record)
            return NotFound();
        Record = record;
        Notice = Notice.Take(TempData);
        var broken = (await projectLinks.LoadAsync(record.Id, cancel))
            .Where(l => l.State.IsBroken() || l.State == ReferenceState.OtherCase)
            .ToList();
        var originals = await db
            .Entries.Where(e => e.ProjectId == record.Id && e.Kind == EntryKind.OwnFile && e.Role == FolderRole.Originals)
            .Select(e => e.Id)
            .ToHashSetAsync(cancel);
        var ofPieces = broken.Where(l => !originals.Contains(l.HolderId)).ToList();
        // One form takes no more; the rest comes when these are mended.
        More = Math.Max(0, ofPieces.Count - LikelyReferences.Most);
        ofPieces = [.. ofPieces.Take(LikelyReferences.Most)];
        OfFiles = [.. broken.Where(l => originals.Contains(l.HolderId))];
        var answers = await likely.FindAsync(record.Id, ofPieces, cancel);
        Pieces =
        [
            .. ofPieces
                .Select((l, i) => new BrokenRow(l, answers[i].Targets, answers[i].Targets is [{ Reason: <= LikelyReason.SameName }, ..]))
                .GroupBy(r => r.Link.Piece ?? r.Link.HolderPath.Text)
                .OrderBy(g => g.Key, StringComparer.Ordinal),
        ];
        return Page();
    }

    /// <summary>Mends what was chosen: a new loose save for each piece, a new content for each asset.</summary>
    /// <param name="use">Which of the rows that follow.</param>
    /// <param name="holder">Of each row, the entry of the file that it stands in.</param>
    /// <param name="written">Of each row, the link as it is written.</param>
    /// <param name="target">Of each row, the entry that it is to lead to; empty for none.</param>
    public async Task<IActionResult> OnPostAsync(
        string project,
        int[] use,
        Guid[] holder,
        string[] written,
        Guid?[] target,
        CancellationToken cancel
    )
    {
        if (await findPiece.WholeProjectAsync(project, cancel) is not { } record)
            return NotFound();
        if (holder.Length != written.Length || holder.Length != target.Length || use.Any(i => i < 0 || i >= holder.Length))
            return BadRequest();
        var assets = await db
            .Entries.Where(e => holder.Contains(e.Id) && e.Kind == EntryKind.OwnFile)
            .Select(e => e.Id)
            .ToHashSetAsync(cancel);
        var (links, done, not) = (0, new List<Guid>(), new List<string>());
        foreach (var group in use.Distinct().Where(i => target[i] is not null).GroupBy(i => holder[i]))
        {
            var targets = group.Select(i => new NewTarget(written[i], target[i]!.Value)).DistinctBy(t => t.Written).ToList();
            var outcome = await relink.OfEntryAsync(User.Actor(), group.Key, targets, cancel);
            if (!outcome.Done)
            {
                not.Add(RefusalWords.Of(outcome.Refusal));
                continue;
            }
            links += targets.Count;
            done.Add(group.Key);
        }
        var contents = done.Count(assets.Contains);
        var where = new[]
        {
            done.Count > contents ? DisplayText.Count(done.Count - contents, "new loose save", "new loose saves") : null,
            contents > 0 ? DisplayText.Count(contents, "new content of an asset", "new contents of assets") : null,
        };
        var said =
            $"{DisplayText.Count(links, "link leads", "links lead")} to what you chose, in {string.Join(" and ", where.OfType<string>().DefaultIfEmpty("no file"))}.";
        Notice.Put(TempData, not.Count == 0 ? Notice.Done(said) : new Notice(NoticeKind.Ask, $"{said} {string.Join(" ", not.Distinct())}"));
        return Redirect($"/references/{Uri.EscapeDataString(record.Code)}");
    }
}
