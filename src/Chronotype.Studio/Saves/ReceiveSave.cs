using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.References;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>
/// The one way in which content arrives. It is stored, durably, before anything is decided about it; recording it, keeping what is
/// to be kept at once, and asking for all that follows are one transaction; and until that has ended the content cannot be dropped.
/// </summary>
public sealed class ReceiveSave(
    DeedRunner deeds,
    StartPiece startPiece,
    KeepSave keepSave,
    JobQueue queue,
    IDbContextFactory<StudioDb> contexts,
    IContentStore store,
    HeldContent held,
    DerivedFacts derived,
    SavesSeen seen
)
{
    /// <summary>So many of the contents that are no saves of anybody’s stay with a piece.</summary>
    public const int MostAside = 10;

    /// <summary>How long an answer waits for the save to be read, so that small files show at once.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    /// <exception cref="StorageFullException">The disk is full; nothing was taken, and nothing older is touched.</exception>
    public async Task<Outcome<ReceivedSave>> DoAsync(
        Actor actor,
        SaveTarget target,
        ArrivingContent content,
        CancellationToken cancel = default
    )
    {
        var (pieceId, refusal) = await PieceOfAsync(actor, target, cancel);
        if (refusal is not null)
            return refusal;
        var name = FileNames.Received(content.Name);
        using var arrived =
            content.Folder is { } folder ? await FolderAsync(pieceId, folder.Files, folder.EmptyFolders, folder.NewBytes, cancel)
            : content.Stored is { } there ? ArrivedOf(name, there.Hash, there.Size, null, there.NewBytes ?? 0, [])
            : await StoreAsync(pieceId, name, content.Bytes, cancel);
        // All of it is here: whoever sent it may be gone by now, and it is recorded all the same.
        await LookAsync(pieceId, name, arrived.Content, CancellationToken.None);
        var outcome = await deeds.DoAsync(
            actor,
            Right.Work,
            deed => RecordAsync(deed, (pieceId, (target as SaveTarget.OfPiece)?.LineId), name, arrived, content, CancellationToken.None),
            CancellationToken.None
        );
        if (outcome.Result is not { } received)
        {
            arrived.Dispose();
            if (content is { Stored: null, Folder: null })
                await held.RefusedAsync([.. arrived.Content.Files.Select(f => f.Hash)]);
            return outcome;
        }
        if (!content.IsByItself)
            return await FollowAsync(received, cancel);
        if (received.IsNew)
            seen.Tell(received.Piece.Id, received.Save.Id);
        return received;
    }

    /// <param name="Staged">Held until what is in it is recorded.</param>
    /// <param name="ChangedAt">By path, when files were last changed.</param>
    private sealed record Arrived(
        SaveContent Content,
        ArrivalNotice? Notice,
        IReadOnlyDictionary<ProjectPath, DateTime?> ChangedAt,
        IReadOnlyList<ProjectPath> EmptyFolders,
        long NewBytes,
        IReadOnlyList<IDisposable> Staged
    ) : IDisposable
    {
        public void Dispose()
        {
            foreach (var staged in Staged)
                staged.Dispose();
        }
    }

    // A new piece's name is reserved before its content is read, so that nobody waits for an upload only to hear that it is taken.
    private async Task<(Guid PieceId, Refusal? Refusal)> PieceOfAsync(Actor actor, SaveTarget target, CancellationToken cancel)
    {
        if (target is SaveTarget.NewPiece made)
        {
            var started = await startPiece.DoAsync(actor, made.ProjectId, made.Slots, goOn: true, made.From, cancel);
            return (started.Result?.Id ?? default, started.Refusal);
        }
        var id = ((SaveTarget.OfPiece)target).PieceId;
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return (id, await db.Pieces.AnyAsync(p => p.Id == id, cancel) ? null : new Refusal.NoSuchPiece());
    }

    private async Task<Arrived> StoreAsync(Guid pieceId, string name, Stream bytes, CancellationToken cancel)
    {
        var staged = await store.StageAsync(bytes, cancel);
        try
        {
            ArrivalNotice? notice = null;
            if (FileNames.Extension(name) == ".zip")
            {
                try
                {
                    return await StoreFolderAsync(pieceId, staged, cancel);
                }
                catch (FolderZip.NotUnpackedException e)
                {
                    notice = e.Notice;
                }
            }
            await store.CommitAsync([staged], cancel);
            return ArrivedOf(name, staged.Hash, staged.Size, notice, staged.NewBytes, [staged]);
        }
        catch
        {
            staged.Dispose();
            throw;
        }
    }

    private static Arrived ArrivedOf(
        string name,
        ContentHash hash,
        long size,
        ArrivalNotice? notice,
        long newBytes,
        IReadOnlyList<IDisposable> staged
    )
    {
        var path = ProjectPath.TryParse(name, out var legal, out _) ? legal : ProjectPath.Parse("file" + FileNames.Extension(name));
        return new Arrived(
            new SaveContent([new ContentFile(path, hash, size)], path),
            notice,
            new Dictionary<ProjectPath, DateTime?>(),
            [],
            newBytes,
            staged
        );
    }

    private async Task<Arrived> StoreFolderAsync(Guid pieceId, StagedContent zip, CancellationToken cancel)
    {
        var unpacked = await FolderZip.UnpackAsync(zip, store, cancel);
        try
        {
            await store.CommitAsync([.. unpacked.Files.Select(f => f.Content)], cancel);
            var files = unpacked.Files.ConvertAll(u => new ContentFile(u.Path, u.Content.Hash, u.Content.Size));
            var folder = await FolderAsync(pieceId, files, unpacked.EmptyFolders, unpacked.Files.Sum(u => u.Content.NewBytes), cancel);
            return folder with { ChangedAt = unpacked.Files.ToDictionary(u => u.Path, u => u.ChangedAt), Staged = [unpacked, zip] };
        }
        catch
        {
            unpacked.Dispose();
            throw;
        }
    }

    private async Task<Arrived> FolderAsync(
        Guid pieceId,
        IReadOnlyList<ContentFile> files,
        IReadOnlyList<ProjectPath> emptyFolders,
        long newBytes,
        CancellationToken cancel
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var before = await db
            .Pieces.Where(p => p.Id == pieceId)
            .Select(p => new
            {
                p.Extension,
                Main = p.Saves.Where(s => s.IsCurrent).SelectMany(s => s.Files).Where(f => f.IsMain).Select(f => f.Path).FirstOrDefault(),
            })
            .FirstAsync(cancel);
        var content = new SaveContent(files, FolderZip.Main(files, before.Main, before.Extension));
        return new Arrived(content, null, new Dictionary<ProjectPath, DateTime?>(), emptyFolders, newBytes, []);
    }

    private async Task<Outcome<ReceivedSave>> RecordAsync(
        Deed deed,
        (Guid PieceId, Guid? LineId) target,
        string name,
        Arrived arrived,
        ArrivingContent came,
        CancellationToken cancel
    )
    {
        var isASave = came.IsASave;
        var (db, content, pieceId) = (deed.Db, arrived.Content, target.PieceId);
        var piece = await db
            .Pieces.Include(p => p.Lines)
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .FirstOrDefaultAsync(p => p.Id == pieceId, cancel);
        if (piece is null)
            return new Refusal.NoSuchPiece();
        await ForgetDamageAsync(db, content, cancel);
        // A line that was dropped meanwhile has its saves go where the work goes on.
        var line = piece.Lines.Find(l => l.Id == target.LineId) ?? piece.Line;
        var names = PieceNames.Of(piece).On(line.Name);
        var next = names.Next(line.HighestNumber, name);
        var newest = await db
            .Saves.Where(s => s.LineId == line.Id && s.Aside == null)
            .OrderByDescending(s => s.Sequence)
            .FirstOrDefaultAsync(cancel);
        if (
            came.Aside is not null
            && await db.Saves.FirstOrDefaultAsync(s => s.PieceId == pieceId && s.Identity == content.Identity, cancel) is { } held
        )
            return new ReceivedSave(piece, held, false, null, null, next, null) { InOrder = next };
        if (newest is not null && newest.Identity == content.Identity)
            return new ReceivedSave(piece, newest, false, null, null, next, null) { InOrder = next };
        if (!isASave && newest is not null && await ArrivingFace.OfAsync(deed, piece, newest, name, content, cancel) is { } faced)
            return new ReceivedSave(piece, faced.Save, false, null, null, next, null) { InOrder = next, Face = faced.Face };
        if (!isASave && newest is not null && await PieceCompanions.TakeAsync(deed, piece, newest, name, content, cancel) is { } placed)
            return new ReceivedSave(piece, newest, false, null, null, next, null) { InOrder = next, Companion = placed };

        var save = new Save
        {
            PieceId = pieceId,
            LineId = line.Id,
            Sequence = ++piece.HighestSequence,
            ArrivedAt = deed.Now,
            ArrivedById = deed.Actor.PersonId,
            ReceivedName = name,
            Identity = content.Identity,
            MainHash = content.Main.Hash,
            Size = content.Size,
            Files = content
                .Files.Select(f => new SaveFile
                {
                    Path = f.Path.Text,
                    Hash = f.Hash,
                    Size = f.Size,
                    IsMain = f == content.Main,
                    ChangedAt = arrived.ChangedAt.GetValueOrDefault(f.Path),
                })
                .ToList(),
            BaseNumber = await db.Saves.Where(s => s.LineId == line.Id).MaxAsync(s => s.Number, cancel),
            ArrivalNotice = arrived.Notice is null ? null : RecordJson.Write(arrived.Notice),
            EmptyFolders = arrived.EmptyFolders.Count == 0 ? null : string.Join('\n', arrived.EmptyFolders),
            NewBytes = arrived.NewBytes,
            Aside = came.Aside,
        };
        // Work goes on: what was put away is on the bench again.
        (piece.PutAwayAt, piece.Project.PutAwayAt) = (null, null);
        var same = await db
            .Saves.Where(s => s.LineId == line.Id && s.Number != null && s.Identity == content.Identity)
            .MaxAsync(s => s.Number, cancel);
        await PieceFiles.GiveExtensionAsync(db, piece, content.Main.Path.Name, cancel);
        db.Saves.Add(save);
        await db.SaveChangesAsync(cancel);
        await deed.QueueAsync(JobRequest.Read(save.MainHash, pieceId), cancel);
        var patterns = await ReferencePatterns.OfAsync(db, cancel);
        foreach (var file in save.Files.Where(f => !f.IsMain && FileLinks.MayRefer(f.Path, patterns)).Take(MostReferring))
            await deed.QueueAsync(JobRequest.Read(file.Hash, pieceId), cancel);
        await FileLinks.OfSaveAsync(db, save, cancel);
        await ArrivingFace.GiveAsync(deed, save, newest, content, cancel);
        await PieceCompanions.CarryAsync(db, save, cancel);
        // What it changed since the newest version is told with it, before anybody asks.
        if (
            await PieceQueries.VersionsOf(db, line.Id).Select(s => (ContentHash?)s.Identity).FirstOrDefaultAsync(cancel) is { } before
            && before != save.Identity
        )
            await deed.QueueAsync(JobRequest.Compare(before, save.Identity, pieceId), cancel);
        var byHand = names.NumberByHand(name);
        if (came.Aside is not null)
            await LimitAsideAsync(deed, pieceId, cancel);
        var keep =
            came.Aside is null && KeepBySetting.IsKeptAtOnce(piece.Keep ?? piece.Project.Keep, save.Sequence)
                ? await KeepAtOnceAsync(deed, save, cancel)
                : null;
        return new ReceivedSave(piece, save, true, arrived.Notice, byHand != next ? byHand : null, next, keep)
        {
            InOrder = names.Next(line.HighestNumber),
            SameAs = same is { } number ? new VersionNumber(number) : null,
        };
    }

    // What may be the face of a save is told by what it is, for which it is read; nobody waits for that longer than for anything else.
    private async Task LookAsync(Guid pieceId, string name, SaveContent content, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var extension = await db.Pieces.Where(p => p.Id == pieceId).Select(p => p.Extension).FirstOrDefaultAsync(cancel);
        foreach (var file in ArrivingFace.ToBeRead(extension, name, content).Take(MostLooked))
        {
            if (await ContentReader.KnownAsync(db, file.Hash, cancel) is not null)
                continue;
            await queue.AddAsync([JobRequest.Read(file.Hash, pieceId, JobPriority.Looked)], cancel: cancel);
            await queue.EndedAsync(JobKind.ReadContent, file.Hash.ToString(), Patience, cancel);
        }
    }

    // Programs go on making them for ever; of the older ones each is discarded, and can be taken back for a while.
    private static async Task LimitAsideAsync(Deed deed, Guid pieceId, CancellationToken cancel)
    {
        var over = await deed
            .Db.Saves.Where(s => s.PieceId == pieceId && s.Aside != null && s.Number == null)
            .OrderByDescending(s => s.Sequence)
            .Skip(MostAside)
            .ToListAsync(cancel);
        foreach (var old in over)
            (old.DiscardedAt, old.DiscardedById) = (deed.Now, deed.Actor.PersonId);
        await deed.Db.SaveChangesAsync(cancel);
    }

    private sealed class Telling(Action tell) : IDisposable
    {
        public void Dispose() => tell();
    }

    private const int MostLooked = 4;

    // Files of a folder that are read for what they refer to.
    private const int MostReferring = 500;

    // What was read before, under any name, is known; anything else is read first.
    private async Task<KeepResult?> KeepAtOnceAsync(Deed deed, Save save, CancellationToken cancel)
    {
        if (await ContentReader.KnownAsync(deed.Db, save.MainHash, cancel) is not null)
            return (await keepSave.WithinAsync(deed, save.PieceId, save.Id, null, insist: false, inOrder: false, cancel)).Result;
        await deed.QueueAsync(JobRequest.KeepBySetting(save.Id, save.PieceId), cancel);
        return new KeepResult.Pending(save.Id);
    }

    private async Task<ReceivedSave> FollowAsync(ReceivedSave received, CancellationToken cancel)
    {
        if (!received.IsNew)
            return received;
        // With what is in it where that is known soon, and without where it takes longer.
        using var told = new Telling(() => seen.Tell(received.Piece.Id, received.Save.Id));
        if (received.Keep is not KeepResult.Pending)
        {
            await queue.EndedAsync(JobKind.ReadContent, received.Save.MainHash.ToString(), Patience, cancel);
            return received;
        }
        if (!await queue.EndedAsync(JobKind.KeepBySetting, received.Save.Id.ToString(), KeepSave.Patience, cancel))
            return received;
        return received with { Keep = await keepSave.AnswerAsync(received.Save.PieceId, received.Save.Id, cancel) };
    }

    // Whatever of these contents was damaged was written anew as they arrived.
    private async Task ForgetDamageAsync(StudioDb db, SaveContent content, CancellationToken cancel)
    {
        if (!await db.Set<CheckDamage>().AnyAsync(cancel))
            return;
        var hashes = content.Files.Select(f => f.Hash).ToHashSet();
        var mended = (await db.Set<CheckDamage>().ToListAsync(cancel)).Where(d => hashes.Contains(d.Hash)).ToList();
        db.RemoveRange(mended);
        await derived.DropAsync(db, mended.ConvertAll(d => d.Hash), cancel);
    }
}
