using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;

namespace Chronotype.Storage.Mirror;

/// <summary>Puts copied records back into a database.</summary>
internal static class RecordRows
{
    /// <summary>Adds a row for each note that tells of one, within the connection's transaction.</summary>
    /// <param name="left">Gets the rows that do not fit: their table and key, and why.</param>
    /// <returns>How many were added.</returns>
    public static int Fill(SqliteConnection connection, MirroredTable table, IEnumerable<RecordNote> notes, List<string> left)
    {
        var columns = RecordMirror.Names(connection, $"SELECT name FROM pragma_table_info('{table.Name}')").ToHashSet();
        var filled = 0;
        foreach (var note in notes.Where(n => n.Row is not null))
        {
            try
            {
                Insert(connection, table, columns, note, table.Left);
                filled++;
            }
            catch (SqliteException e) when (e.SqliteErrorCode is SQLitePCL.raw.SQLITE_CONSTRAINT)
            {
                left.Add($"{table.Name} {note.Key}: {e.Message}");
            }
        }
        return filled;
    }

    /// <summary>
    /// Gives rows the state that their notes tell, within the connection's transaction and without foreign keys being enforced. Columns
    /// that are not copied, such as a password, stay as they are.
    /// </summary>
    /// <param name="left">As of <see cref="Fill"/>.</param>
    public static void Renew(SqliteConnection connection, MirroredTable table, IReadOnlyList<RecordNote> notes, List<string> left)
    {
        var columns = RecordMirror.Names(connection, $"SELECT name FROM pragma_table_info('{table.Name}')").ToHashSet();
        // All of them go first: what one of them is called by now, another may have been called before.
        var kept = notes.ToDictionary(n => n.Key, n => Take(connection, table, n.Key));
        foreach (var note in notes.Where(n => n.Row is not null))
        {
            try
            {
                Insert(connection, table, columns, note, kept[note.Key] ?? table.Left);
            }
            catch (SqliteException e) when (e.SqliteErrorCode is SQLitePCL.raw.SQLITE_CONSTRAINT)
            {
                left.Add($"{table.Name} {note.Key}: {e.Message}");
            }
        }
    }

    // Takes a row out, and tells what of it is not copied; null where there was none.
    private static Dictionary<string, object?>? Take(SqliteConnection connection, MirroredTable table, string key)
    {
        Dictionary<string, object?>? found = null;
        if (table.Left.Count > 0)
        {
            using var select = RecordMirror.Command(
                connection,
                $"""SELECT {string.Join(", ", table.Left.Keys.Select(c => $"\"{c}\""))} FROM "{table.Name}" """
                    + $"""WHERE "{table.Key}" = {RecordMirror.KeyOf(key)}"""
            );
            select.Parameters.AddWithValue("$key", key);
            using var reader = select.ExecuteReader();
            if (reader.Read())
                found = table.Left.Keys.ToDictionary(c => c, c => reader[c] is DBNull ? null : reader[c]);
        }
        using var delete = RecordMirror.Command(
            connection,
            $"""DELETE FROM "{table.Name}" WHERE "{table.Key}" = {RecordMirror.KeyOf(key)}"""
        );
        delete.Parameters.AddWithValue("$key", key);
        delete.ExecuteNonQuery();
        return found;
    }

    private static void Insert(
        SqliteConnection connection,
        MirroredTable table,
        HashSet<string> columns,
        RecordNote note,
        IReadOnlyDictionary<string, object?> beside
    )
    {
        var values = note.Row!.Where(v => columns.Contains(v.Key))
            .Select(v => (Column: v.Key, Value: ValueOf(v.Value)))
            .Concat(beside.Where(l => columns.Contains(l.Key)).Select(l => (Column: l.Key, Value: l.Value ?? DBNull.Value)))
            .ToList();
        using var command = RecordMirror.Command(
            connection,
            $"""INSERT INTO "{table.Name}" ({string.Join(", ", values.Select(v => $"\"{v.Column}\""))}) VALUES """
                + $"""({string.Join(", ", values.Select((_, i) => $"$v{i}"))})"""
        );
        for (var i = 0; i < values.Count; i++)
            command.Parameters.AddWithValue($"$v{i}", values[i].Value);
        command.ExecuteNonQuery();
    }

    private static object ValueOf(JsonNode? value) =>
        value switch
        {
            null => DBNull.Value,
            JsonObject bytes => Convert.FromBase64String((string)bytes["base64"]!),
            JsonValue v when v.GetValueKind() == JsonValueKind.Number => v.TryGetValue<long>(out var whole) ? whole : v.GetValue<double>(),
            var text => text.GetValue<string>(),
        };
}
