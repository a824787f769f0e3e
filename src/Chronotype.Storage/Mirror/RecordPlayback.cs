using Chronotype.Content;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.Logging;

namespace Chronotype.Storage.Mirror;

/// <summary>Changes that a start brought back into the records from their copies.</summary>
/// <param name="Records">How many records were added, changed or taken out.</param>
/// <param name="Saves">How many saves among those that were added or changed.</param>
/// <param name="Left">Those that did not fit: their table and key, and why.</param>
public sealed record PlayedBack(int Records, int Saves, IReadOnlyList<string> Left);

/// <summary>
/// Brings records that are older than their copies beside the content to where those are: after a disk lost the end of the log, or when
/// somebody put an older database back. Every copy bears the number under which its change was noted, so what is newer is known exactly.
/// </summary>
internal sealed class RecordPlayback(ContentStore store, ILogger log)
{
    /// <summary>Brings them there, in one transaction, or does nothing where they are as new as the copies.</summary>
    /// <returns>Null where nothing had to be done.</returns>
    public PlayedBack? Run(SqliteConnection connection)
    {
        var known = RecordMirror.LastNoted(connection);
        var copied = (store.ReadNote(RecordNote.Mark, RecordNote.Mark) is { } mark ? RecordNote.Read(mark)?.Number : null) ?? 0;
        if (copied < known && copied < FirstOutstanding(connection) - 1)
        {
            // The content is older than the records, or was copied before copies were numbered: all of them are made anew.
            RecordMirror.NoteEverything(connection);
            return null;
        }
        if (copied <= known)
            return null;
        var ahead = store.ReadNotes().Select(RecordNote.Read).OfType<RecordNote>().Where(n => n.Number > known).ToLookup(n => n.Table);
        var left = new List<string>();
        RecordMirror.Run(connection, "PRAGMA foreign_keys=OFF");
        using (var transaction = connection.BeginTransaction())
        {
            // Changes that wait to be copied are older than the copies.
            RecordMirror.Run(connection, """DELETE FROM "MirrorQueue" """);
            RecordMirror.NoteBeyond(connection, Math.Max(copied, ahead.SelectMany(n => n).Max(n => n.Number)));
            foreach (var table in MirroredTable.All)
                RecordRows.Renew(connection, table, [.. ahead[table.Name]], left);
            left.AddRange(TakeOutLoose(connection));
            transaction.Commit();
        }
        RecordMirror.Run(connection, "PRAGMA foreign_keys=ON");
        var played = new PlayedBack(MirroredTable.All.Sum(t => ahead[t.Name].Count()), ahead["Saves"].Count(n => n.Row is not null), left);
        log.LogWarning(
            "The records were older than their copies beside the content, as after a power cut. {Records} records, {Saves} saves among them, "
                + "were brought back from the copies; nothing is lost.",
            played.Records,
            played.Saves
        );
        foreach (var row in left)
            log.LogError("A record did not fit and was left out: {Row}", row);
        return played;
    }

    private static long FirstOutstanding(SqliteConnection connection)
    {
        using var command = RecordMirror.Command(connection, """SELECT min("Id") FROM "MirrorQueue" """);
        return command.ExecuteScalar() as long? ?? long.MaxValue;
    }

    // A row that refers to one that is nowhere: only of a copy that a failing disk kept in part.
    private static List<string> TakeOutLoose(SqliteConnection connection)
    {
        var loose = new List<(string Table, long Row)>();
        using (var command = RecordMirror.Command(connection, "PRAGMA foreign_key_check"))
        using (var reader = command.ExecuteReader())
        {
            while (reader.Read())
                if (!reader.IsDBNull(1))
                    loose.Add((reader.GetString(0), reader.GetInt64(1)));
        }
        foreach (var (table, row) in loose.Distinct())
        {
            using var command = RecordMirror.Command(connection, $"""DELETE FROM "{table}" WHERE rowid = $row""");
            command.Parameters.AddWithValue("$row", row);
            command.ExecuteNonQuery();
        }
        return loose.ConvertAll(l => $"{l.Table} {l.Row}: it refers to a record that is not there");
    }
}
