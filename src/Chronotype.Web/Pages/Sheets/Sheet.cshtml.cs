using Chronotype.Studio.Outputs;
using Chronotype.Studio.Pieces;
using Chronotype.Web.Pages.Shared;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Chronotype.Web.Pages.Sheets;

/// <summary>A contact sheet: of a piece's versions, or of all pieces of a project. Its pictures are drawn first, which may take a while.</summary>
public sealed class SheetModel(FindPiece findPiece, ContactSheets sheets) : PageModel
{
    /// <summary>The project's code.</summary>
    public string Project { get; private set; } = "";

    /// <summary>The piece's name; null for all pieces of the project.</summary>
    public string? Piece { get; private set; }

    public int Pictures { get; private set; }

    /// <summary>How many pictures are still being drawn.</summary>
    public int Left { get; private set; }

    public string Address => Places.OfSheet(Project, Piece);

    public Task<IActionResult> OnGetAsync(string project, string? piece, CancellationToken cancel) =>
        DrawAsync(project, piece, asks: true, Page, cancel);

    /// <summary>How far it is, asked again and again until it is drawn.</summary>
    public Task<IActionResult> OnGetDrawnAsync(string project, string? piece, CancellationToken cancel) =>
        DrawAsync(project, piece, asks: false, () => Partial("_Drawn", this), cancel);

    /// <summary>The sheet itself.</summary>
    public async Task<IActionResult> OnGetFileAsync(string project, string? piece, CancellationToken cancel)
    {
        if (await FindAsync(project, piece, cancel) is not var (projectId, pieceId))
            return NotFound();
        if (await sheets.MakeAsync(projectId, pieceId, cancel) is not var (file, name))
            return NotFound();
        Response.RegisterForDispose(file);
        return File(System.IO.File.OpenRead(file.Path), "application/pdf", name);
    }

    private async Task<IActionResult> DrawAsync(
        string project,
        string? piece,
        bool asks,
        Func<IActionResult> answer,
        CancellationToken cancel
    )
    {
        if (await FindAsync(project, piece, cancel) is not var (projectId, pieceId))
            return NotFound();
        (Project, Piece) = (project, piece);
        (Pictures, Left) = await sheets.DrawAsync(projectId, pieceId, asks, cancel) ?? (0, 0);
        return answer();
    }

    private async Task<(Guid Project, Guid? Piece)?> FindAsync(string project, string? piece, CancellationToken cancel)
    {
        if (piece is null)
            return await findPiece.ProjectAsync(project, cancel) is { } id ? (id, null) : null;
        return await findPiece.DoAsync(project, piece, cancel) is { } found ? (found.ProjectId, found.Id) : null;
    }
}
