using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>How a piece stands in its project's tree.</summary>
internal static class PieceFiles
{
    /// <summary>With its first content a piece is known to be a kind of file, and its current file is called so.</summary>
    public static async Task GiveExtensionAsync(StudioDb db, Piece piece, string mainFile, CancellationToken cancel)
    {
        if (piece.Extension.Length > 0 || FileNames.Extension(mainFile) is not { Length: > 0 } extension)
            return;
        piece.Extension = extension;
        var current = await db.Entries.FirstOrDefaultAsync(e => e.PieceId == piece.Id && e.Kind == EntryKind.CurrentFile, cancel);
        if (current is not null)
            await new ProjectTree(db, piece.ProjectId).RenameAsync(current, piece.CurrentName + extension, cancel);
    }
}
