using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Chronotype.Content;
using Microsoft.Data.Sqlite;

namespace Chronotype.Storage.Mirror;

/// <summary>
/// Keeps a copy of each record beside the content that it is about, so that a studio can be made anew from the content store
/// alone: what each save is, of which piece and project, its number, exact name, note and milestone, and the rest that people
/// entered. Triggers note every row that changes, in the same transaction; what is noted is copied before the change is
/// acknowledged, and where that fails it stays noted.
/// </summary>
public sealed class RecordMirror(DataFolder data, ContentStore store) : IDisposable
{
    private const int Batch = 2000;

    // So many records are soon made; until then each is also written into the database's file itself and not only into its log.
    private const int Young = 200;

    private readonly SemaphoreSlim draining = new(1);
    private readonly string connectionString = new SqliteConnectionStringBuilder
    {
        DataSource = data.Database,
        Mode = SqliteOpenMode.ReadWrite,
    }.ToString();
    private int copied;

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

    /// <summary>Copies what is noted. When it returns, what was committed before the call is in the store, durably.</summary>
    /// <exception cref="IOException">It could not be copied; it stays noted.</exception>
    public async Task DrainAsync(CancellationToken cancel = default)
    {
        await draining.WaitAsync(cancel);
        try
        {
            await using var connection = new SqliteConnection(connectionString);
            await connection.OpenAsync(cancel);
            // What is lost of this with the power is only copied once more.
            Run(connection, "PRAGMA synchronous=NORMAL");
            while (DrainBatch(connection) == Batch)
                cancel.ThrowIfCancellationRequested();
        }
        finally
        {
            draining.Release();
        }
    }

    public void Dispose() => draining.Dispose();

    private int DrainBatch(SqliteConnection connection)
    {
        var noted = new List<(long Id, string Table, string Key)>();
        using (var command = Command(connection, $"""SELECT "Id", "TableName", "RowKey" FROM "MirrorQueue" ORDER BY "Id" LIMIT {Batch}"""))
        {
            using var reader = command.ExecuteReader();
            while (reader.Read())
                noted.Add((reader.GetInt64(0), reader.GetString(1), reader.GetString(2)));
        }
        if (noted.Count == 0)
            return 0;
        store.WriteNotes(
            noted
                .DistinctBy(n => (n.Table, n.Key))
                .Select(n => (n.Table, n.Key, JsonSerializer.SerializeToUtf8Bytes(RowOf(connection, n.Table, n.Key))))
        );
        if (copied < Young)
            Run(connection, "PRAGMA wal_checkpoint(FULL)");
        copied += noted.Count;
        using var done = Command(connection, """DELETE FROM "MirrorQueue" WHERE "Id" <= $last""");
        done.Parameters.AddWithValue("$last", noted[^1].Id);
        done.ExecuteNonQuery();
        return noted.Count;
    }

    private static JsonObject RowOf(SqliteConnection connection, string name, string key)
    {
        var table = MirroredTable.All.First(t => t.Name == name);
        var note = new JsonObject { ["table"] = name, ["key"] = key };
        using var command = Command(
            connection,
            $"""SELECT * FROM "{name}" WHERE "{table.Key}" = CAST($key AS """
                + $"""{(long.TryParse(key, CultureInfo.InvariantCulture, out _) ? "INTEGER" : "TEXT")})"""
        );
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
                    long number => number,
                    double number => number,
                    byte[] bytes => new JsonObject { ["base64"] = Convert.ToBase64String(bytes) },
                    var text => text.ToString(),
                };
        }
        note["row"] = row;
        return note;
    }

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
        var command = connection.CreateCommand();
        command.CommandText = sql;
        return command;
    }
}
