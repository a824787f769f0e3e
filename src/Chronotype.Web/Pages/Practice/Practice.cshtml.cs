using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.People;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Practice;

/// <summary>A file that the practice desk can open.</summary>
/// <param name="Path">From the project's top, as the share has it.</param>
/// <param name="Address">The piece's own page.</param>
public sealed record PracticeFile(string Project, string Path, string Address)
{
    /// <summary>Where the share has it.</summary>
    public string Share => $"/share/{Uri.EscapeDataString(Project)}/{string.Join('/', Path.Split('/').Select(Uri.EscapeDataString))}";
}

/// <summary>
/// The practice desk: the stand-in for a desktop program, of the demo alone. All that it does with files it does in the browser, by the
/// share, with a device key, as a program on somebody's desk would; here is only what it can open.
/// </summary>
public sealed class PracticeModel(StudioDb db, DeviceKeys keys) : PageModel
{
    /// <summary>What its keys are called.</summary>
    public const string KeyName = "Practice desk";

    private const int MostKeys = 4;
    private static readonly string[] Edited = [".ora", ".svg", ".wav", ".otio", ".gltf"];

    public IReadOnlyList<PracticeFile> Files { get; private set; } = [];

    /// <summary>The file that is opened; null for none.</summary>
    public PracticeFile? Opened { get; private set; }

    public async Task<IActionResult> OnGetAsync(string? project, string? piece, CancellationToken cancel)
    {
        if (!await IsDemoAsync(cancel))
            return NotFound();
        var found = await db
            .Pieces.Where(p => Edited.Contains(p.Extension) && p.Saves.Any(s => s.IsCurrent && s.Files.Count == 1))
            .Join(
                db.Entries.Where(e => e.Kind == EntryKind.CurrentFile && e.DeletedAt == null),
                p => p.Id,
                e => e.PieceId,
                (p, e) =>
                    new
                    {
                        p.Project.Code,
                        p.CurrentName,
                        e.Path,
                    }
            )
            .OrderBy(f => f.Code)
            .ThenBy(f => f.CurrentName)
            .ToListAsync(cancel);
        Files = found.ConvertAll(f => new PracticeFile(f.Code, f.Path.Text, Places.OfPiece(f.Code, f.CurrentName)));
        Opened = Files.FirstOrDefault(f => f.Address == Places.OfPiece(project ?? "", piece ?? ""));
        return project is not null && Opened is null ? NotFound() : Page();
    }

    /// <summary>A key for the desk, as a person would make one for a program.</summary>
    public async Task<IActionResult> OnPostKeyAsync(CancellationToken cancel)
    {
        if (!await IsDemoAsync(cancel))
            return NotFound();
        // Each window of a browser has one of its own; those of windows that are long closed are revoked.
        var old = (await keys.OfAsync(User.PersonId(), cancel)).Where(k => k.Name == KeyName).Skip(MostKeys);
        foreach (var key in old)
            await keys.RevokeAsync(User.Actor(), key.Id, cancel);
        var made = await keys.MakeAsync(User.Actor(), KeyName, cancel);
        return made.Done
            ? new JsonResult(new { initials = User.Initials(), key = made.Result.Secret })
            : StatusCode(RefusalWords.StatusOf(made.Refusal), RefusalWords.Of(made.Refusal));
    }

    private Task<bool> IsDemoAsync(CancellationToken cancel) => db.Studio.AnyAsync(s => s.IsDemo, cancel);
}
