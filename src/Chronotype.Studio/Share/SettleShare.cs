using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Share;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Share;

/// <summary>How steps that a program takes are told from saves.</summary>
/// <param name="Quiet">So long a program may take between two steps of one save.</param>
/// <param name="OneSave">What the same person writes within so long is one save; what comes later is another.</param>
public sealed record ShareTimes(TimeSpan Quiet, TimeSpan OneSave)
{
    public static readonly ShareTimes Usual = new(TimeSpan.FromSeconds(2), TimeSpan.FromSeconds(1));
}

/// <summary>
/// Makes saves of what programs have written over the current files of pieces. A program writes in many steps, an empty file first, or
/// several times in a second; when nothing more came for <see cref="ShareTimes.Quiet"/>, it is one save. What is held is stored and recorded, so that
/// it is settled after a crash, too.
/// </summary>
public sealed partial class SettleShare(
    ReceiveSave receiveSave,
    Remove remove,
    DeedRunner deeds,
    IDbContextFactory<StudioDb> contexts,
    IServiceScopeFactory scopes,
    IContentStore store,
    TimeProvider time,
    ShareTimes times,
    ILogger<SettleShare> log
) : BackgroundService
{
    /// <summary>So long what was written on the way, and what a desktop left behind, stays after it was last written.</summary>
    public static readonly TimeSpan Passing = TimeSpan.FromDays(1);

    private static readonly TimeSpan Round = TimeSpan.FromHours(1),
        Again = TimeSpan.FromSeconds(5);

    private readonly Waking waking = new(time);
    private readonly SemaphoreSlim oneAtATime = new(1);

    /// <summary>Something was written: it is looked at when it is quiet.</summary>
    public void Wake() => waking.Wake();

    /// <summary>What is held at a path is a save now, where it is one at all.</summary>
    internal async Task NowAsync(Guid projectId, ProjectPath path, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var held = await Pending(db)
            .Where(p => p.Shared.ProjectId == projectId && p.Shared.PathKey == path.Key)
            .FirstOrDefaultAsync(cancel);
        if (held is not null)
            await SettleAsync(held, cancel);
        else if (await PendingFolders(db).Where(f => f.ProjectId == projectId).AnyAsync(cancel))
        {
            var entry = await new ProjectTree(db, projectId).FindAsync(path, cancel);
            if (entry is { PieceId: { } piece } && entry.Kind.IsCurrent())
                await SettleFolderAsync(piece, entry.LineId, cancel);
        }
    }

    /// <summary>Makes saves of all that has been quiet for long enough.</summary>
    /// <returns>When to look again; null where nothing is held.</returns>
    public async Task<DateTimeOffset?> RoundAsync(CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var pending = await Pending(db).OrderBy(p => p.Shared.At).ToListAsync(cancel);
        DateTimeOffset? next = null;
        foreach (var held in pending)
            await DueAsync(held.Shared.At + times.Quiet, held.Shared.Path.Text, () => SettleAsync(held, cancel));
        foreach (var (piece, line, due) in await FoldersDueAsync(db, cancel))
            await DueAsync(due, piece.ToString(), () => SettleFolderAsync(piece, line, cancel));
        foreach (var shared in await Newcomers(db).OrderBy(n => n.At).ToListAsync(cancel))
            await DueAsync(shared.At + times.Quiet, shared.Path.Text, () => PlaceAsync(shared, cancel));
        return next;

        async Task DueAsync(DateTimeOffset due, string what, Func<Task> work)
        {
            if (due <= time.GetUtcNow())
            {
                if (await GuardedAsync(what, work))
                    return;
                due = time.GetUtcNow() + Again;
            }
            next = next < due ? next : due;
        }
    }

    /// <summary>What was saved in working folders under names that fit no piece: it waits until somebody says what it is.</summary>
    public static IQueryable<SharedFile> Waiting(StudioDb db, Guid projectId) =>
        db.SharedFiles.Where(f => f.ProjectId == projectId && f.Hash != null && f.SettledAt != null && f.PieceId == null);

    /// <summary>Takes a file that waits: as a save of a piece, or as one that begins with it.</summary>
    public async Task<Outcome<ReceivedSave>> TakeAsync(Actor actor, Guid sharedId, SaveTarget target, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await db.SharedFiles.AsNoTracking().FirstOrDefaultAsync(f => f.Id == sharedId && f.Hash != null, cancel) is not { } shared)
            return new Refusal.NoSuchEntry();
        return await ReceiveAsync(actor, shared, target);
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var swept = DateTimeOffset.MinValue;
        while (!stoppingToken.IsCancellationRequested)
        {
            var wait = Round;
            try
            {
                if (await RoundAsync(stoppingToken) is { } next)
                    wait = next - time.GetUtcNow();
                if (time.GetUtcNow() - swept > Round)
                {
                    await SweepAsync(stoppingToken);
                    swept = time.GetUtcNow();
                }
                await waking.WaitAsync(wait > TimeSpan.Zero ? wait : TimeSpan.FromMilliseconds(50), stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
            {
                log.LogError(e, "What was written on the share could not be settled; it is held, and tried again.");
                await Task.Delay(TimeSpan.FromSeconds(5), stoppingToken);
            }
        }
    }

    // One that cannot be settled keeps no other waiting: it is held, and tried again soon.
    private async Task<bool> GuardedAsync(string what, Func<Task> work)
    {
        try
        {
            await work();
            return true;
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            log.LogError(e, "A save of {What} on the share could not be taken. It is held, and tried again.", what);
            return false;
        }
    }

    // It goes on standing where the program wrote it, which may still have it open.
    private async Task<Outcome<ReceivedSave>> ReceiveAsync(Actor actor, SharedFile shared, SaveTarget target, string? backupOf = null)
    {
        var received = await SaveAsync(actor, shared, target, backupOf);
        if (received.Done)
            await SettledAsync(shared, received.Result.Piece.Id, CancellationToken.None);
        return received;
    }

    private async Task<Outcome<ReceivedSave>> SaveAsync(Actor actor, SharedFile shared, SaveTarget target, string? backupOf = null)
    {
        var name = backupOf ?? shared.Path.Name;
        // Only what is looked into is read once more.
        var isZip = FileNames.Extension(name) == ".zip";
        await using var bytes = isZip ? store.OpenRead(shared.Hash!.Value) : Stream.Null;
        var received = await receiveSave.DoAsync(
            actor,
            target,
            new ArrivingContent(name, bytes)
            {
                Stored = isZip ? null : (shared.Hash!.Value, shared.Size, shared.NewBytes),
                IsASave = true,
                IsByItself = true,
                Aside = backupOf is null ? null : SaveAside.Backup,
            },
            CancellationToken.None
        );
        if (!received.Done)
            log.LogWarning("A save of {Path} on the share was not taken: {Refusal}. It is held.", shared.Path, received.Refusal);
        return received;
    }

    private Task<Outcome<Done>> SettledAsync(SharedFile shared, Guid? piece, CancellationToken cancel) =>
        deeds.DoAsync<Done>(
            Actor.StudioFor(shared.ById),
            Right.Work,
            async deed =>
            {
                await deed
                    .Db.SharedFiles.Where(f => f.Id == shared.Id && f.Hash == shared.Hash && f.At == shared.At)
                    .ExecuteUpdateAsync(u => u.SetProperty(f => f.SettledAt, deed.Now).SetProperty(f => f.PieceId, piece), cancel);
                return Done.It;
            },
            cancel
        );

    private async Task<bool> IsThereAsync(SharedFile shared, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.SharedFiles.AnyAsync(f => f.Id == shared.Id && f.Hash == shared.Hash && f.At == shared.At, cancel);
    }

    private sealed record Held
    {
        public required SharedFile Shared { get; init; }
        public required Guid PieceId { get; init; }
        public required Guid? LineId { get; init; }
    }

    // What stands before a piece's current file, and is no empty beginning.
    private static IQueryable<Held> Pending(StudioDb db) =>
        from shared in db.SharedFiles.AsNoTracking()
        join entry in db.Entries on new { shared.ProjectId, shared.PathKey } equals new { entry.ProjectId, entry.PathKey }
        where (entry.Kind == EntryKind.CurrentFile || entry.Kind == EntryKind.AltFile) && entry.DeletedAt == null && shared.Size > 0
        select new Held
        {
            Shared = shared,
            PieceId = entry.PieceId!.Value,
            LineId = entry.LineId,
        };

    private async Task SettleAsync(Held held, CancellationToken cancel)
    {
        await oneAtATime.WaitAsync(cancel);
        try
        {
            var shared = held.Shared;
            // Whoever was here before may have settled it, and something newer may be on top by now.
            if (!await IsThereAsync(shared, cancel))
                return;
            if (await SaveAsync(Actor.StudioFor(shared.ById), shared, new SaveTarget.OfPiece(held.PieceId, held.LineId)) is { Done: false })
                return;
            // It is a save: what stands before it goes, unless something newer came meanwhile.
            await deeds.DoAsync<Done>(
                Actor.StudioFor(shared.ById),
                Right.Work,
                async deed =>
                {
                    await deed
                        .Db.SharedFiles.Where(f => f.Id == shared.Id && f.Hash == shared.Hash && f.At == shared.At)
                        .ExecuteDeleteAsync(CancellationToken.None);
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

    // What nobody went on with. What could be somebody's work stays until it has its place.
    private async Task SweepAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var before = time.GetUtcNow() - Passing;
        var old = await db
            .SharedFiles.Where(f => f.At < before && (f.Hash != null || (f.Within != null && f.SettledAt != null)))
            .Select(f => new
            {
                f.Id,
                f.Path,
                f.Size,
                IsSave = f.PieceId != null && f.SettledAt != null,
            })
            .ToListAsync(cancel);
        // By its name it is nobody's work; anything else goes when it is a save, or holds nothing, which may have changed since it was read.
        var passing = old.Where(f => SharedNames.Of(f.Path.Name) is SharedNameKind.Lock or SharedNameKind.Litter).Select(f => f.Id);
        foreach (var some in passing.Chunk(500))
            await db.SharedFiles.Where(f => some.Contains(f.Id) && f.At < before).ExecuteDeleteAsync(cancel);
        foreach (var some in old.Where(f => f.IsSave || f.Size == 0).Select(f => f.Id).Chunk(500))
            await db
                .SharedFiles.Where(f => some.Contains(f.Id) && f.At < before && (f.Size == 0 || (f.PieceId != null && f.SettledAt != null)))
                .ExecuteDeleteAsync(cancel);
    }
}
