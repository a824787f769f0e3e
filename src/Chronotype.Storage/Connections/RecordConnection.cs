using System.Data.Common;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace Chronotype.Storage.Connections;

/// <summary>The uses of a connection to the records.</summary>
public enum ConnectionUse
{
    /// <summary>Deeds of people. <see cref="CommitFlush"/> flushes their commits, those of one moment together, before anybody is told.</summary>
    Deeds,

    /// <summary>Work that the studio repeats where it is lost. Its commits wait for no disk.</summary>
    Redone,

    /// <summary>Reading changes, to copy them beside the content. Lost commits of it are copied once more.</summary>
    Copies,

    /// <summary>Making, upgrading and checking the records while nobody else has them: each commit is flushed by SQLite itself.</summary>
    Alone,
}

/// <summary>
/// How connections to the records are opened. Each use has a text of its own, so that the pool never gives a connection of one use to
/// another, and says all that matters: what a commit waits for (<c>synchronous</c>), how long it waits for a writer (<c>busy_timeout</c>,
/// milliseconds) and how much it holds in memory (<c>cache_size</c>, KiB). See sqlite.org/pragma.html.
/// </summary>
public static class RecordConnection
{
    /// <summary>The text by which a database is opened that is there. Where its file is missing that fails, and none is made in its place.</summary>
    /// <param name="at">The file, whatever characters are in its path.</param>
    public static string Text(string at, ConnectionUse use) =>
        new SqliteConnectionStringBuilder
        {
            DataSource = at,
            Mode = SqliteOpenMode.ReadWrite,
            Cache = SqliteCacheMode.Private,
            Pooling = use != ConnectionUse.Alone,
            // In seconds, over all tries of one command; it also tells the pools of the uses apart.
            DefaultTimeout = use switch
            {
                ConnectionUse.Deeds => 30,
                ConnectionUse.Redone => 60,
                ConnectionUse.Copies => 20,
                _ => 10,
            },
        }.ToString();

    /// <summary>The settings that no text can carry, given each time a connection is opened.</summary>
    public static string Settings(ConnectionUse use) =>
        use switch
        {
            ConnectionUse.Deeds => "PRAGMA synchronous=NORMAL; PRAGMA busy_timeout=10000; PRAGMA cache_size=-8192",
            ConnectionUse.Redone => "PRAGMA synchronous=NORMAL; PRAGMA busy_timeout=20000; PRAGMA cache_size=-4096",
            ConnectionUse.Copies => "PRAGMA synchronous=NORMAL; PRAGMA busy_timeout=10000; PRAGMA cache_size=-2048",
            _ => "PRAGMA synchronous=FULL; PRAGMA busy_timeout=5000; PRAGMA cache_size=-8192",
        };

    /// <summary>Opens a connection that is the caller's to close.</summary>
    public static SqliteConnection Open(string at, ConnectionUse use)
    {
        var connection = new SqliteConnection(Text(at, use));
        try
        {
            connection.Open();
            Set(connection, use);
            return connection;
        }
        catch
        {
            connection.Dispose();
            throw;
        }
    }

    /// <summary>Gives the settings of a use to each connection that a context opens.</summary>
    public static IInterceptor Setting(ConnectionUse use) => new Opened(use);

    private static void Set(DbConnection connection, ConnectionUse use)
    {
        using var command = connection.CreateCommand();
        command.CommandText = Settings(use);
        command.ExecuteNonQuery();
    }

    private sealed class Opened(ConnectionUse use) : DbConnectionInterceptor
    {
        public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData) => Set(connection, use);

        public override Task ConnectionOpenedAsync(
            DbConnection connection,
            ConnectionEndEventData eventData,
            CancellationToken cancellationToken = default
        )
        {
            Set(connection, use);
            return Task.CompletedTask;
        }
    }
}
