using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Share;

/// <content>Pieces that are folders of files: what a program writes over seconds is one save of all of it.</content>
public sealed partial class SettleShare
{
    /// <summary>A folder in which something is always written is a save after so long, as far as it is then.</summary>
    private static readonly TimeSpan LongestUnrest = TimeSpan.FromMinutes(2);

    private static IQueryable<SharedFile> PendingFolders(StudioDb db) =>
        db.SharedFiles.AsNoTracking().Where(f => f.Within != null && f.SettledAt == null && f.PieceId != null);

    private async Task<List<(Guid Piece, Guid? Line, DateTimeOffset Due)>> FoldersDueAsync(StudioDb db, CancellationToken cancel)
    {
        var rows = await PendingFolders(db)
            .Select(f => new
            {
                Piece = f.PieceId!.Value,
                f.LineId,
                f.At,
            })
            .ToListAsync(cancel);
        return rows.GroupBy(r => (r.Piece, r.LineId), r => r.At)
            .Select(g => (g.Key.Piece, g.Key.LineId, Earlier(g.Max() + times.Quiet, g.Min() + LongestUnrest)))
            .ToList();

        static DateTimeOffset Earlier(DateTimeOffset one, DateTimeOffset other) => one < other ? one : other;
    }

    private async Task SettleFolderAsync(Guid pieceId, Guid? lineId, CancellationToken cancel)
    {
        await oneAtATime.WaitAsync(cancel);
        try
        {
            await using var db = await contexts.CreateDbContextAsync(cancel);
            var folder = await FolderAsync(db, pieceId, lineId, cancel);
            // Who saves to a piece that was deleted goes on with it. Where it cannot be restored, what was saved is held until it can.
            if (folder is null && await db.Pieces.WithDeleted().AnyAsync(p => p.Id == pieceId && p.DeletedAt != null, cancel))
            {
                await remove.TakeBackPieceAsync(Actor.Studio, pieceId, cancel);
                folder = await FolderAsync(db, pieceId, lineId, cancel);
            }
            if (folder?.Pending.MaxBy(r => r.At) is not { } last)
                return;
            var seen = folder.Pending.Select(r => (r.Id, r.Hash, r.At)).ToHashSet();
            var (files, emptyFolders) = folder.Content();
            if (files.Count > 0)
            {
                var content = new ArrivingContent(folder.Path.Name, Stream.Null)
                {
                    Folder = new StoredFolder(files, emptyFolders, folder.Pending.Sum(r => r.NewBytes ?? 0)),
                    IsASave = true,
                    IsByItself = true,
                };
                var target = new SaveTarget.OfPiece(pieceId, lineId);
                var received = await receiveSave.DoAsync(Actor.StudioFor(last.ById), target, content, CancellationToken.None);
                if (!received.Done)
                {
                    log.LogWarning("A save of {Path} on the share was not taken: {Refusal}. It is held.", folder.Path, received.Refusal);
                    return;
                }
            }
            await deeds.DoAsync<Done>(
                Actor.StudioFor(last.ById),
                Right.Work,
                async deed =>
                {
                    await FolderSettledAsync(deed, folder, seen, files);
                    return Done.It;
                },
                CancellationToken.None
            );
        }
        finally
        {
            oneAtATime.Release();
        }
    }

    // What was written is a save now, and stands there as that, unless something newer came meanwhile.
    private static async Task FolderSettledAsync(
        Deed deed,
        PieceFolder folder,
        HashSet<(Guid Id, ContentHash? Hash, DateTimeOffset At)> seen,
        IReadOnlyList<ContentFile> files
    )
    {
        var inSave = files.ToLookup(f => f.Path.Key, f => f.Hash);
        var shared = deed.Db.SharedFiles;
        var isFresh = false;
        foreach (
            var row in await shared.Where(f => f.PieceId == folder.PieceId && f.LineId == folder.LineId && f.Within != null).ToListAsync()
        )
        {
            if (row.SettledAt is null && !seen.Contains((row.Id, row.Hash, row.At)))
                continue;
            if (files.Count > 1 && (row.Hash is not { } hash || inSave[ProjectPath.Parse(row.Within!).Key].Contains(hash)))
                shared.Remove(row);
            else
                row.SettledAt = deed.Now;
            isFresh |= row.Within == "";
        }
        // A save of one file stands as that file; the program that writes a folder goes on finding one.
        if (files.Count != 1 || isFresh)
            return;
        var whole = ShareFiles.NewShared(folder.Whole.Entry!.ProjectId, folder.Path);
        (whole.IsFolder, whole.Within, whole.PieceId, whole.LineId) = (true, "", folder.PieceId, folder.LineId);
        (whole.At, whole.ById, whole.SettledAt) = (deed.Now, deed.Actor.PersonId, deed.Now);
        shared.Add(whole);
        if (await shared.AnyAsync(f => f.PieceId == folder.PieceId && f.LineId == folder.LineId && f.Within == files[0].Path.Text))
            return;
        var last = ShareFiles.NewShared(whole.ProjectId, ProjectPath.Parse($"{folder.Path.Text}/{files[0].Path.Text}"));
        (last.Within, last.PieceId, last.LineId) = (files[0].Path.Text, folder.PieceId, folder.LineId);
        (last.Hash, last.Size) = (files[0].Hash, files[0].Size);
        (last.At, last.ById, last.SettledAt) = (deed.Now, deed.Actor.PersonId, deed.Now);
        shared.Add(last);
    }

    private static async Task<PieceFolder?> FolderAsync(StudioDb db, Guid pieceId, Guid? lineId, CancellationToken cancel) =>
        await db
            .Entries.AsNoTracking()
            .Where(e => e.PieceId == pieceId && e.LineId == lineId && e.DeletedAt == null)
            .FirstOrDefaultAsync(e => e.Kind == EntryKind.CurrentFile || e.Kind == EntryKind.AltFile, cancel)
            is { } entry
            ? await PieceFolder.OfAsync(db, entry, cancel)
            : null;
}
