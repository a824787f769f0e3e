using Chronotype.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Readers;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.References;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>
/// Starts a piece with a content that is there: an original, which itself is never worked on, or a save of any other piece. The new piece
/// has it as its first save, and remembers where it came from.
/// </summary>
public sealed class StartFrom(
    DeedRunner deeds,
    ReceiveSave receiveSave,
    KeepSave keepSave,
    Rewriting rewriting,
    IDbContextFactory<StudioDb> contexts,
    IContentStore store
)
{
    // So many parts are remembered by name.
    private const int MostNamed = 100;

    /// <summary>Starts a piece with any save of any piece, of this project or another; that is the first version of the new one.</summary>
    /// <param name="slots">By label, what the piece is called by.</param>
    public Task<Outcome<Piece>> SaveAsync(
        Actor actor,
        Guid projectId,
        IReadOnlyDictionary<string, string> slots,
        Guid saveId,
        CancellationToken cancel = default
    ) => deeds.DoAsync(actor, Right.Work, deed => WithinAsync(deed, projectId, slots, saveId, cancel), cancel);

    /// <summary>As <see cref="SaveAsync"/>, with some parts of the save alone: layers of a picture, tracks of a timeline.</summary>
    /// <param name="parts">By their places in what was read.</param>
    /// <param name="cut">A region or a stretch instead; null for the parts.</param>
    /// <exception cref="IOException">As for <see cref="Rewriting.MakeAsync"/>.</exception>
    public async Task<Outcome<Piece>> PartsAsync(
        Actor actor,
        Guid projectId,
        IReadOnlyDictionary<string, string> slots,
        Guid saveId,
        IReadOnlyList<int> parts,
        PartCut? cut = null,
        CancellationToken cancel = default
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var save = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Include(s => s.Piece)
            .FirstOrDefaultAsync(s => s.Id == saveId && db.Pieces.Any(p => p.Id == s.PieceId), cancel);
        if (save is null)
            return new Refusal.NoSuchSave();
        if (save.Files.Count > 1)
            return new Refusal.NotParted(save.Piece.CurrentName);
        var (made, _) = await rewriting.MakeAsync(
            new ReaderJob
            {
                Kind = ReaderJobKind.Carry,
                Carried = parts,
                Cut = cut,
            },
            () => [store.OpenRead(save.MainHash)],
            cancel
        );
        if (made is null)
            return new Refusal.NotParted(save.Piece.CurrentName);
        var facts = await ContentReader.KnownAsync(db, save.MainHash, cancel);
        var known = facts is null ? [] : FileParts.Of(facts).Where(parts.Contains).Select(p => FileParts.NameOf(facts, p));
        var part = new PartTaken(cut is null ? [.. known.Take(MostNamed)] : [], cut);
        var target = new SaveTarget.NewPiece(projectId, slots, new PieceOrigin(null, saveId, part));
        var received = await rewriting.ReceiveAsync(actor, target, made, save.ReceivedName, cancel);
        return received.Result is { } begun ? begun.Piece : received.Refusal!;
    }

    /// <inheritdoc cref="SaveAsync"/>
    internal async Task<Outcome<Piece>> WithinAsync(
        Deed deed,
        Guid projectId,
        IReadOnlyDictionary<string, string> slots,
        Guid saveId,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        var old = await db
            .Saves.Include(s => s.Files)
            .Include(s => s.Faces)
            .AsSplitQuery()
            .FirstOrDefaultAsync(s => s.Id == saveId && db.Pieces.Any(p => p.Id == s.PieceId), cancel);
        if (old is null)
            return new Refusal.NoSuchSave();
        var started = await StartPiece.WithinAsync(deed, projectId, slots, goOn: true, new PieceOrigin(null, saveId), cancel);
        if (started.Result is not { } piece)
            return started;
        await db.SaveChangesAsync(cancel);
        await db.Entry(piece).Collection(p => p.Lines).LoadAsync(cancel);
        piece.FromSaveId = saveId;
        var save = await BringBack.OnTopOfAsync(deed, piece, old, cancel);
        await PieceFiles.GiveExtensionAsync(db, piece, old.Files.First(f => f.IsMain).Path, cancel);
        await db.SaveChangesAsync(cancel);
        // There is nothing before it that could speak against its number.
        var kept = await keepSave.WithinAsync(deed, piece.Id, save.Id, null, insist: true, inOrder: true, cancel);
        return kept.Done ? piece : kept.Refusal;
    }

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
        var received = await receiveSave.DoAsync(
            actor,
            new SaveTarget.NewPiece(projectId, slots, new PieceOrigin(entryId, null)),
            new ArrivingContent(held.Path.Name, bytes) { IsASave = true },
            cancel
        );
        return received.Result is { } begun && await WithCompanionsAsync(actor, begun, entryId, cancel) is { } refused ? refused : received;
    }

    // What goes with a file goes with the piece that begins as its copy.
    private async Task<Refusal?> WithCompanionsAsync(Actor actor, ReceivedSave begun, Guid entryId, CancellationToken cancel) =>
        (
            await deeds.DoAsync<Done>(
                actor,
                Right.Work,
                async deed =>
                {
                    var original = await deed.Db.Entries.FirstAsync(e => e.Id == entryId, cancel);
                    var piece = await deed.Db.Pieces.FirstAsync(p => p.Id == begun.Piece.Id, cancel);
                    var tree = new ProjectTree(deed.Db, original.ProjectId);
                    foreach (var (_, companion) in await CompanionFiles.OfAsync(deed.Db, tree, [original], cancel))
                    {
                        var held = await deed
                            .Db.FileContents.Where(c => c.EntryId == companion.Id)
                            .OrderByDescending(c => c.Sequence)
                            .FirstAsync(cancel);
                        var name = Companions.Renamed(companion.Path.Name, original.Path.Name, piece.CurrentName + piece.Extension);
                        await PieceCompanions.CopyAsync(deed, piece, begun.Save, name, held.Hash, held.Size, cancel);
                    }
                    return Done.It;
                },
                cancel
            )
        ).Refusal;
}
