using System.Globalization;

namespace Chronotype.Core.Naming;

/// <summary>A date of the Gregorian calendar, stamped when the form asks for it.</summary>
/// <param name="Pattern">
/// <c>yyyy</c> or <c>yy</c>, <c>MM</c>, and <c>dd</c> or no day, each once and in any order, with <c>-</c>, <c>_</c>, <c>.</c> or
/// nothing between. Values are written as in ISO 8601: <c>2026-03-12</c>, or <c>2026-03</c> where the pattern has no day.
/// </param>
public sealed record DateRule(string Pattern = "yyyyMMdd") : SlotRule
{
    /// <summary>The years that a name may hold; with two digits, those of 2000 to 2099.</summary>
    public const int FirstYear = 1900,
        LastYear = 2199;

    private static readonly string[] Parts = ["yyyy", "yy", "MM", "dd"];

    /// <inheritdoc />
    public override string Kind => "date";

    /// <inheritdoc />
    public override string Holds => $"a date written {Pattern}";

    /// <summary>Whether the pattern has no day in it.</summary>
    public bool IsMonth => !Pattern.Contains('d');

    /// <summary>The parts of the pattern in order: <c>yyyy</c>, <c>yy</c>, <c>MM</c>, <c>dd</c>, or a mark of one character.</summary>
    /// <returns>Null when it is no pattern.</returns>
    public static IReadOnlyList<string>? Split(string pattern)
    {
        var parts = new List<string>();
        for (var i = 0; i < pattern.Length; )
        {
            var part =
                Parts.FirstOrDefault(p => string.CompareOrdinal(pattern, i, p, 0, p.Length) == 0)
                ?? (pattern[i] is '-' or '_' or '.' ? pattern[i].ToString() : null);
            if (part is null)
                return null;
            parts.Add(part);
            i += part.Length;
        }
        bool Once(params ReadOnlySpan<string> any)
        {
            var count = 0;
            foreach (var part in parts)
                count += any.Contains(part) ? 1 : 0;
            return count == 1;
        }
        var whole = Once("yyyy", "yy") && Once("MM") && parts.Count(p => p == "dd") <= 1;
        return whole && char.IsAsciiLetter(parts[0][0]) && char.IsAsciiLetter(parts[^1][0]) ? parts : null;
    }

    /// <inheritdoc />
    public override SlotText Write(string label, string value)
    {
        var format = IsMonth ? "yyyy-MM" : "yyyy-MM-dd";
        if (!DateOnly.TryParseExact(value, format, CultureInfo.InvariantCulture, DateTimeStyles.None, out var date))
            return SlotText.Wrong($"The {label} is a date such as {(IsMonth ? "2026-03" : "2026-03-12")}.");
        var (first, last) = Pattern.Contains("yyyy", StringComparison.Ordinal) ? (FirstYear, LastYear) : (2000, 2099);
        return date.Year < first || date.Year > last
            ? SlotText.Wrong($"The {label} lies between the years {first} and {last}.")
            : SlotText.Of(Text(date));
    }

    /// <summary>The date as it stands in a name.</summary>
    public string Text(DateOnly date) => date.ToString(Pattern.Length == 1 ? "%" + Pattern : Pattern, CultureInfo.InvariantCulture);

    /// <inheritdoc />
    public override string Read(string text)
    {
        int year = 0,
            month = 0,
            day = 0,
            at = 0;
        foreach (var part in Split(Pattern)!)
        {
            var digits = text.AsSpan(at, part.Length);
            if (part == "yyyy")
                year = int.Parse(digits, CultureInfo.InvariantCulture);
            else if (part == "yy")
                year = 2000 + int.Parse(digits, CultureInfo.InvariantCulture);
            else if (part == "MM")
                month = int.Parse(digits, CultureInfo.InvariantCulture);
            else if (part == "dd")
                day = int.Parse(digits, CultureInfo.InvariantCulture);
            at += part.Length;
        }
        return IsMonth ? $"{year:D4}-{month:D2}" : $"{year:D4}-{month:D2}-{day:D2}";
    }
}
