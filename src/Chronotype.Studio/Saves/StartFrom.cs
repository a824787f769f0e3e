using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>
/// Starts a piece with a content that is there: an original, which itself is never worked on, or a save of any other piece. The new piece
/// has it as its first save, and remembers where it came from.
/// </summary>
public sealed class StartFrom(ReceiveSave receiveSave, IDbContextFactory<StudioDb> contexts, IContentStore store)
{
    /// <param name="projectId">The project that the piece is started in.</param>
    /// <param name="slots">By label, what the piece is called by.</param>
    /// <param name="entryId">A file of the same project's own.</param>
    public async Task<Outcome<ReceivedSave>> OriginalAsync(
        Actor actor,
        Guid projectId,
        IReadOnlyDictionary<string, string> slots,
        Guid entryId,
        CancellationToken cancel = default
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var held = await db
            .Entries.Where(e => e.Id == entryId && e.ProjectId == projectId && e.Kind == EntryKind.OwnFile && e.DeletedAt == null)
            .Select(e => new { e.Path, Hash = e.Contents.OrderByDescending(c => c.Sequence).Select(c => c.Hash).First() })
            .FirstOrDefaultAsync(cancel);
        if (held is null)
            return new Refusal.NoSuchEntry();
        await using var bytes = store.OpenRead(held.Hash);
        return await receiveSave.DoAsync(
            actor,
            new SaveTarget.NewPiece(projectId, slots, new PieceOrigin(entryId, null)),
            new ArrivingContent(held.Path.Name, bytes) { IsNoFace = true },
            cancel
        );
    }
}
