namespace Chronotype.Core.Naming.Learning;

/// <summary>How the fields of a name stand to the slots.</summary>
/// <param name="Skipped">The slots that it lacks, as bits.</param>
/// <param name="Absorbs">The words that take more than one field; -1 for none.</param>
/// <param name="NewAt">Before which slot a new one stands; -1 for none.</param>
/// <param name="NewKind">What the fields of the new slot are; empty for none.</param>
/// <param name="NewText">The new slot's text in this name.</param>
internal readonly record struct Fit(uint Skipped, int Absorbs, int NewAt, string NewKind, string NewText)
{
    /// <summary>Every field in its own slot.</summary>
    public static readonly Fit Whole = new(0, -1, -1, "", "");
}

/// <summary>Lays the fields of names along the slots that others showed.</summary>
/// <param name="slots">What each slot's column most likely is, in order.</param>
/// <param name="frequent">The fields that come again in many of the names, and so may be marks.</param>
internal sealed class FieldAlignment(IReadOnlyList<ColumnGuess> slots, IReadOnlySet<string> frequent)
{
    /// <summary>What a field's text may be: which slots hold it, as bits, and which new one it may show.</summary>
    private readonly record struct Sort(uint Holds, string NewKind, string NewText);

    private readonly Dictionary<string, char> sortOf = [];
    private readonly List<Sort> sorts = [];
    private readonly Dictionary<Sort, char> numbers = [];
    private readonly Dictionary<string, Fit?> known = [];

    /// <returns>Null where a name has too little in common with the slots.</returns>
    // Names whose fields are of the same sorts are laid out alike, and there are few sorts.
    public Fit? FitOf(IReadOnlyList<string> row)
    {
        if (row.Count > 2 * slots.Count + 2 || slots.Count > ConventionRules.MaxSlots)
            return null;
        Span<char> key = stackalloc char[row.Count];
        for (var i = 0; i < row.Count; i++)
        {
            if (!sortOf.TryGetValue(row[i], out key[i]))
                sortOf[row[i]] = key[i] = Number(SortOf(row[i]));
        }
        var found = known.GetAlternateLookup<ReadOnlySpan<char>>();
        return found.TryGetValue(key, out var fit) ? fit : found[key] = Align([.. key.ToArray().Select(k => sorts[k])]);
    }

    private char Number(Sort sort)
    {
        if (numbers.TryGetValue(sort, out var known))
            return known;
        sorts.Add(sort);
        return numbers[sort] = (char)(sorts.Count - 1);
    }

    private Sort SortOf(string text)
    {
        var holds = 0u;
        for (var j = 0; j < slots.Count; j++)
            holds |= slots[j].Holds(text) ? 1u << j : 0;
        return KindOf(text) is var (kind, shown) ? new(holds, kind, shown) : new(holds, "", "");
    }

    // The cheapest way to lay a name's fields along the slots: one left out, one more put in, or words that take several.
    private Fit? Align(IReadOnlyList<Sort> row)
    {
        const int far = 1000,
            skip = 2,
            absorb = 2,
            add = 3,
            most = 9;
        var (n, m) = (row.Count, slots.Count);
        var cost = new (int Cost, Fit Fit)[n + 1, m + 1, 2];
        for (var i = 0; i <= n; i++)
        for (var j = 0; j <= m; j++)
        for (var a = 0; a < 2; a++)
            cost[i, j, a] = (far, default);
        cost[0, 0, 0] = (0, Fit.Whole);
        void Reach(int i, int j, int a, int total, Fit fit)
        {
            if (total < cost[i, j, a].Cost)
                cost[i, j, a] = (total, fit);
        }
        for (var i = 0; i <= n; i++)
        {
            for (var j = 0; j <= m; j++)
            {
                for (var a = 0; a < 2; a++)
                {
                    var (sofar, fit) = cost[i, j, a];
                    if (sofar > most)
                        continue;
                    if (j < m)
                        Reach(i, j + 1, a, sofar + skip, fit with { Skipped = fit.Skipped | 1u << j });
                    if (i == n)
                        continue;
                    if (j < m && (row[i].Holds >> j & 1) != 0)
                        Reach(i + 1, j + 1, a, sofar, fit);
                    if (
                        j > 0
                        && (fit.Skipped >> (j - 1) & 1) == 0
                        && slots[j - 1].Rule is WordsRule
                        && fit.NewAt != j
                        && (fit.Absorbs < 0 || fit.Absorbs == j - 1)
                        && (row[i].Holds >> (j - 1) & 1) != 0
                    )
                        Reach(i + 1, j, a, sofar + (fit.Absorbs < 0 ? absorb : 0), fit with { Absorbs = j - 1 });
                    if (a == 0 && row[i].NewKind.Length > 0)
                        Reach(i + 1, j, 1, sofar + add, fit with { NewAt = j, NewKind = row[i].NewKind, NewText = row[i].NewText });
                }
            }
        }
        var (least, best) = cost[n, m, 0].Cost <= cost[n, m, 1].Cost ? cost[n, m, 0] : cost[n, m, 1];
        return least <= most && System.Numerics.BitOperations.PopCount(best.Skipped) < m ? best : null;
    }

    // What a field that no slot takes may be.
    private (string Kind, string Text)? KindOf(string text)
    {
        if (text.Length is 0 or > 20 || !text.All(c => char.IsAsciiLetterOrDigit(c) || c == '-'))
            return null;
        var lead = text.TrimEnd("0123456789".ToCharArray());
        if (lead.Length < text.Length && text.Length - lead.Length <= 3 && lead.ToUpperInvariant() is "M" or "MS")
            return ("milestone", lead + new string('0', text.Length - lead.Length));
        if (text.Length == 8 && text.All(char.IsAsciiDigit))
            return ("date", "yyyyMMdd");
        if (text.All(char.IsAsciiLetterUpper) && text.Length is >= 2 and <= 16 && frequent.Contains(text))
            return ("state", text);
        return
            text.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c == '-')
            && char.IsAsciiLetterLower(text[0])
            && text[^1] != '-'
            ? ("line", "")
            : null;
    }
}
