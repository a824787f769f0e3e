using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>A reference that is to lead to another file.</summary>
/// <param name="Written">As it stands in the file.</param>
/// <param name="TargetId">The entry that it is to lead to.</param>
public sealed record NewTarget(string Written, Guid TargetId);

/// <summary>
/// Makes references lead to other files: as a new loose save on top of the newest. What was kept is never changed, and nothing but the
/// references is.
/// </summary>
public sealed class Relink(Rewriting rewriting, FileReader reader, IDbContextFactory<StudioDb> contexts, IContentStore store)
{
    /// <exception cref="IOException">The content could not be read from where it is kept, or the new one not be written.</exception>
    public async Task<Outcome<ReceivedSave>> DoAsync(
        Actor actor,
        Guid pieceId,
        IReadOnlyList<NewTarget> targets,
        CancellationToken cancel = default
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await db.Pieces.AsNoTracking().FirstOrDefaultAsync(p => p.Id == pieceId, cancel) is not { } piece)
            return new Refusal.NoSuchPiece();
        var save = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Where(s => s.PieceId == pieceId)
            .OrderByDescending(s => s.Sequence)
            .FirstOrDefaultAsync(cancel);
        if (save is null)
            return new Refusal.NoContent();
        if (save.Files.Count > 1 || !RewrittenReference.IsPossible((await reader.ReadAsync(save.MainHash, cancel: cancel)).Format))
            return new Refusal.NotRelinked(piece.CurrentName);
        var folder = await new TreeThen(db, piece.ProjectId).FolderOfAsync(pieceId, cancel);
        var from = folder.Length == 0 ? null : ProjectPath.Parse(folder);
        var changes = new List<RewrittenReference>();
        foreach (var target in targets)
        {
            var path = await db
                .Entries.Where(e =>
                    e.Id == target.TargetId && e.ProjectId == piece.ProjectId && e.DeletedAt == null && e.Kind != EntryKind.Folder
                )
                .Select(e => e.Path)
                .FirstOrDefaultAsync(cancel);
            if (path is null)
                return new Refusal.NoSuchEntry();
            var tail = WrittenReference.Read(target.Written, ReferenceSyntax.Uri).Tail;
            changes.Add(new(target.Written, RelativePath.Write(from, path, ReferenceSyntax.Uri, tail)));
        }
        return await rewriting.SaveAsync(
            actor,
            piece,
            save,
            new ReaderJob { Kind = ReaderJobKind.Relink, Rewritten = changes },
            () => [store.OpenRead(save.MainHash)],
            cancel: cancel
        );
    }
}
