using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Makes what was taken for a companion of a piece's file a save of the piece: what arrived was meant as one.</summary>
public sealed class CompanionAsSave(
    IContentStore store,
    ReceiveSave receive,
    TendFiles tendFiles,
    TendTree tendTree,
    IDbContextFactory<StudioDb> contexts
)
{
    /// <returns>The save. The companion holds again what it held before; one that held nothing else is deleted, and can be taken back.</returns>
    public async Task<Outcome<ReceivedSave>> DoAsync(Actor actor, Guid pieceId, Guid entryId, CancellationToken cancel = default)
    {
        List<FileContent> contents;
        await using (var db = await contexts.CreateDbContextAsync(cancel))
            contents = await db
                .FileContents.AsNoTracking()
                .Where(c => c.EntryId == entryId)
                .Where(c => db.Entries.Any(e => e.Id == c.EntryId && e.PieceId == pieceId && e.Kind == EntryKind.Companion))
                .OrderByDescending(c => c.Sequence)
                .ToListAsync(cancel);
        if (contents.Count == 0)
            return new Refusal.NoSuchEntry();
        await using var bytes = store.OpenRead(contents[0].Hash);
        var received = await receive.DoAsync(
            actor,
            new SaveTarget.OfPiece(pieceId),
            new ArrivingContent(contents[0].ReceivedName, bytes) { IsASave = true },
            cancel
        );
        if (!received.Done)
            return received;
        // The save is there before the companion goes: a crash between the two loses neither.
        if (contents.Count > 1)
            return await tendFiles.BringBackAsync(actor, entryId, contents[1].Sequence, cancel) is { Done: false } kept
                ? kept.Refusal
                : received;
        return await tendTree.DeleteAsync(actor, entryId, cancel) is { Done: false } refused ? refused.Refusal : received;
    }
}
