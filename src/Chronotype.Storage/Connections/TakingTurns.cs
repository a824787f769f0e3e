using System.Data.Common;
using System.Runtime.CompilerServices;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace Chronotype.Storage.Connections;

/// <summary>Has each context write in its turn: from the beginning of a transaction to its end, or for one command alone.</summary>
public sealed class TakingTurns(WriteTurn turn)
    : DbTransactionInterceptor,
        IDbCommandInterceptor,
        ISaveChangesInterceptor,
        IDbConnectionInterceptor
{
    private readonly ConditionalWeakTable<DbContext, IDisposable> held = [];

    public override async ValueTask<InterceptionResult<DbTransaction>> TransactionStartingAsync(
        DbConnection connection,
        TransactionStartingEventData eventData,
        InterceptionResult<DbTransaction> result,
        CancellationToken cancellationToken = default
    )
    {
        await TakeAsync(eventData.Context, cancellationToken);
        return result;
    }

    // What waits for the disk after it does so without the turn.
    public override Task TransactionCommittedAsync(
        DbTransaction transaction,
        TransactionEndEventData eventData,
        CancellationToken cancellationToken = default
    ) => End(eventData.Context);

    public override Task TransactionRolledBackAsync(
        DbTransaction transaction,
        TransactionEndEventData eventData,
        CancellationToken cancellationToken = default
    ) => End(eventData.Context);

    public override Task TransactionFailedAsync(
        DbTransaction transaction,
        TransactionErrorEventData eventData,
        CancellationToken cancellationToken = default
    ) => End(eventData.Context);

    // A transaction that is only disposed of ends with its connection.
    public void ConnectionClosed(DbConnection connection, ConnectionEndEventData eventData) => End(eventData.Context);

    public Task ConnectionClosedAsync(DbConnection connection, ConnectionEndEventData eventData) => End(eventData.Context);

    public async ValueTask<InterceptionResult<int>> NonQueryExecutingAsync(
        DbCommand command,
        CommandEventData eventData,
        InterceptionResult<int> result,
        CancellationToken cancellationToken = default
    )
    {
        if (command.Transaction is null)
            await TakeAsync(eventData.Context, cancellationToken);
        return result;
    }

    public async ValueTask<int> NonQueryExecutedAsync(
        DbCommand command,
        CommandExecutedEventData eventData,
        int result,
        CancellationToken cancellationToken = default
    )
    {
        if (command.Transaction is null)
            await End(eventData.Context);
        return result;
    }

    public Task CommandFailedAsync(DbCommand command, CommandErrorEventData eventData, CancellationToken cancellationToken = default) =>
        command.Transaction is null ? End(eventData.Context) : Task.CompletedTask;

    public Task CommandCanceledAsync(DbCommand command, CommandEndEventData eventData, CancellationToken cancellationToken = default) =>
        command.Transaction is null ? End(eventData.Context) : Task.CompletedTask;

    public async ValueTask<InterceptionResult<int>> SavingChangesAsync(
        DbContextEventData eventData,
        InterceptionResult<int> result,
        CancellationToken cancellationToken = default
    )
    {
        if (eventData.Context is { Database.CurrentTransaction: null } context && context.ChangeTracker.HasChanges())
            await TakeAsync(context, cancellationToken);
        return result;
    }

    public async ValueTask<int> SavedChangesAsync(
        SaveChangesCompletedEventData eventData,
        int result,
        CancellationToken cancellationToken = default
    )
    {
        if (eventData.Context is { Database.CurrentTransaction: null } context)
            await End(context);
        return result;
    }

    public Task SaveChangesFailedAsync(DbContextErrorEventData eventData, CancellationToken cancellationToken = default) =>
        eventData.Context is { Database.CurrentTransaction: null } context ? End(context) : Task.CompletedTask;

    public Task SaveChangesCanceledAsync(DbContextEventData eventData, CancellationToken cancellationToken = default) =>
        eventData.Context is { Database.CurrentTransaction: null } context ? End(context) : Task.CompletedTask;

    private async Task TakeAsync(DbContext? context, CancellationToken cancel)
    {
        if (context is not null && !held.TryGetValue(context, out _))
            held.Add(context, await turn.TakeAsync(context is not StudioDb { GivesWay: true }, cancel));
    }

    private Task End(DbContext? context)
    {
        if (context is not null && held.TryGetValue(context, out var taken))
        {
            held.Remove(context);
            taken.Dispose();
        }
        return Task.CompletedTask;
    }
}
