namespace Chronotype.Core.Naming.Learning;

/// <summary>Names cut into fields at one mark.</summary>
internal sealed class NameTable
{
    public NameTable(IReadOnlyList<string> names, char mark)
    {
        Mark = mark;
        // Most fields come again and again; each text is held once.
        var texts = new HashSet<string>();
        Rows = [.. names.Select(n => new Row(n, Cut(FileNames.Stem(n), mark, texts)))];
    }

    public char Mark { get; }
    public IReadOnlyList<Row> Rows { get; }

    public sealed record Row(string Name, IReadOnlyList<string> Fields);

    /// <summary>The texts of one field over some rows, with how often each stands there.</summary>
    public static Dictionary<string, int> Column(IEnumerable<Row> rows, int field)
    {
        var texts = new Dictionary<string, int>();
        foreach (var row in rows)
            texts[row.Fields[field]] = texts.GetValueOrDefault(row.Fields[field]) + 1;
        return texts;
    }

    // A date's own marks do not cut it.
    private static List<string> Cut(string stem, char mark, HashSet<string> texts)
    {
        var known = texts.GetAlternateLookup<ReadOnlySpan<char>>();
        var fields = new List<string>();
        var from = 0;
        for (var i = 0; i <= stem.Length; i++)
        {
            if (
                i < stem.Length
                && char.IsAsciiDigit(stem[i])
                && (i == 0 || stem[i - 1] == mark)
                && DateAt(stem, i, mark) is var length
                && length > 0
            )
            {
                i += length - 1;
                continue;
            }
            if (i < stem.Length && stem[i] != mark)
                continue;
            var field = stem.AsSpan(from..i);
            if (!known.TryGetValue(field, out var text))
                texts.Add(text = field.ToString());
            fields.Add(text);
            from = i + 1;
        }
        return fields;
    }

    private static int DateAt(string stem, int at, char mark)
    {
        foreach (var pattern in (ReadOnlySpan<string>)["9999m99m99", "99m99m9999"])
        {
            if (at + pattern.Length > stem.Length || (at + pattern.Length < stem.Length && stem[at + pattern.Length] != mark))
                continue;
            var fits = true;
            for (var i = 0; i < pattern.Length && fits; i++)
                fits = pattern[i] == 'm' ? stem[at + i] == mark : char.IsAsciiDigit(stem[at + i]);
            if (fits)
                return pattern.Length;
        }
        return 0;
    }
}
