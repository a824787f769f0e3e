using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Chronotype.Content;
using Chronotype.Storage.Connections;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Storage.Mirror;

/// <summary>
/// Keeps a copy of each record beside the content that it is about, so that a studio can be made anew from the content store
/// alone: what each save is, of which piece and project, its number, exact name, note and milestone, and the rest that people
/// entered. Triggers note every row that changes, in the same transaction; what is noted is copied before the change is
/// acknowledged, and where that fails it stays noted. Nothing is copied that is not flushed in the records, so that a copy never tells of
/// what a power cut took from them; each copy bears the number under which its change was noted, which tells records that are older.
/// </summary>
public sealed class RecordMirror
{
    // So many records are soon made; until then each is also written into the database's file itself and not only into its log.
    private const int Young = 200;

    // Notes of what is copied stay until there are so many: who waits for a copy waits for no second commit.
    private const int MostLeft = 250;

    private readonly ContentStore store;
    private readonly CommitFlush flush;
    private readonly string database;
    private readonly SharedRun settling;
    private long upTo,
        removed;
    private int copied,
        outstanding;

    public RecordMirror(DataFolder data, ContentStore store, CommitFlush? flush = null)
    {
        (this.store, database) = (store, data.Database);
        this.flush = flush ?? new CommitFlush(data.Database);
        settling = new SharedRun(DrainAllAsync);
    }

    /// <summary>Somebody has committed what may not be on the disk yet, so that nobody must be told of it.</summary>
    public bool IsBehind => Volatile.Read(ref outstanding) > 0;

    /// <summary>Counts a commit that begins, until it is flushed or has failed.</summary>
    internal void Begin() => Interlocked.Increment(ref outstanding);

    /// <summary>As <see cref="Begin"/>, at its end.</summary>
    internal void End() => Interlocked.Decrement(ref outstanding);

    /// <summary>The triggers that note what changes. They are looked for at every start, since rebuilding a table drops its own.</summary>
    internal static void NoteChanges(SqliteConnection connection)
    {
        var there = Names(connection, "SELECT name FROM sqlite_schema WHERE type = 'trigger'").ToHashSet();
        foreach (var table in MirroredTable.All)
        {
            var watched = string.Join(", ", Columns(connection, table).Select(c => $"\"{c}\""));
            foreach (
                var (name, when, row) in new[]
                {
                    ("Added", "INSERT", "NEW"),
                    ("Changed", $"UPDATE OF {watched}", "NEW"),
                    ("Removed", "DELETE", "OLD"),
                }
            )
            {
                var trigger = $"Mirror{table.Name}{name}";
                if (!there.Contains(trigger))
                    Run(
                        connection,
                        $"""CREATE TRIGGER "{trigger}" AFTER {when} ON "{table.Name}" BEGIN INSERT INTO "MirrorQueue" """
                            + $"""("TableName", "RowKey") VALUES ('{table.Name}', CAST({row}."{table.Key}" AS TEXT)); END"""
                    );
            }
        }
    }

    /// <summary>Drops the triggers, so that none stands in the way of a table that is to have other columns.</summary>
    internal static void NoteChangesNoMore(SqliteConnection connection)
    {
        foreach (var trigger in Names(connection, "SELECT name FROM sqlite_schema WHERE type = 'trigger' AND name LIKE 'Mirror%'"))
            Run(connection, $"DROP TRIGGER \"{trigger}\"");
    }

    /// <summary>Notes every row, as at the first start with a mirror or after the model changed.</summary>
    internal static void NoteEverything(SqliteConnection connection)
    {
        foreach (var table in MirroredTable.All)
            Run(
                connection,
                $"""INSERT INTO "MirrorQueue" ("TableName", "RowKey") SELECT '{table.Name}', CAST("{table.Key}" AS TEXT) """
                    + $"""FROM "{table.Name}" """
            );
    }

    /// <summary>
    /// Makes durable what was committed before the call, in the records and then in their copies. Those who call at the same moment share
    /// the flushes.
    /// </summary>
    /// <exception cref="CommitNotFlushedException">The records could not be flushed: what was committed may not last.</exception>
    /// <exception cref="IOException">The records are flushed, and could not be copied; they stay noted.</exception>
    public Task DrainAsync(CancellationToken cancel = default) => settling.RunAsync().WaitAsync(cancel);

    private async Task DrainAllAsync()
    {
        await flush.FlushAsync();
        using var connection = RecordConnection.Open(database, ConnectionUse.Copies);
        long last;
        // All of it as of one moment, so that what is copied under a number is all of what was committed up to it, and nothing of what came
        // later.
        using (var moment = connection.BeginTransaction(deferred: true))
        {
            var noted = Noted(connection, upTo);
            if (noted.Count == 0)
                return;
            await flush.FlushAsync();
            last = noted[^1].Number;
            store.WriteNotes(
                noted
                    .Select(n => (n.Table, n.Key, JsonSerializer.SerializeToUtf8Bytes(RowOf(connection, n.Table, n.Key, n.Number))))
                    .Append((RecordNote.Mark, RecordNote.Mark, RecordNote.MarkOf(last)))
            );
            copied += noted.Count;
        }
        upTo = last;
        if (copied < Young)
            Run(connection, "PRAGMA wal_checkpoint(PASSIVE)");
        if (upTo - removed < MostLeft)
            return;
        using var done = Command(connection, """DELETE FROM "MirrorQueue" WHERE "Id" <= $last""");
        done.Parameters.AddWithValue("$last", last);
        done.ExecuteNonQuery();
        removed = last;
    }

    // Of a row that changed several times the last counts.
    private static List<(long Number, string Table, string Key)> Noted(SqliteConnection connection, long after)
    {
        using var command = Command(
            connection,
            """
            SELECT max("Id") AS "Last", "TableName", "RowKey" FROM "MirrorQueue" WHERE "Id" > $after
            GROUP BY "TableName", "RowKey" ORDER BY "Last"
            """
        );
        command.Parameters.AddWithValue("$after", after);
        using var reader = command.ExecuteReader();
        var noted = new List<(long, string, string)>();
        while (reader.Read())
            noted.Add((reader.GetInt64(0), reader.GetString(1), reader.GetString(2)));
        return noted;
    }

    /// <summary>The highest number under which a change was ever noted in these records.</summary>
    internal static long LastNoted(SqliteConnection connection)
    {
        using var command = Command(connection, "SELECT seq FROM sqlite_sequence WHERE name = 'MirrorQueue'");
        return command.ExecuteScalar() as long? ?? 0;
    }

    /// <inheritdoc cref="LastNoted(SqliteConnection)"/>
    public static Task<long> LastNotedAsync(StudioDb db, CancellationToken cancel = default) =>
        db
            .Database.SqlQuery<long>($"SELECT coalesce(max(seq), 0) AS Value FROM sqlite_sequence WHERE name = 'MirrorQueue'")
            .SingleAsync(cancel);

    /// <summary>Has changes noted under higher numbers than one from now on.</summary>
    internal static void NoteBeyond(SqliteConnection connection, long number)
    {
        // The row is there as soon as anything was noted.
        Run(connection, """INSERT INTO "MirrorQueue" ("TableName", "RowKey") VALUES ('', '')""");
        Run(connection, """DELETE FROM "MirrorQueue" WHERE "TableName" = '' """);
        using var command = Command(connection, "UPDATE sqlite_sequence SET seq = max(seq, $number) WHERE name = 'MirrorQueue'");
        command.Parameters.AddWithValue("$number", number);
        command.ExecuteNonQuery();
    }

    private static JsonObject RowOf(SqliteConnection connection, string name, string key, long number)
    {
        var table = MirroredTable.All.First(t => t.Name == name);
        var note = new JsonObject
        {
            ["table"] = name,
            ["key"] = key,
            ["number"] = number,
        };
        using var command = Command(connection, $"""SELECT * FROM "{name}" WHERE "{table.Key}" = {KeyOf(key)}""");
        command.Parameters.AddWithValue("$key", key);
        using var reader = command.ExecuteReader();
        // A row that is gone is copied as being gone.
        if (!reader.Read())
            return note;
        var row = new JsonObject();
        for (var i = 0; i < reader.FieldCount; i++)
        {
            if (table.Left.ContainsKey(reader.GetName(i)))
                continue;
            row[reader.GetName(i)] = reader.IsDBNull(i)
                ? null
                : reader.GetValue(i) switch
                {
                    long whole => whole,
                    double real => real,
                    byte[] bytes => new JsonObject { ["base64"] = Convert.ToBase64String(bytes) },
                    var text => text.ToString(),
                };
        }
        note["row"] = row;
        return note;
    }

    /// <summary>The parameter <c>$key</c> as the column holds it: a number or a text.</summary>
    internal static string KeyOf(string key) =>
        $"CAST($key AS {(long.TryParse(key, CultureInfo.InvariantCulture, out _) ? "INTEGER" : "TEXT")})";

    internal static IEnumerable<string> Columns(SqliteConnection connection, MirroredTable table) =>
        Names(connection, $"SELECT name FROM pragma_table_info('{table.Name}')").Where(c => !table.Left.ContainsKey(c));

    internal static List<string> Names(SqliteConnection connection, string sql)
    {
        using var command = Command(connection, sql);
        using var reader = command.ExecuteReader();
        var names = new List<string>();
        while (reader.Read())
            names.Add(reader.GetString(0));
        return names;
    }

    internal static void Run(SqliteConnection connection, string sql)
    {
        using var command = Command(connection, sql);
        command.ExecuteNonQuery();
    }

    internal static SqliteCommand Command(SqliteConnection connection, string sql)
    {
        // It takes part in the connection's transaction, where there is one.
        var command = connection.CreateCommand();
        command.CommandText = sql;
        return command;
    }
}
