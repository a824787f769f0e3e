using System.Data.Common;
using Chronotype.Storage.Connections;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.Extensions.Logging;

namespace Chronotype.Storage.Mirror;

/// <summary>
/// Has every change of the records flushed and copied when it is committed, whoever made it, before whoever made it goes on. Where it could
/// not be flushed, whoever made it is told so.
/// </summary>
public sealed class MirrorAfterCommit(RecordMirror mirror, ILogger<MirrorAfterCommit> log)
    : DbTransactionInterceptor,
        IDbCommandInterceptor,
        ISaveChangesInterceptor
{
    public override ValueTask<InterceptionResult> TransactionCommittingAsync(
        DbTransaction transaction,
        TransactionEventData eventData,
        InterceptionResult result,
        CancellationToken cancellationToken = default
    )
    {
        mirror.Begin();
        return ValueTask.FromResult(result);
    }

    public override Task TransactionFailedAsync(
        DbTransaction transaction,
        TransactionErrorEventData eventData,
        CancellationToken cancellationToken = default
    )
    {
        if (eventData.Action == "Commit")
            mirror.End();
        return Task.CompletedTask;
    }

    public override async Task TransactionCommittedAsync(
        DbTransaction transaction,
        TransactionEndEventData eventData,
        CancellationToken cancellationToken = default
    )
    {
        try
        {
            await DrainAsync(eventData.Context);
        }
        finally
        {
            mirror.End();
        }
    }

    public async ValueTask<int> NonQueryExecutedAsync(
        DbCommand command,
        CommandExecutedEventData eventData,
        int result,
        CancellationToken cancellationToken = default
    )
    {
        if (eventData.Context?.Database.CurrentTransaction is null)
            await CountedAsync(eventData.Context);
        return result;
    }

    public async ValueTask<int> SavedChangesAsync(
        SaveChangesCompletedEventData eventData,
        int result,
        CancellationToken cancellationToken = default
    )
    {
        if (eventData.Context?.Database.CurrentTransaction is null)
            await CountedAsync(eventData.Context);
        return result;
    }

    private async Task CountedAsync(DbContext? written)
    {
        mirror.Begin();
        try
        {
            await DrainAsync(written);
        }
        finally
        {
            mirror.End();
        }
    }

    // Records that are flushed and could not be copied are copied with the next change.
    private async Task DrainAsync(DbContext? written)
    {
        // Others write while this one waits for the disk.
        (written as StudioDb)?.EndTurn();
        try
        {
            await mirror.DrainAsync();
        }
        catch (Exception e) when (e is (IOException and not CommitNotFlushedException) or Microsoft.Data.Sqlite.SqliteException)
        {
            log.LogError(e, "Records could not be copied beside the content; they are copied with the next change.");
        }
    }
}
