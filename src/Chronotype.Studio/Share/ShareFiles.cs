using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Share;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Share;

/// <summary>What became of something that was put, copied or moved on the share.</summary>
/// <param name="IsNew">Nothing stood at its place before.</param>
/// <param name="Hash">What is held there now; null for a folder.</param>
public sealed record SharedChange(bool IsNew, ContentHash? Hash);

/// <summary>Whether a program's conditions hold of what stands on the share, asked on the rows that are about to be changed.</summary>
public delegate Task<bool> Condition(StudioDb db);

/// <summary>
/// Files as programs write, move and delete them on the share. What is part of the tree becomes that at once, by the tree's own rules. In
/// a working folder, and for what is written on the way, it is held first: programs write a file in many steps, and what they mean shows
/// at the end of them (<see cref="SettleShare"/>).
/// </summary>
public sealed partial class ShareFiles(
    DeedRunner deeds,
    IContentStore store,
    SettleShare settle,
    ShareTimes times,
    ReceiveSave receiveSave,
    ContentReader reader,
    HeldContent heldContent,
    IDbContextFactory<StudioDb> contexts
)
{
    /// <summary>Why a file cannot be put somewhere, as far as that is known before a byte of it is stored; it is asked again when it is put.</summary>
    /// <param name="length">Bytes, where the program has said how many.</param>
    /// <returns>Null where nothing is known against it.</returns>
    public static async Task<Refusal?> RefusalBeforeAsync(
        StudioDb db,
        Guid projectId,
        ProjectPath path,
        long? length,
        CancellationToken cancel = default
    )
    {
        var tree = new ProjectTree(db, projectId);
        if (path.Folder is { } around && await tree.FindAsync(around, cancel) is not { Kind: EntryKind.Folder })
            return await PieceFolder.AroundAsync(db, projectId, path, cancel) is { } piece
                ? piece.IsForGood
                    ? new Refusal.KeptForGood(piece.Path)
                    : null
                : new Refusal.NoSuchFolder(around);
        var entry = await tree.Entries.AsNoTracking().Include(e => e.Contents).FirstOrDefaultAsync(e => e.PathKey == path.Key, cancel);
        if (entry?.Kind is EntryKind.Version or EntryKind.MilestoneCopy or EntryKind.MasterCopy)
            return new Refusal.KeptForGood(entry.Path);
        // The same content once more is no change; of another length it is another.
        return
            entry is { Kind: EntryKind.OwnFile, Role: FolderRole.Originals }
            && entry.Contents.MaxBy(c => c.Sequence) is { Size: > 0 and var size }
            && length is { } said
            && said != size
            ? new Refusal.NeverChanged(entry.Path)
            : null;
    }

    /// <summary>Stores a file, durably, and then puts it at its place.</summary>
    /// <param name="holds">Null where nothing must hold.</param>
    /// <exception cref="StorageFullException">The disk is full; nothing was taken, and nothing older is touched.</exception>
    public async Task<Outcome<SharedChange>> PutAsync(
        Actor actor,
        Guid projectId,
        ProjectPath path,
        Stream bytes,
        Condition? holds = null,
        CancellationToken cancel = default
    )
    {
        await using var watched = new EndingStream(bytes);
        // What breaks off is stored as far as it came.
        var staged = await store.StageAsync(watched, CancellationToken.None);
        Outcome<SharedChange> put;
        using (staged)
            put = await PutAsync(actor, projectId, path, staged, watched.Broken, holds, cancel);
        if (!put.Done)
            await heldContent.RefusedAsync([staged.Hash]);
        return put;
    }

    private async Task<Outcome<SharedChange>> PutAsync(
        Actor actor,
        Guid projectId,
        ProjectPath path,
        StagedContent staged,
        Exception? broken,
        Condition? holds,
        CancellationToken cancel
    )
    {
        if (broken is not null)
        {
            await HoldBeginningAsync(actor, projectId, path, staged);
            throw broken;
        }
        await store.CommitAsync([staged], cancel);
        // All of it is here: whoever sent it may be gone by now, and it is recorded all the same.
        return await AfterOthersAsync(
            projectId,
            () =>
                WhereItHoldsAsync(
                    actor,
                    path,
                    holds,
                    deed => PlaceAsync(deed, projectId, path, (staged.Hash, staged.Size), CancellationToken.None, staged.NewBytes),
                    CancellationToken.None
                )
        );
    }

    // The first of two who want the same has changed the rows by then, so that one gets it.
    private Task<Outcome<T>> WhereItHoldsAsync<T>(
        Actor actor,
        ProjectPath path,
        Condition? holds,
        Func<Deed, Task<Outcome<T>>> work,
        CancellationToken cancel
    )
        where T : class =>
        deeds.DoAsync(
            actor,
            Right.Work,
            async deed => holds is null || await holds(deed.Db) ? await work(deed) : new Refusal.ChangedMeanwhile(path),
            cancel
        );

    // Of a current file the beginning of a save may be all that is left of somebody's work: it stands beside the saves, where it can be read
    // at all, and changes nothing of them.
    private async Task HoldBeginningAsync(Actor actor, Guid projectId, ProjectPath path, StagedContent staged)
    {
        if (staged.Size == 0)
            return;
        TreeEntry? entry;
        await using (var db = await contexts.CreateDbContextAsync())
            entry = await new ProjectTree(db, projectId).FindAsync(path);
        if (entry is not { PieceId: { } piece } || !entry.Kind.IsCurrent())
            return;
        await store.CommitAsync([staged], CancellationToken.None);
        var facts = await reader.ReadAsync(staged.Hash);
        if (
            facts.Format == FileFormat.Other
            || (facts.Fault is not null && facts is { Picture: null, Sound: null, Text: null, Scene: null })
        )
            return;
        await using var bytes = store.OpenRead(staged.Hash);
        await receiveSave.DoAsync(
            actor,
            new SaveTarget.OfPiece(piece, entry.LineId),
            new ArrivingContent(path.Name, bytes)
            {
                IsASave = true,
                IsByItself = true,
                Aside = SaveAside.CutShort,
            },
            CancellationToken.None
        );
    }

    // What is held there as another save is one before anything is put over it.
    private async Task<Outcome<T>> AfterOthersAsync<T>(Guid projectId, Func<Task<Outcome<T>>> work)
        where T : class
    {
        Outcome<T> outcome;
        for (var tries = 1; ; tries++)
        {
            outcome = await work();
            if (outcome.Refusal is not Refusal.HeldBefore held || tries == MostTries)
                break;
            await settle.NowAsync(projectId, held.Path, CancellationToken.None);
        }
        settle.Wake();
        return outcome;
    }

    /// <summary>Makes a folder.</summary>
    public Task<Outcome<SharedChange>> MakeFolderAsync(Actor actor, Guid projectId, ProjectPath path, CancellationToken cancel = default) =>
        deeds.DoAsync<SharedChange>(
            actor,
            Right.Work,
            async deed =>
            {
                // What a desktop would keep for itself has no place in a project.
                if (SharedNames.Of(path.Name) == SharedNameKind.Litter)
                    return new Refusal.NotOnTheShare(path);
                if (await SharedAsync(deed.Db, projectId, path, cancel) is { Hash: not null })
                    return new Refusal.PathTaken(path);
                return await MakeFolderAsync(deed, projectId, path, cancel) is { } refused ? refused : new SharedChange(true, null);
            },
            cancel
        );

    // In the tree, in a piece that is a folder, or as the folder that a piece is.
    private static async Task<Refusal?> MakeFolderAsync(Deed deed, Guid projectId, ProjectPath path, CancellationToken cancel)
    {
        if (await PieceFolder.AroundAsync(deed.Db, projectId, path, cancel) is { } around)
            return around.Put(deed, path, null);
        if (await new ProjectTree(deed.Db, projectId).FindAsync(path, cancel) is not { } piece || !piece.Kind.IsCurrent())
            return (await TendTree.MakeFolderWithinAsync(deed, projectId, path, cancel)).Refusal;
        if (await new ShareTree(deed.Db, projectId).FindAsync(path, cancel) is not null)
            return new Refusal.PathTaken(path);
        var shared = await SharedAsync(deed.Db, projectId, path, cancel);
        if (shared is null)
            deed.Db.SharedFiles.Add(shared = NewShared(projectId, path));
        (shared.IsFolder, shared.Within, shared.PieceId, shared.LineId) = (true, "", piece.PieceId, piece.LineId);
        (shared.Hash, shared.Size) = (null, 0);
        (shared.At, shared.ById, shared.SettledAt) = (deed.Now, deed.Actor.PersonId, null);
        return null;
    }

    /// <summary>Takes something off the share. What is part of the tree can be taken back; of a piece nothing goes.</summary>
    /// <param name="holds">As of <see cref="PutAsync"/>.</param>
    public async Task<Outcome<Done>> DeleteAsync(
        Actor actor,
        Guid projectId,
        ProjectPath path,
        Condition? holds = null,
        CancellationToken cancel = default
    )
    {
        await settle.NowAsync(projectId, path, cancel);
        return await AfterOthersAsync(
            projectId,
            () => WhereItHoldsAsync(actor, path, holds, deed => TakeOffAsync(deed, projectId, path, cancel), cancel)
        );
    }

    // What is to stand somewhere meets what stands there: a file gives way to a file, anything else only goes when that is wanted.
    private static async Task<(bool IsNew, Refusal? Refusal)> MakeWayAsync(
        Deed deed,
        Guid projectId,
        ProjectPath to,
        bool isFolder,
        bool overwrites,
        CancellationToken cancel
    )
    {
        if (await new ShareTree(deed.Db, projectId).FindAsync(to, cancel) is not { } there)
            return (true, null);
        if (!overwrites)
            return (false, new Refusal.PathTaken(to));
        if (!isFolder && !there.IsFolder)
            return (false, null);
        var gone = await TakeOffAsync(deed, projectId, to, cancel);
        await deed.Db.SaveChangesAsync(cancel);
        return (false, gone.Refusal);
    }

    // Puts content that is stored at a place: into the tree, or before it.
    private async Task<Outcome<SharedChange>> PlaceAsync(
        Deed deed,
        Guid projectId,
        ProjectPath path,
        (ContentHash Hash, long Size) held,
        CancellationToken cancel,
        long newBytes = 0
    )
    {
        var db = deed.Db;
        // Somebody may have been let out of it while the file was on its way.
        if (!await db.Projects.AnyAsync(p => p.Id == projectId, cancel))
            return new Refusal.NoSuchProject();
        var tree = new ProjectTree(db, projectId);
        var role = FolderRole.Documents;
        if (path.Folder is { } around)
        {
            if (await tree.FindAsync(around, cancel) is { Kind: EntryKind.Folder } folder)
                role = folder.Role;
            else if (await PieceFolder.AroundAsync(db, projectId, path, cancel) is { } piece)
            {
                var isFirst = piece.Find(path) is null;
                return piece.Put(deed, path, held, newBytes) is { } refused ? refused : new SharedChange(isFirst, held.Hash);
            }
            else
                return new Refusal.NoSuchFolder(around);
        }
        var entry = await tree.Entries.Include(e => e.Contents).FirstOrDefaultAsync(e => e.PathKey == path.Key, cancel);
        var shared = await SharedAsync(db, projectId, path, cancel);
        if (entry?.Kind == EntryKind.Folder || shared is { IsFolder: true })
            return new Refusal.PathTaken(path);
        if (entry?.Kind is EntryKind.Version or EntryKind.MilestoneCopy or EntryKind.MasterCopy)
            return new Refusal.KeptForGood(entry.Path);
        var now = entry?.Contents.MaxBy(c => c.Sequence);
        if (entry is { Kind: EntryKind.OwnFile, Role: FolderRole.Originals } && now is { Size: > 0 } && now.Hash != held.Hash)
            return new Refusal.NeverChanged(entry.Path);
        var isNew = shared is null
            ? entry is null || (entry.Kind.IsCurrent() && !await HasSaveAsync(db, entry, cancel))
            : shared.Hash is null;
        var isHeld =
            held.Size == 0 || (role.IsWorking() && entry?.Kind != EntryKind.Companion) || SharedNames.Of(path.Name) != SharedNameKind.Work;
        if (isHeld)
        {
            // Of one person, what follows within a moment is the same save; what comes later, or from another, is one more. And an empty
            // beginning may never be followed by anything.
            if (
                shared is { Size: > 0, SettledAt: null }
                && (held.Size == 0 || shared.ById != deed.Actor.PersonId || deed.Now - shared.At > times.OneSave)
                && shared.Hash != held.Hash
                && entry?.Kind.IsCurrent() == true
            )
                return new Refusal.HeldBefore(path);
            if (shared is null)
                db.SharedFiles.Add(shared = NewShared(projectId, path));
            // Before a current file stands what one save is written in; anything else has no other place.
            else if (entry?.Kind.IsCurrent() != true)
                Hold(deed, shared, held.Hash);
            (shared.Hash, shared.Size, shared.At, shared.ById) = (held.Hash, held.Size, deed.Now, deed.Actor.PersonId);
            (shared.SettledAt, shared.NewBytes) = (null, newBytes);
            return new SharedChange(isNew, held.Hash);
        }
        if (shared is not null)
        {
            Hold(deed, shared, held.Hash);
            db.SharedFiles.Remove(shared);
        }
        // An output that is exported again is another one; the one before it can be taken back.
        if (entry is { Kind: EntryKind.OwnFile, MayReplace: false } && now?.Hash != held.Hash)
        {
            (entry.DeletedAt, entry.DeletedById) = (deed.Now, deed.Actor.PersonId);
            await db.SaveChangesAsync(cancel);
        }
        var replaces = entry is { Kind: EntryKind.Companion } ? entry.Id : (Guid?)null;
        var placed = await TendFiles.RecordAsync(deed, projectId, path.Folder, path.Name, held, replaces, cancel);
        return placed.Done ? new SharedChange(isNew, held.Hash) : placed.Refusal;
    }

    // Keeps what is written over, so that it can be restored.
    private static void Hold(Deed deed, SharedFile over, ContentHash by)
    {
        if (over.Hash != by && IsUnplaced(over))
            deed.Db.SharedFiles.Add(Gone(deed, over));
    }

    private static Task<bool> HasSaveAsync(StudioDb db, TreeEntry entry, CancellationToken cancel) =>
        db.Saves.AnyAsync(s => s.PieceId == entry.PieceId, cancel);

    private static Task<SharedFile?> SharedAsync(StudioDb db, Guid projectId, ProjectPath path, CancellationToken cancel) =>
        db.SharedFiles.FirstOrDefaultAsync(f => f.ProjectId == projectId && f.PathKey == path.Key, cancel);

    private static async Task<List<SharedFile>> UnderAsync(StudioDb db, Guid projectId, ProjectPath folder, CancellationToken cancel)
    {
        var (from, to) = (folder.Key + "/", folder.Key + "0");
        return await db
            .SharedFiles.Where(f => f.ProjectId == projectId && string.Compare(f.PathKey, from) > 0 && string.Compare(f.PathKey, to) < 0)
            .ToListAsync(cancel);
    }

    internal static SharedFile NewShared(Guid projectId, ProjectPath path) =>
        new()
        {
            ProjectId = projectId,
            Path = path,
            PathKey = path.Key,
            FolderKey = path.Folder?.Key ?? "",
        };

    private const int MostCopied = 20_000,
        CopiedAtOnce = 10,
        MostTries = 20;
}
