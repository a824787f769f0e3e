using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>A file that is to be a face.</summary>
/// <param name="Name">What it was called when it came.</param>
internal sealed record FaceFile(ContentHash Hash, long Size, string Name);

/// <summary>A save and the face that it was given.</summary>
public sealed record FacedSave(Save Save, Face Face);

/// <summary>
/// Gives saves whose native cannot be read a face: a flat picture, a mix or a film that stands in for them where they are looked at
/// and compared. Whatever was a face stays stored for as long as its save.
/// </summary>
public sealed class AttachFace(
    DeedRunner deeds,
    IContentStore store,
    ReceiveSave receive,
    JobQueue queue,
    IDbContextFactory<StudioDb> contexts
)
{
    /// <summary>Attaches a file by hand.</summary>
    /// <exception cref="StorageFullException">The disk is full; nothing was taken, and nothing older is touched.</exception>
    public async Task<Outcome<FacedSave>> DoAsync(
        Actor actor,
        Guid pieceId,
        Guid saveId,
        ArrivingContent content,
        CancellationToken cancel = default
    )
    {
        using var staged = await store.StageAsync(content.Bytes, cancel);
        await store.CommitAsync(staged, cancel);
        var file = new FaceFile(staged.Hash, staged.Size, FileNames.Received(content.Name));
        await queue.DoAsync(JobRequest.Read(file.Hash, pieceId, JobPriority.Looked), cancel);
        return await deeds.DoAsync<FacedSave>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await FindAsync(deed.Db, pieceId, saveId, cancel) is not { } save)
                    return new Refusal.NoSuchSave();
                if (!await CanBeFaceAsync(deed.Db, file.Hash, cancel))
                    return new Refusal.NoFace(file.Name);
                if (!await NeedsFaceAsync(deed.Db, save.MainHash, cancel))
                    return new Refusal.NeedsNoFace();
                return await WithinAsync(deed, save, file, FaceOrigin.ByHand, cancel);
            },
            cancel
        );
    }

    /// <summary>Makes a loose save of a flat file the face of the piece's newest version, and takes it out of the piece's saves.</summary>
    public Task<Outcome<FacedSave>> FromSaveAsync(Actor actor, Guid pieceId, Guid saveId, CancellationToken cancel = default) =>
        deeds.DoAsync<FacedSave>(
            actor,
            Right.Work,
            async deed =>
            {
                if (await FindAsync(deed.Db, pieceId, saveId, cancel) is not { Number: null } loose)
                    return new Refusal.NoSuchSave();
                if (loose.Identity != loose.MainHash || !await CanBeFaceAsync(deed.Db, loose.MainHash, cancel))
                    return new Refusal.NoFace(loose.ReceivedName);
                if (await FacelessAsync(deed.Db, loose, cancel) is not { } save)
                    return new Refusal.NeedsNoFace();
                (loose.DiscardedAt, loose.DiscardedById) = (deed.Now, deed.Actor.PersonId);
                var file = new FaceFile(loose.MainHash, loose.Size, loose.ReceivedName);
                return await WithinAsync(deed, save, file, FaceOrigin.ByHand, cancel);
            },
            cancel
        );

    // The newest save before another one, where that cannot be read and so may be given the other as its face.
    private static async Task<Save?> FacelessAsync(StudioDb db, Save flat, CancellationToken cancel) =>
        await db
            .Saves.Where(s => s.PieceId == flat.PieceId && s.Sequence < flat.Sequence)
            .OrderByDescending(s => s.Number != null)
            .ThenByDescending(s => s.Sequence)
            .FirstOrDefaultAsync(cancel)
            is { } save
        && await NeedsFaceAsync(db, save.MainHash, cancel)
            ? save
            : null;

    /// <summary>Takes a save's face off; it stays stored.</summary>
    public Task<Outcome<FacedSave>> TakeOffAsync(Actor actor, Guid pieceId, Guid faceId, CancellationToken cancel = default) =>
        deeds.DoAsync<FacedSave>(
            actor,
            Right.Work,
            async deed =>
            {
                var save = await deed
                    .Db.Saves.Include(s => s.Faces)
                    .FirstOrDefaultAsync(s => s.PieceId == pieceId && s.Faces.Any(f => f.Id == faceId), cancel);
                if (save is null)
                    return new Refusal.NoSuchSave();
                var face = save.Faces.First(f => f.Id == faceId);
                face.TakenOffAt ??= deed.Now;
                save.FaceHash = Standing(save)?.Hash;
                await CompareAnewAsync(deed, save, cancel);
                return new FacedSave(save, face);
            },
            cancel
        );

    /// <summary>Takes a face off and makes what it holds a save of the piece: what arrived was meant as one.</summary>
    public async Task<Outcome<ReceivedSave>> AsSaveAsync(Actor actor, Guid pieceId, Guid faceId, CancellationToken cancel = default)
    {
        Face? face;
        await using (var db = await contexts.CreateDbContextAsync(cancel))
            face = await db
                .Faces.AsNoTracking()
                .FirstOrDefaultAsync(f => f.Id == faceId && db.Saves.Any(s => s.Id == f.SaveId && s.PieceId == pieceId), cancel);
        if (face is null)
            return new Refusal.NoSuchSave();
        await using var bytes = store.OpenRead(face.Hash);
        var received = await receive.DoAsync(
            actor,
            new SaveTarget.OfPiece(pieceId),
            new ArrivingContent(face.Name, bytes) { IsASave = true },
            cancel
        );
        // The save is there before the face goes: a crash between the two loses neither.
        return received.Done && await TakeOffAsync(actor, pieceId, faceId, cancel) is { Done: false } refused ? refused.Refusal : received;
    }

    /// <summary>The face that stands now; null for none.</summary>
    /// <param name="save">With its faces.</param>
    public static Face? Standing(Save save) => save.Faces.Where(f => f.TakenOffAt is null).MaxBy(f => (f.AttachedAt, f.Id));

    /// <summary>Gives a save a face, as part of a deed that does more.</summary>
    internal static async Task<FacedSave> WithinAsync(Deed deed, Save save, FaceFile file, FaceOrigin origin, CancellationToken cancel)
    {
        var face = new Face
        {
            SaveId = save.Id,
            Hash = file.Hash,
            Name = file.Name,
            Size = file.Size,
            Origin = origin,
            AttachedAt = deed.Now,
            AttachedById = deed.Actor.PersonId,
        };
        deed.Db.Faces.Add(face);
        save.FaceHash = file.Hash;
        await deed.Db.SaveChangesAsync(cancel);
        await deed.QueueAsync(JobRequest.Read(file.Hash, save.PieceId), cancel);
        await CompareAnewAsync(deed, save, cancel);
        return new FacedSave(save, face);
    }

    /// <summary>Whether a content is known to be flat; what was not read yet is not.</summary>
    internal static async Task<bool> CanBeFaceAsync(StudioDb db, ContentHash content, CancellationToken cancel) =>
        await FormatAsync(db, content, cancel) is { } format && FaceRule.CanBeFace(format);

    /// <summary>Whether a content is known to be closed; what was not read yet is not.</summary>
    internal static async Task<bool> NeedsFaceAsync(StudioDb db, ContentHash main, CancellationToken cancel) =>
        await FormatAsync(db, main, cancel) is { } format && FaceRule.NeedsFace(format);

    private static Task<FileFormat?> FormatAsync(StudioDb db, ContentHash content, CancellationToken cancel) =>
        ContentReader
            .Current(db)
            .Where(f => f.Content == content && f.State == FactsState.Read)
            .Select(f => (FileFormat?)f.Format)
            .FirstOrDefaultAsync(cancel);

    /// <summary>What a save was compared by is another now.</summary>
    internal static async Task CompareAnewAsync(Deed deed, Save save, CancellationToken cancel)
    {
        var db = deed.Db;
        await db.SaveChangesAsync(cancel);
        await db.Comparisons.Where(c => c.Before == save.Identity || c.After == save.Identity).ExecuteDeleteAsync(cancel);
        var line = db.Saves.Where(s => s.LineId == save.LineId && s.Number != null && s.Identity != save.Identity);
        var number = save.Number ?? int.MaxValue;
        var before = await line.Where(s => s.Number < number).OrderByDescending(s => s.Number).FirstOrDefaultAsync(cancel);
        var after = await line.Where(s => s.Number > number).OrderBy(s => s.Number).FirstOrDefaultAsync(cancel);
        if (before is not null)
            await deed.QueueAsync(JobRequest.Compare(before.Identity, save.Identity, save.PieceId), cancel);
        if (after is not null)
            await deed.QueueAsync(JobRequest.Compare(save.Identity, after.Identity, save.PieceId), cancel);
    }

    private static Task<Save?> FindAsync(StudioDb db, Guid pieceId, Guid saveId, CancellationToken cancel) =>
        db.Saves.FirstOrDefaultAsync(s => s.Id == saveId && s.PieceId == pieceId, cancel);
}
