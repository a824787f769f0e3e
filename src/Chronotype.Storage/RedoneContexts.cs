using System.Data.Common;
using Chronotype.Storage.Mirror;
using Chronotype.Storage.Starting;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace Chronotype.Storage;

/// <summary>
/// Contexts for what is done again by itself where it is not recorded: what the studio notes of its own jobs, and what it has read and
/// compared. Their commits wait for no disk (<c>synchronous=NORMAL</c> of SQLite, sqlite.org/pragma.html); whatever is committed after
/// them takes them along. A program that is killed loses nothing of them, and a machine without power the last ones, all from some
/// moment on.
/// </summary>
public sealed class RedoneContexts(string database, MirrorAfterCommit mirror) : IDbContextFactory<StudioDb>
{
    // As the connection is another by its text, it is never one of those whose commits wait.
    private readonly DbContextOptions<StudioDb> options = new DbContextOptionsBuilder<StudioDb>()
        .UseSqlite(
            new SqliteConnectionStringBuilder(DatabaseFile.Opening(database).ConnectionString) { DefaultTimeout = 31 }.ConnectionString
        )
        .AddInterceptors(mirror, new Opened())
        .Options;

    /// <inheritdoc />
    public StudioDb CreateDbContext() => new(options);

    private sealed class Opened : DbConnectionInterceptor
    {
        public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData)
        {
            using var command = connection.CreateCommand();
            command.CommandText = "PRAGMA synchronous=NORMAL";
            command.ExecuteNonQuery();
        }

        public override Task ConnectionOpenedAsync(
            DbConnection connection,
            ConnectionEndEventData eventData,
            CancellationToken cancellationToken = default
        )
        {
            ConnectionOpened(connection, eventData);
            return Task.CompletedTask;
        }
    }
}
