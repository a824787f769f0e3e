using Microsoft.EntityFrameworkCore.Storage;

namespace Chronotype.Storage.Connections;

/// <summary>A transaction that writes, in its turn. Disposing ends the turn, and undoes changes that were not committed.</summary>
public sealed class Writing : IAsyncDisposable
{
    private readonly IDbContextTransaction transaction;
    private readonly StudioDb db;

    private Writing(IDbContextTransaction transaction, StudioDb db) => (this.transaction, this.db) = (transaction, db);

    /// <summary>Waits for the turn of a context, and begins as a writer at once: rows that are read in it stay as they are.</summary>
    public static async Task<Writing> BeginAsync(StudioDb db, CancellationToken cancel = default)
    {
        await db.TakeTurnAsync(cancel);
        try
        {
            return new Writing(await db.Database.BeginTransactionAsync(cancel), db);
        }
        catch
        {
            db.EndTurn();
            throw;
        }
    }

    /// <summary>Keeps all that was written.</summary>
    public Task CommitAsync(CancellationToken cancel = default) => transaction.CommitAsync(cancel);

    public async ValueTask DisposeAsync()
    {
        try
        {
            await transaction.DisposeAsync();
        }
        finally
        {
            db.EndTurn();
        }
    }
}
