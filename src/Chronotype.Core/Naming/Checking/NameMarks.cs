using System.Globalization;

namespace Chronotype.Core.Naming.Checking;

/// <summary>What a stretch of a name is, besides the value of a slot.</summary>
public enum NameMarkKind
{
    /// <summary>What programs and people add to a copy: <c>(2)</c>, <c>copy</c>, <c>final</c>.</summary>
    Copy,

    /// <summary>A date, whatever the order it is written in.</summary>
    Date,

    /// <summary>A word before a number that says what the number is: <c>v</c>, <c>version</c>, <c>no</c>.</summary>
    NumberWord,
}

/// <summary>A stretch of a name that is read for what it is.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="At">
/// In UTF-16 units; a copy mark or a date takes the separators before it along, or those behind it where it comes first.
/// </param>
/// <param name="TextAt">Where its own text begins; <paramref name="TextEnd"/> where it ends.</param>
/// <param name="TextEnd">Behind the last unit of its own text.</param>
/// <param name="Length">In UTF-16 units, with the separators.</param>
/// <param name="Dates">What a date may be: more than one where day and month cannot be told apart.</param>
public sealed record NameMark(NameMarkKind Kind, int At, int TextAt, int TextEnd, int Length, IReadOnlyList<DateOnly> Dates)
{
    /// <summary>Where it ends, with the separators that go with it.</summary>
    public int End => At + Length;
}

/// <summary>Finds copy marks, dates and the words before numbers in a name of any kind.</summary>
public static class NameMarks
{
    private static readonly HashSet<string> CopyWords = new(StringComparer.OrdinalIgnoreCase)
    {
        "copy",
        "kopie",
        "copie",
        "copia",
        "kopia",
        "duplicate",
        "final",
        "finale",
        "finalfinal",
        "latest",
        "newest",
        "backup",
        "bak",
        "autosave",
        "autosaved",
        "recovered",
        "conflict",
        "old",
    };

    private static readonly HashSet<string> NumberWords = new(StringComparer.OrdinalIgnoreCase)
    {
        "v",
        "ver",
        "vers",
        "version",
        "rev",
        "r",
        "no",
        "nr",
        "n",
    };

    private static readonly (string Pattern, int[] Lengths)[] DatePatterns = [("yMd", [4, 2, 2]), ("dMy", [2, 2, 4]), ("Mdy", [2, 2, 4])];

    private static readonly HashSet<string> CopyOf = new(StringComparer.OrdinalIgnoreCase) { "copy", "kopie" };

    /// <summary>Whether a character stands between words: white space, a mark, or a dash of any kind.</summary>
    public static bool IsSeparator(char c) =>
        c is '_' or '-' or '.' or ' ' or '+' or ',' or '~'
        || (c >= 128 && (char.IsWhiteSpace(c) || char.GetUnicodeCategory(c) == UnicodeCategory.DashPunctuation));

    /// <summary>Whether a word says of a name only that it is a copy: <c>copy</c>, <c>final</c>, <c>bak</c>.</summary>
    public static bool IsCopyWord(ReadOnlySpan<char> word) => CopyWords.GetAlternateLookup<ReadOnlySpan<char>>().Contains(word);

    /// <summary>All marks in a name, in order; they may overlap where more than one reading makes sense.</summary>
    public static IReadOnlyList<NameMark> Find(string name)
    {
        var marks = new List<NameMark>();
        for (var i = 0; i < name.Length; i++)
        {
            if (name[i] is '(' or '[')
                Bracket(name, i, marks);
            if (!char.IsAsciiLetterOrDigit(name[i]) || (i > 0 && SameRun(name[i - 1], name[i])))
                continue;
            if (char.IsAsciiLetter(name[i]))
                Word(name, i, marks);
            else
                Date(name, i, marks);
        }
        return marks;
    }

    private static bool SameRun(char a, char b) =>
        (char.IsAsciiLetter(a) && char.IsAsciiLetter(b)) || (char.IsAsciiDigit(a) && char.IsAsciiDigit(b));

    private static void Bracket(string name, int at, List<NameMark> marks)
    {
        var close = name[at] == '(' ? ')' : ']';
        var end = at + 1;
        while (end < name.Length && end - at <= 20 && (char.IsAsciiLetterOrDigit(name[end]) || name[end] == ' '))
            end++;
        if (end == at + 1 || end == name.Length || name[end] != close)
            return;
        var inside = name.AsSpan((at + 1)..end);
        var word = inside.TrimEnd("0123456789 ").ToString();
        if (word.Length > 0 && !CopyWords.Contains(word))
            return;
        Add(NameMarkKind.Copy, name, at, end + 1, [], marks);
    }

    private static void Word(string name, int at, List<NameMark> marks)
    {
        var end = at;
        while (end < name.Length && char.IsAsciiLetter(name[end]))
            end++;
        var word = name[at..end];
        var starts = at == 0 || !char.IsAsciiLetterOrDigit(name[at - 1]);
        if (NumberWords.Contains(word) && starts)
        {
            var digits = end < name.Length && (IsSeparator(name[end]) || name[end] == '#') ? end + 1 : end;
            if (digits < name.Length && char.IsAsciiDigit(name[digits]))
                marks.Add(new(NameMarkKind.NumberWord, at, at, digits, digits - at, []));
        }
        if (!CopyWords.Contains(word) || !starts)
            return;
        if (at == 0 && CopyOf.Contains(word) && string.Compare(name, end, " of ", 0, 4, StringComparison.OrdinalIgnoreCase) == 0)
        {
            marks.Add(new(NameMarkKind.Copy, 0, 0, end + 4, end + 4, []));
            return;
        }
        // A number may follow at once or after one mark: "final2", "copy 3".
        var number = end;
        while (number < name.Length && char.IsAsciiDigit(name[number]))
            number++;
        if (number < name.Length && char.IsAsciiLetterOrDigit(name[number]))
            return;
        Add(NameMarkKind.Copy, name, at, number, [], marks);
        if (number > end || number + 1 >= name.Length || !IsSeparator(name[end]))
            return;
        var later = end + 1;
        while (later < name.Length && later - end <= 2 && char.IsAsciiDigit(name[later]))
            later++;
        if (later > end + 1 && (later == name.Length || !char.IsAsciiLetterOrDigit(name[later])))
            Add(NameMarkKind.Copy, name, at, later, [], marks);
    }

    private static void Add(NameMarkKind kind, string name, int at, int end, IReadOnlyList<DateOnly> dates, List<NameMark> marks)
    {
        var (from, textEnd) = (at, end);
        while (from > 0 && IsSeparator(name[from - 1]))
            from--;
        // At the front the separators behind go with it instead.
        if (from == 0)
        {
            while (end < name.Length && IsSeparator(name[end]) && name[end] != '.')
                end++;
        }
        marks.Add(new(kind, from, at, textEnd, end - from, dates));
    }

    private static void Date(string name, int at, List<NameMark> marks)
    {
        var found = new Dictionary<int, List<DateOnly>>();
        foreach (var (pattern, lengths) in DatePatterns)
        {
            if (ReadDate(name, at, pattern, lengths, out var end) is not { } date)
                continue;
            if (!found.TryGetValue(end, out var dates))
                found[end] = dates = [];
            if (!dates.Contains(date))
                dates.Add(date);
        }
        // Six digits are a date only where nothing else makes sense of them: year, month, day.
        if (
            found.Count == 0
            && Digits(name, at, 6) is { } six
            && (at + 6 == name.Length || !char.IsAsciiDigit(name[at + 6]))
            && MakeDate(2000 + six / 10000, six / 100 % 100, six % 100) is { } short_
        )
            found[at + 6] = [short_];
        foreach (var (end, dates) in found)
            Add(NameMarkKind.Date, name, at, end, dates, marks);
    }

    private static DateOnly? ReadDate(string name, int at, string pattern, int[] lengths, out int end)
    {
        end = at;
        int year = 0,
            month = 0,
            day = 0;
        var mark = '\0';
        for (var i = 0; i < 3; i++)
        {
            if (i > 0 && end < name.Length && IsSeparator(name[end]))
            {
                if (i == 1)
                    mark = name[end];
                else if (name[end] != mark)
                    return null;
                end++;
            }
            else if (i > 0 && mark != '\0')
                return null;
            if (Digits(name, end, lengths[i]) is not { } value)
                return null;
            end += lengths[i];
            if (pattern[i] == 'y')
                year = value;
            else if (pattern[i] == 'M')
                month = value;
            else
                day = value;
        }
        return end < name.Length && char.IsAsciiDigit(name[end]) ? null : MakeDate(year, month, day);
    }

    private static int? Digits(string name, int at, int count)
    {
        if (at + count > name.Length)
            return null;
        var value = 0;
        for (var i = at; i < at + count; i++)
        {
            if (!char.IsAsciiDigit(name[i]))
                return null;
            value = value * 10 + (name[i] - '0');
        }
        return value;
    }

    // Earlier and later years are more likely numbers.
    private static DateOnly? MakeDate(int year, int month, int day) =>
        year is >= 1980 and <= 2079 && month is >= 1 and <= 12 && day >= 1 && day <= DateTime.DaysInMonth(year, month)
            ? new DateOnly(year, month, day)
            : null;
}
