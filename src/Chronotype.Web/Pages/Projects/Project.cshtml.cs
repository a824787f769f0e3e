using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Pieces;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

public sealed class ProjectModel(StudioDb db, TimeProvider time) : PageModel
{
    public Project Record { get; private set; } = null!;
    public IReadOnlyList<PieceCard> Cards { get; private set; } = [];
    public IReadOnlyList<TreeFolder> Tree { get; private set; } = [];
    public IReadOnlyList<CodeEntry> Functions { get; private set; } = [];
    public int Versions { get; private set; }
    public long Size { get; private set; }
    public DateTimeOffset Now { get; private set; }
    public string? Said { get; private set; }

    public async Task<IActionResult> OnGetAsync(string project, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record) return NotFound();
        Record = record;
        Now = time.Here();
        Said = Pages.Pieces.Said.Take(TempData)?.Sentence;
        Functions = await ProjectFunctions.LoadAsync(db, record, cancel);
        Cards = [.. (await PieceCards.LoadAsync(db, db.Pieces.Where(p => p.ProjectId == record.Id), cancel)).OrderByDescending(c => c.LastAt)];
        Tree = await ProjectTree.LoadAsync(db, record, cancel);
        Versions = Tree.Sum(f => f.Versions.Count);
        Size = await db.Saves.Where(s => s.Piece.ProjectId == record.Id).SumAsync(s => s.Size, cancel);
        return Page();
    }

    /// <summary>The full name that results, while it is being typed.</summary>
    public async Task<IActionResult> OnGetNameAsync(string project, string? subject, string? function, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record) return NotFound();
        var names = PieceNames.Of(record, StartPiece.Bounded(subject ?? ""), function ?? "");
        var (current, faults) = names.Current();
        if (current is null) return Partial("_ResultingName", new ResultingName(null, null, string.IsNullOrWhiteSpace(subject) ? null : faults[0].Message));
        var stem = current.Stem;
        var person = User.PersonId();
        var taken = await db.Pieces.AnyAsync(p => p.ProjectId == record.Id && p.CurrentName == stem && (p.HighestSequence > 0 || p.StartedById != person), cancel);
        var first = names.Working(User.Initials(), names.Next(null), "").Name!;
        return Partial("_ResultingName", new ResultingName(first, stem, taken ? "A piece of this name is there already. Change the subject, or drop the file on that piece." : null));
    }

    /// <summary>What a dropped file's name says of the piece that it may begin.</summary>
    public async Task<IActionResult> OnGetFileAsync(string project, string? file, CancellationToken cancel)
    {
        if (await FindAsync(project, cancel) is not { } record) return NotFound();
        var reading = PieceNames.ReadAny(Core.Naming.ConventionFile.Read(record.Convention, new Dictionary<string, Core.Naming.CodeList>()).Convention!, file ?? "");
        var function = reading?["function"];
        if (!await db.Codes.AnyAsync(c => c.List == "function" && c.Code == function, cancel)) (reading, function) = (null, null);
        return new JsonResult(new { subject = reading?["subject"] ?? StartPiece.SubjectFrom(file ?? ""), function });
    }

    private Task<Project?> FindAsync(string code, CancellationToken cancel) =>
        db.Projects.AsNoTracking().Include(p => p.Client).Include(p => p.Folders).FirstOrDefaultAsync(p => p.Code == code, cancel);
}

/// <param name="First">The first version's name; null where there is none yet.</param>
/// <param name="Current">The current file's.</param>
public sealed record ResultingName(Core.Naming.FormattedName? First, string? Current, string? Fault);
