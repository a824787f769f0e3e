using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.References;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.References;

/// <summary>A reference with what it may mean, where it leads nowhere.</summary>
/// <param name="PutIn">The folder that a file can be put in for it to be found, and its name there; null where it leads to no such place.</param>
public sealed record ReferenceRow(ShownReference Record, LikelyAnswer? Likely, (string Folder, string Name)? PutIn);

/// <summary>What a piece refers to: as a version saw it, and as it is; and what mends it.</summary>
public sealed class PieceReferencesModel(
    StudioDb db,
    FindPiece findPiece,
    PieceReferences pieceReferences,
    ProjectLinks projectLinks,
    LikelyReferences likely,
    Relink relink,
    PackFile packFile,
    PutOutFiles putOutFiles,
    StudioClock clock
) : PageModel
{
    /// <summary>So many links are shown; of more, those that are not found come first.</summary>
    public const int MostRows = 400;

    /// <summary>The version that is looked at; the newest save without.</summary>
    [BindProperty(SupportsGet = true, Name = "b")]
    public int? Number { get; set; }

    public Piece Record { get; private set; } = null!;
    public Save? Save { get; private set; }

    /// <summary>Whether the newest save is looked at, whose links can be changed.</summary>
    public bool IsNewest { get; private set; }

    /// <summary>Whether its format is written here.</summary>
    public bool MayRelink { get; private set; }

    /// <summary>What would be put inside; null where that cannot be done, or there is nothing.</summary>
    public PackPlan? Packing { get; private set; }

    /// <summary>Whether what is inside can be put out: of the newest save, of a format that is written here.</summary>
    public bool MayPutOut { get; private set; }

    /// <summary>What is inside is shown, with where it would stand.</summary>
    [BindProperty(SupportsGet = true, Name = "inside")]
    public bool Inside { get; set; }

    public IReadOnlyList<PuttingOut>? PuttingOut { get; private set; }

    public FileFormat Format { get; private set; }

    public IReadOnlyList<ReferenceRow> Rows { get; private set; } = [];
    public int Embedded { get; private set; }
    public IReadOnlyList<VersionNumber> Versions { get; private set; } = [];
    public Notice? Notice { get; private set; }
    public StudioClock Clock => clock;

    public string Shown => Save?.Number is { } n ? new VersionNumber(n).ToString() : "The newest save";

    /// <summary>Those that can be mended with what is likeliest, where that is not a guess.</summary>
    public IReadOnlyList<(ReferenceRow Row, LikelyTarget<FoundFile> Target)> Sure =>
        [
            .. Rows.Where(r => r.Record.Now.IsBroken() && r.Likely is { Targets: [{ Reason: <= LikelyReason.SameName }, ..] })
                .Select(r => (r, r.Likely!.Targets[0])),
        ];

    public async Task<IActionResult> OnGetAsync(string project, string piece, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        Record = found;
        Notice = Notice.Take(TempData);
        var saves = db.Saves.AsNoTracking().Include(s => s.Files).Where(s => s.PieceId == found.Id);
        var newest = await saves.FirstOrDefaultAsync(s => s.IsCurrent, cancel);
        Save = Number is { } number ? await saves.FirstOrDefaultAsync(s => s.Number == number && s.Line.IsCurrent, cancel) : newest;
        if (Save is null)
            return Number is null ? Page() : NotFound();
        IsNewest = Save.Id == newest?.Id;
        Versions =
        [
            .. (
                await saves
                    .Where(s => s.Number != null && s.Line.IsCurrent)
                    .OrderByDescending(s => s.Number)
                    .Select(s => s.Number!.Value)
                    .ToListAsync(cancel)
            ).Select(n => new VersionNumber(n)),
        ];
        var facts = await ContentReader.KnownAsync(db, Save.MainHash, cancel);
        Embedded = facts?.References.Count(r => r.EmbeddedBytes is not null) ?? 0;
        // Of a folder any of its files may be the one that refers.
        MayRelink = IsNewest && (Save.Files.Count > 1 || RewrittenReference.IsPossible(facts?.Format ?? default));
        Format = facts?.Format ?? default;
        MayPutOut = MayRelink && Save.Files.Count == 1 && PackFile.IsPossible(Format) && (Embedded > 0 || Format == FileFormat.Gltf);
        if (MayPutOut && Inside)
            PuttingOut = await putOutFiles.PlanAsync(found.Id, cancel);
        await LoadRowsAsync(cancel);
        if (Rows.Any(r => r.Record.Target is not null) && Save.Files.Count == 1 && PackFile.IsPossible(Format))
            Packing = await packFile.PlanAsync(Save.Id, asThen: !IsNewest, cancel);
        return Page();
    }

    /// <summary>What would be put out of the newest save, and where to.</summary>
    public async Task<IActionResult> OnGetInsideAsync(string project, string piece, CancellationToken cancel) =>
        await findPiece.DoAsync(project, piece, cancel) is { } found
            ? Partial("_Inside", (found, await putOutFiles.PlanAsync(found.Id, cancel)))
            : NotFound();

    /// <summary>Puts what it refers to inside, as a new loose save.</summary>
    public async Task<IActionResult> OnPostPackAsync(string project, string piece, Guid save, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        var outcome = await packFile.SaveAsync(User.Actor(), save, cancel);
        return Back(
            found,
            outcome.Done
                ? Notice.Done(
                    "All that was found is inside now: as a new loose save, on top of the others. Bring an earlier save back to undo it."
                )
                : Notice.About(outcome.Refusal)
        );
    }

    /// <summary>Puts what is inside out among the assets, with a new loose save that refers to it.</summary>
    public async Task<IActionResult> OnPostPutOutAsync(string project, string piece, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        var outcome = await putOutFiles.DoAsync(User.Actor(), found.Id, cancel);
        return Back(
            found,
            outcome.Done
                ? Notice.Done(
                    (
                        outcome.Result.Parts.Count(p => !p.IsThere) is > 0 and var fresh
                            ? $"{DisplayText.Count(fresh, "file is", "files are")} among the assets now, and a"
                            : "A"
                    ) + " new loose save refers to what was inside. Bring an earlier save back to undo it; the assets stay."
                )
                : Notice.About(outcome.Refusal)
        );
    }

    // A name may be another by now: what it is called follows what it holds.
    private RedirectResult Back(Piece piece, Notice notice)
    {
        Notice.Put(TempData, notice);
        return Redirect(Places.OfReferences(piece.Project.Code, piece.CurrentName));
    }

    /// <summary>Makes links lead elsewhere, as a new loose save.</summary>
    /// <param name="written">As the links are written.</param>
    /// <param name="target">For each, the entry that it is to lead to.</param>
    public async Task<IActionResult> OnPostUseAsync(string project, string piece, string[] written, Guid[] target, CancellationToken cancel)
    {
        if (await findPiece.DoAsync(project, piece, cancel) is not { } found)
            return NotFound();
        if (written.Length == 0 || written.Length != target.Length)
            return BadRequest();
        var outcome = await relink.DoAsync(User.Actor(), found.Id, [.. written.Zip(target, (w, t) => new NewTarget(w, t))], cancel);
        Notice.Put(
            TempData,
            !outcome.Done ? Notice.About(outcome.Refusal)
                : outcome.Result.IsNew
                    ? Notice.Done(
                        $"{DisplayText.Count(written.Length, "link leads", "links lead")} to what you chose: as a new loose save, on top of the "
                            + "others. Bring an earlier save back to undo it."
                    )
                : Notice.Done("It leads there already, so nothing was added.")
        );
        return Redirect(Places.OfReferences(found.Project.Code, found.CurrentName));
    }

    private async Task LoadRowsAsync(CancellationToken cancel)
    {
        var shown = await pieceReferences.OfAsync(Record, Save!.Id, cancel);
        // What mends them is looked for where it can be used.
        var current = IsNewest
            ? (await projectLinks.LoadAsync(Record.ProjectId, cancel)).Where(l => l.PieceId == Record.Id && l.State.IsBroken()).ToList()
            : [];
        var answers = await likely.FindAsync(Record.ProjectId, current, cancel);
        var byWritten = current
            .Select((l, i) => (l, Answer: answers[i]))
            .GroupBy(l => l.l.Record.Written)
            .ToDictionary(g => g.Key, g => g.First());
        var folders = (
            await db
                .Entries.Where(e => e.ProjectId == Record.ProjectId && e.DeletedAt == null && e.Kind == EntryKind.Folder)
                .OrderBy(e => e.Order)
                .ThenBy(e => e.PathKey)
                .Select(e => new { e.PathKey, Folder = new FolderHere(e.Path, e.Role) })
                .ToListAsync(cancel)
        ).ToDictionary(f => f.PathKey, f => f.Folder);
        Rows =
        [
            .. shown.Select(s =>
            {
                var found = byWritten.GetValueOrDefault(s.Written);
                var put = s.Now switch
                {
                    ReferenceState.Missing when found.l?.Path is { } path => PutIn(path, folders),
                    // What leads out of the project is found once it stands among the assets, and the link leads there.
                    ReferenceState.Absolute or ReferenceState.Outside when Assets(folders, s.Written) is { } among => among,
                    _ => null,
                };
                return new ReferenceRow(s, found.Answer, IsNewest ? put : null);
            }),
        ];
        if (Rows.Count > MostRows)
            Rows = [.. Rows.OrderBy(r => !r.Record.Now.IsBroken())];
    }

    private sealed record FolderHere(ProjectPath Path, FolderRole Role);

    private static (string Folder, string Name)? Assets(Dictionary<string, FolderHere> folders, string written)
    {
        var name = WrittenReference.Read(written, ReferenceSyntax.Uri).Name;
        var assets = folders.Values.FirstOrDefault(f => f.Role == FolderRole.Assets);
        return assets is not null && ProjectPath.TryParse($"{assets.Path}/{name}", out var path, out _)
            ? (assets.Path.Text, path.Name)
            : null;
    }

    // A file can be put where the nearest folder that is there is for files.
    private static (string Folder, string Name)? PutIn(string path, Dictionary<string, FolderHere> folders)
    {
        if (!ProjectPath.TryParse(path, out var whole, out _))
            return null;
        var around = whole.Folder;
        while (around is not null && !folders.ContainsKey(around.Key))
            around = around.Folder;
        return around is not null && folders[around.Key].Role.MayReplace() ? (whole.Folder!.Text, whole.Name) : null;
    }
}
