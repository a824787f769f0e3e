using Chronotype.Content;
using Chronotype.Content.Maintenance;
using Chronotype.Core.Content;
using Chronotype.Storage.Connections;
using Microsoft.Data.Sqlite;

namespace Chronotype.Storage.Backup;

/// <summary>A content that a studio's record names, and where.</summary>
/// <param name="Number">The version's; null for a loose save.</param>
/// <param name="Name">The version's exact name, or what the save came as.</param>
/// <param name="Path">The file of it that has the content.</param>
public sealed record NamedContent(string Project, string Piece, int? Number, string Name, string Path, ContentHash Hash);

/// <summary>What a studio's database names, read from the file alone, also while the studio runs.</summary>
public static class NamedContents
{
    /// <summary>What of it is damaged, as verifying found, or not in the store at all.</summary>
    /// <exception cref="IOException">The database cannot be read.</exception>
    public static IReadOnlyList<NamedContent> Touched(string database, ContentStore store, Verified found)
    {
        var damaged = found.Damaged.Select(d => d.Hash).ToHashSet();
        return [.. Of(database).Where(n => damaged.Contains(n.Hash) || !store.Has(n.Hash))];
    }

    private static IEnumerable<NamedContent> Of(string database)
    {
        var rows = new List<NamedContent>();
        try
        {
            using var connection = RecordConnection.Open(database, ConnectionUse.Alone);
            using var command = connection.CreateCommand();
            foreach (
                var text in new[]
                {
                    OfSaves("SaveFiles", "t.\"Path\"", "Hash", "Path"),
                    OfSaves("Faces", "t.\"Name\"", "Hash", "Id"),
                    """
                        SELECT p."Code", e."Path", NULL, c."ReceivedName", e."Path", c."Hash"
                        FROM "FileContents" c JOIN "Entries" e ON e."Id" = c."EntryId" JOIN "Projects" p ON p."Id" = e."ProjectId"
                        ORDER BY p."Code", e."Path", c."Sequence"
                        """,
                    OfSaves("Links", "t.\"SeenPath\"", "SeenHash", "SeenPath", each: "DISTINCT"),
                    OfSaves("Companions", "i.\"CurrentName\" || t.\"Tail\"", "Hash", "Tail"),
                    """SELECT '', 'colour profiles', NULL, "Name", "Name", "Hash" FROM "ColourProfiles" ORDER BY "Name" """,
                }
            )
            {
                command.CommandText = text;
                Read(command, rows);
            }
        }
        catch (Exception e) when (e is SqliteException or FormatException)
        {
            throw new IOException(
                $"The records in {database} cannot be read ({e.Message.TrimEnd('.')}), so it cannot be told which versions there "
                    + $"should be.",
                e
            );
        }
        return rows;
    }

    /// <param name="each">DISTINCT for links, of which a version has several where one is written several times.</param>
    private static string OfSaves(string table, string path, string hash, string order, string each = "ALL") =>
        $"""
            SELECT {each} p."Code", i."CurrentName", s."Number", coalesce(s."ExactName", s."ReceivedName"), {path}, t."{hash}"
            FROM "{table}" t JOIN "Saves" s ON s."Id" = t."SaveId"
                JOIN "Pieces" i ON i."Id" = s."PieceId" JOIN "Projects" p ON p."Id" = i."ProjectId"
            WHERE t."{hash}" IS NOT NULL
            ORDER BY p."Code", i."CurrentName", s."Sequence", t."{order}"
            """;

    private static void Read(SqliteCommand command, List<NamedContent> rows)
    {
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            rows.Add(
                new NamedContent(
                    reader.GetString(0),
                    reader.GetString(1),
                    reader.IsDBNull(2) ? null : reader.GetInt32(2),
                    reader.GetString(3),
                    reader.GetString(4),
                    ContentHash.Parse(reader.GetString(5))
                )
            );
        }
    }
}
