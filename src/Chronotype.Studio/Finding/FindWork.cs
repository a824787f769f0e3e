using System.Globalization;
using System.Text;
using System.Text.Json;
using Chronotype.Storage;
using Chronotype.Storage.Finding;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Finding;

/// <summary>What is looked for.</summary>
/// <param name="Words">As they are typed; each is found by its beginning, and all must be there.</param>
/// <param name="Kind">Null for all kinds.</param>
/// <param name="Client">A client's code; null for all.</param>
/// <param name="Person">The initials of whoever made it; null for all.</param>
/// <param name="Since">In UTC; null for all times.</param>
public sealed record FindQuery(
    string Words,
    FoundKind? Kind = null,
    string? Client = null,
    string? Person = null,
    DateTimeOffset? Since = null
);

/// <summary>One thing that was found.</summary>
/// <param name="Text">The name, note or reason that holds the words; its parts stand on lines of their own.</param>
/// <param name="Project">Its project's code.</param>
/// <param name="Piece">The current name of its piece; null for what belongs to none.</param>
/// <param name="Save">The save that it is, or is about; null for anything else.</param>
public sealed record Found(
    FoundKind Kind,
    string Text,
    DateTimeOffset At,
    string Project,
    string ProjectTitle,
    string? Piece,
    Guid? Save,
    Guid? Entry,
    bool IsPutAway
);

/// <summary>Looks through all names, notes and reasons as one types (SQLite FTS5), the newest first.</summary>
public sealed class FindWork(StudioDb db, TimeProvider time)
{
    /// <summary>The most words that are looked for, and the most characters of each.</summary>
    public const int MostWords = 8,
        MostLetters = 60;

    private const int MostMonths = 36,
        MostTyped = 1000;

    // The longest beginning that the index has.
    private const int Indexed = 6;

    /// <param name="most">At most so many.</param>
    public async Task<IReadOnlyList<Found>> DoAsync(FindQuery query, int most, CancellationToken cancel = default)
    {
        // A longer beginning than the index has is looked up word by word, which is slow for a common word; so it is tried as a whole word
        // first, and by its beginning only where that does not fill the page.
        var exact = Match(query, asWhole: true);
        if (exact is null)
            return [];
        var beginning = Match(query, asWhole: false)!;
        var found = exact == beginning ? [] : await MatchingAsync(exact, query, most, cancel);
        return found.Count == most ? found : await MatchingAsync(beginning, query, most, cancel);
    }

    private async Task<IReadOnlyList<Found>> MatchingAsync(string match, FindQuery query, int most, CancellationToken cancel)
    {
        await db.Database.OpenConnectionAsync(cancel);
        try
        {
            await using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
            // What was deleted since is left out; more than is wanted is looked at, so that the page is still full.
            command.CommandText = """
                SELECT r."Kind", f."Text", r."At", p."Code", p."Title", i."CurrentName", coalesce(m."SaveId", s."Id"),
                    CASE WHEN r."Kind" = 5 THEN r."Ref" END, coalesce(i."PutAwayAt", p."PutAwayAt") IS NOT NULL
                FROM "FindTexts" f JOIN "FindRows" r ON r."Id" = f.rowid JOIN "Projects" p ON p."Id" = r."ProjectId"
                    LEFT JOIN "Pieces" i ON i."Id" = r."PieceId" LEFT JOIN "Saves" s ON s."Id" = r."Ref" AND r."Kind" IN (2, 4)
                    LEFT JOIN "Milestones" m ON m."Id" = r."Ref" AND r."Kind" = 3
                WHERE "FindTexts" MATCH $match AND r."At" >= $since AND p."DeletedAt" IS NULL AND i."DeletedAt" IS NULL
                    AND ($sees IS NULL OR p."Id" IN (SELECT value FROM json_each($sees)))
                ORDER BY f.rowid DESC LIMIT $most
                """;
            command.Parameters.AddWithValue("$match", match);
            command.Parameters.AddWithValue("$since", query.Since?.UtcTicks ?? -1);
            command.Parameters.AddWithValue("$most", most);
            command.Parameters.AddWithValue(
                "$sees",
                db.Sees is { } sees ? JsonSerializer.Serialize(sees.Select(p => p.ToString().ToUpperInvariant())) : DBNull.Value
            );
            await using var reader = await command.ExecuteReaderAsync(cancel);
            var found = new List<Found>();
            while (await reader.ReadAsync(cancel))
            {
                found.Add(
                    new Found(
                        (FoundKind)reader.GetInt32(0),
                        reader.GetString(1),
                        new DateTimeOffset(reader.GetInt64(2), TimeSpan.Zero),
                        reader.GetString(3),
                        reader.GetString(4),
                        reader.IsDBNull(5) ? null : reader.GetString(5),
                        reader.IsDBNull(6) ? null : reader.GetGuid(6),
                        reader.IsDBNull(7) ? null : reader.GetGuid(7),
                        reader.GetBoolean(8)
                    )
                );
            }
            return found;
        }
        finally
        {
            await db.Database.CloseConnectionAsync();
        }
    }

    /// <summary>The words of a query, as they are looked for: without marks, in small letters.</summary>
    public static IReadOnlyList<string> WordsOf(string typed)
    {
        var words = new List<string>();
        var word = new StringBuilder();
        foreach (var rune in Deeds.TypedText.Line(Deeds.TypedText.Cut(typed, MostTyped)).EnumerateRunes().Append(new Rune(' ')))
        {
            if (Rune.IsLetterOrDigit(rune) || Rune.GetUnicodeCategory(rune) is UnicodeCategory.NonSpacingMark)
                word.Append(rune.ToString());
            else if (word.Length > 0)
            {
                words.Add(Deeds.TypedText.Cut(word.ToString().ToLowerInvariant(), MostLetters));
                word.Clear();
            }
        }
        return [.. words.Distinct().Take(MostWords)];
    }

    // Words go into the expression in quotes, as FTS5 takes any text; there is no quote within a word.
    private string? Match(FindQuery query, bool asWhole)
    {
        var words = WordsOf(query.Words);
        if (words.Count == 0)
            return null;
        var match = new StringBuilder("Text : (")
            .AppendJoin(" AND ", words.Select(w => asWhole && w.Length > Indexed ? $"\"{w}\"" : $"\"{w}\"*"))
            .Append(')');
        if (query.Kind is { } kind)
            match.Append(CultureInfo.InvariantCulture, $" AND Tags : kind{(int)kind}");
        if (query.Client is { Length: > 0 } client && WordsOf(client) is [var code])
            match.Append(CultureInfo.InvariantCulture, $" AND Tags : \"client{code}\"");
        if (query.Person is { Length: > 0 } person && WordsOf(person) is [var hand])
            match.Append(CultureInfo.InvariantCulture, $" AND Tags : \"person{hand}\"");
        if (query.Since is { } since && Months(since) is { Count: <= MostMonths } months)
            match.Append(" AND Tags : (").AppendJoin(" OR ", months).Append(')');
        return match.ToString();
    }

    // By the months that it touches, so that what is older is not even looked at.
    private List<string> Months(DateTimeOffset since)
    {
        var months = new List<string>();
        var now = time.GetUtcNow();
        for (
            var month = new DateTime(since.UtcDateTime.Year, since.UtcDateTime.Month, 1);
            month <= now && months.Count <= MostMonths;
            month = month.AddMonths(1)
        )
            months.Add(month.ToString("'m'yyyyMM", CultureInfo.InvariantCulture));
        return months;
    }
}
