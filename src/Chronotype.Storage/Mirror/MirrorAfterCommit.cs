using System.Data.Common;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.Extensions.Logging;

namespace Chronotype.Storage.Mirror;

/// <summary>Has every change of the records copied when it is committed, whoever made it, before whoever made it goes on.</summary>
public sealed class MirrorAfterCommit(RecordMirror mirror, ILogger<MirrorAfterCommit> log)
    : DbTransactionInterceptor,
        IDbCommandInterceptor,
        ISaveChangesInterceptor
{
    public override async Task TransactionCommittedAsync(
        DbTransaction transaction,
        TransactionEndEventData eventData,
        CancellationToken cancellationToken = default
    ) => await DrainAsync();

    public async ValueTask<int> NonQueryExecutedAsync(
        DbCommand command,
        CommandExecutedEventData eventData,
        int result,
        CancellationToken cancellationToken = default
    )
    {
        if (eventData.Context?.Database.CurrentTransaction is null)
            await DrainAsync();
        return result;
    }

    public async ValueTask<int> SavedChangesAsync(
        SaveChangesCompletedEventData eventData,
        int result,
        CancellationToken cancellationToken = default
    )
    {
        if (eventData.Context?.Database.CurrentTransaction is null)
            await DrainAsync();
        return result;
    }

    // The change itself is committed and flushed; a copy that fails is made with the next one.
    private async Task DrainAsync()
    {
        try
        {
            await mirror.DrainAsync();
        }
        catch (Exception e) when (e is IOException or Microsoft.Data.Sqlite.SqliteException)
        {
            log.LogError(e, "Records could not be copied beside the content; they are copied with the next change.");
        }
    }
}
