using Chronotype.Storage.Mirror;
using Microsoft.Data.Sqlite;

namespace Chronotype.Storage.Finding;

/// <summary>What a found text belongs to. The numbers are those of the index.</summary>
public enum FoundKind
{
    /// <summary>A project's code, title and client.</summary>
    Project,

    /// <summary>A piece's current name.</summary>
    Piece,

    /// <summary>A version's exact name, what it came as, and its note.</summary>
    Version,

    /// <summary>A milestone's reason and its copy's name.</summary>
    Milestone,

    /// <summary>What a loose save came as.</summary>
    Loose,

    /// <summary>The name of a file of a project's own.</summary>
    File,

    /// <summary>A name from before a rename.</summary>
    FormerName,
}

/// <summary>
/// The full-text index of all names, notes and reasons (SQLite FTS5), which triggers keep at every change, whoever makes it. It can
/// be made anew at any time. A row is renewed with a higher number whenever its text changes, so a higher number is newer work.
/// Beside each text stand tags for the kind, client, person and month, so that a filter is part of the search and not of what comes
/// after it.
/// </summary>
internal static class FindIndex
{
    // Part of every trigger's name: with another the index is made anew.
    private const string Generation = "Find3";

    private const string Month = "'m' || strftime('%Y%m', ({0} - 621355968000000000) / 10000000, 'unixepoch')";

    private static readonly (string Table, string Kinds)[] Watched =
    [
        ("Projects", "0"),
        ("Pieces", "1"),
        ("Saves", "2, 4"),
        ("Milestones", "3"),
        ("Entries", "5"),
        ("RenamedNames", "6"),
    ];

    private static string Source =>
        $"""
            CREATE VIEW "FindSource" AS
            SELECT 0 AS "Kind", p."Id" AS "Ref", NULL AS "PieceId", p."Id" AS "ProjectId", p."StartedAt" AS "At",
                p."Code" || ' ' || p."Title" || ' ' || c."Name" AS "Text",
                'kind0 client' || c."Code" || ' person' || coalesce(u."Initials", '') || ' ' || {Stamp("p.\"StartedAt\"")} AS "Tags"
            FROM "Projects" p JOIN "Clients" c ON c."Id" = p."ClientId" LEFT JOIN "People" u ON u."Id" = p."StartedById"
            UNION ALL
            SELECT 1, i."Id", i."Id", i."ProjectId", i."StartedAt", i."CurrentName" || i."Extension",
                'kind1 client' || c."Code" || ' person' || coalesce(u."Initials", '') || ' ' || {Stamp("i.\"StartedAt\"")}
            FROM "Pieces" i JOIN "Projects" p ON p."Id" = i."ProjectId" JOIN "Clients" c ON c."Id" = p."ClientId"
                LEFT JOIN "People" u ON u."Id" = i."StartedById"
            UNION ALL
            SELECT CASE WHEN s."Number" IS NULL THEN 4 ELSE 2 END, s."Id", s."PieceId", i."ProjectId", coalesce(s."KeptAt", s."ArrivedAt"),
                CASE WHEN s."Number" IS NULL THEN s."ReceivedName" ELSE s."ExactName" || coalesce(char(10) || s."Note", '')
                    || CASE WHEN s."ReceivedName" = s."ExactName" THEN '' ELSE char(10) || s."ReceivedName" END END,
                'kind' || CASE WHEN s."Number" IS NULL THEN 4 ELSE 2 END || ' client' || c."Code" || ' person' || coalesce(u."Initials", '')
                    || ' ' || {Stamp("coalesce(s.\"KeptAt\", s.\"ArrivedAt\")")}
            FROM "Saves" s JOIN "Pieces" i ON i."Id" = s."PieceId" JOIN "Projects" p ON p."Id" = i."ProjectId"
                JOIN "Clients" c ON c."Id" = p."ClientId" LEFT JOIN "People" u ON u."Id" = coalesce(s."KeptById", s."ArrivedById")
            WHERE s."DiscardedAt" IS NULL
            UNION ALL
            SELECT 3, m."Id", s."PieceId", i."ProjectId", m."MarkedAt", m."Reason" || char(10) || m."ExactName",
                'kind3 client' || c."Code" || ' person' || coalesce(u."Initials", '') || ' ' || {Stamp("m.\"MarkedAt\"")}
            FROM "Milestones" m JOIN "Saves" s ON s."Id" = m."SaveId" JOIN "Pieces" i ON i."Id" = s."PieceId"
                JOIN "Projects" p ON p."Id" = i."ProjectId" JOIN "Clients" c ON c."Id" = p."ClientId"
                LEFT JOIN "People" u ON u."Id" = m."MarkedById"
            UNION ALL
            SELECT 5, e."Id", NULL, e."ProjectId", 0, e."Path", 'kind5 client' || c."Code"
            FROM "Entries" e JOIN "Projects" p ON p."Id" = e."ProjectId" JOIN "Clients" c ON c."Id" = p."ClientId"
            WHERE e."Kind" = 4 AND e."DeletedAt" IS NULL
            UNION ALL
            SELECT 6, r."Id", CASE WHEN r."Thing" = 3 THEN NULL ELSE r."PieceId" END, r."ProjectId", n."At", r."From",
                'kind6 client' || c."Code" || ' person' || coalesce(u."Initials", '') || ' ' || {Stamp("n.\"At\"")}
            FROM "RenamedNames" r JOIN "RenameRuns" n ON n."Id" = r."RunId" JOIN "Projects" p ON p."Id" = r."ProjectId"
                JOIN "Clients" c ON c."Id" = p."ClientId" LEFT JOIN "People" u ON u."Id" = n."ById"
            """;

    /// <summary>Makes the index where it is not there or not of this generation; else does nothing.</summary>
    public static void Prepare(SqliteConnection connection)
    {
        var there = RecordMirror.Names(connection, $"SELECT name FROM sqlite_schema WHERE type = 'trigger' AND name LIKE '{Generation}%'");
        if (there.Count == Triggers().Count())
            return;
        using var transaction = connection.BeginTransaction();
        Drop(connection);
        RecordMirror.Run(connection, Source);
        RecordMirror.Run(
            connection,
            """
            CREATE TABLE "FindRows" ("Id" INTEGER PRIMARY KEY AUTOINCREMENT, "Kind" INTEGER NOT NULL, "Ref" NOT NULL, "PieceId" TEXT,
                "ProjectId" TEXT NOT NULL, "At" INTEGER NOT NULL);
            INSERT INTO "FindRows" ("Kind", "Ref", "PieceId", "ProjectId", "At")
                SELECT "Kind", "Ref", "PieceId", "ProjectId", "At" FROM "FindSource" ORDER BY "At";
            CREATE UNIQUE INDEX "FindRowsByRef" ON "FindRows" ("Ref", "Kind");
            CREATE INDEX "FindRowsByPiece" ON "FindRows" ("PieceId");
            CREATE VIRTUAL TABLE "FindTexts" USING fts5("Text", "Tags", tokenize = "unicode61 remove_diacritics 2",
                prefix = '1 2 3 4 5 6');
            INSERT INTO "FindTexts" (rowid, "Text", "Tags")
                SELECT f."Id", s."Text", s."Tags" FROM "FindSource" s JOIN "FindRows" f ON f."Ref" = s."Ref" AND f."Kind" = s."Kind"
                ORDER BY f."Id";
            """
        );
        foreach (var (_, sql) in Triggers())
            RecordMirror.Run(connection, sql);
        transaction.Commit();
    }

    /// <summary>Drops all of it, so that nothing stands in the way of tables that are to have other columns.</summary>
    public static void Drop(SqliteConnection connection)
    {
        foreach (
            var trigger in RecordMirror.Names(connection, "SELECT name FROM sqlite_schema WHERE type = 'trigger' AND name LIKE 'Find%'")
        )
            RecordMirror.Run(connection, $"DROP TRIGGER \"{trigger}\"");
        RecordMirror.Run(
            connection,
            """DROP VIEW IF EXISTS "FindSource"; DROP TABLE IF EXISTS "FindRows"; DROP TABLE IF EXISTS "FindTexts";"""
        );
    }

    private static string Stamp(string at) => string.Format(System.Globalization.CultureInfo.InvariantCulture, Month, at);

    private static IEnumerable<(string Name, string Sql)> Triggers()
    {
        foreach (var (table, kinds) in Watched)
        {
            yield return Trigger($"{table}Added", $"INSERT ON \"{table}\"", Add("NEW", kinds));
            yield return Trigger(
                $"{table}Changed",
                $"UPDATE OF {ChangingColumns(table)} ON \"{table}\"",
                Remove("NEW", kinds) + Add("NEW", kinds)
            );
            yield return Trigger($"{table}Removed", $"DELETE ON \"{table}\"", Remove("OLD", kinds));
        }
        // What is of another client now, or has another name for it, is found by that.
        yield return Trigger(
            "PiecesMoved",
            """UPDATE OF "ProjectId" ON "Pieces" """,
            """UPDATE "FindRows" SET "ProjectId" = NEW."ProjectId" WHERE "PieceId" = NEW."Id"; """ + Retag("\"PieceId\" = NEW.\"Id\"")
        );
        yield return Trigger("ProjectsGiven", """UPDATE OF "ClientId" ON "Projects" """, Retag("\"ProjectId\" = NEW.\"Id\""));
    }

    private static string ChangingColumns(string table) =>
        table switch
        {
            "Projects" => """ "Code", "Title", "ClientId" """,
            "Pieces" => """ "CurrentName", "Extension" """,
            "Saves" => """ "Number", "ExactName", "Note", "DiscardedAt" """,
            "Milestones" => """ "Reason", "ExactName" """,
            "Entries" => """ "Path", "DeletedAt" """,
            _ => "\"From\"",
        };

    private static (string Name, string Sql) Trigger(string name, string when, string does) =>
        (Generation + name, $"CREATE TRIGGER \"{Generation}{name}\" AFTER {when} BEGIN {does} END");

    private static string Remove(string row, string kinds) =>
        $"""
            DELETE FROM "FindTexts" WHERE rowid IN (SELECT "Id" FROM "FindRows" WHERE "Ref" = {row}."Id" AND "Kind" IN ({kinds}));
            DELETE FROM "FindRows" WHERE "Ref" = {row}."Id" AND "Kind" IN ({kinds});
            """;

    private static string Add(string row, string kinds) =>
        $"""
            INSERT INTO "FindRows" ("Kind", "Ref", "PieceId", "ProjectId", "At")
                SELECT "Kind", "Ref", "PieceId", "ProjectId", "At" FROM "FindSource" WHERE "Ref" = {row}."Id" AND "Kind" IN ({kinds});
            INSERT INTO "FindTexts" (rowid, "Text", "Tags") SELECT f."Id", s."Text", s."Tags" FROM "FindSource" s
                JOIN "FindRows" f ON f."Ref" = s."Ref" AND f."Kind" = s."Kind" WHERE s."Ref" = {row}."Id" AND s."Kind" IN ({kinds});
            """;

    private static string Retag(string which) =>
        $"""
            UPDATE "FindTexts" SET "Tags" = (SELECT s."Tags" FROM "FindRows" f JOIN "FindSource" s ON s."Ref" = f."Ref" AND s."Kind" = f."Kind"
                WHERE f."Id" = "FindTexts".rowid) WHERE rowid IN (SELECT "Id" FROM "FindRows" WHERE {which});
            """;
}
