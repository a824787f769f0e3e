using Chronotype.Core.Comparing;

namespace Chronotype.Web.Words;

/// <summary>Lines of a text beside one another, word by word.</summary>
public static class TextWords
{
    /// <summary>Each earlier line with the later one that stands in its place; one side is null where there are fewer.</summary>
    public static IEnumerable<(string? Before, string? Now)> Pairs(TextChange change)
    {
        for (var i = 0; i < Math.Max(change.Removed.Count, change.Added.Count); i++)
            yield return (change.Removed.ElementAtOrDefault(i), change.Added.ElementAtOrDefault(i));
    }

    /// <summary>A line's words, with those that are not in the other in the same order marked; nothing is marked where there is no other.</summary>
    public static IReadOnlyList<(string Word, bool IsOther)> Marked(string line, string? other)
    {
        var words = Split(line);
        if (other is null)
            return [(line, false)];
        var (mine, theirs) = (words, Split(other));
        // The longest run in common (E. Myers 1986 finds the same); lines are short.
        var common = new int[mine.Count + 1, theirs.Count + 1];
        for (var i = mine.Count - 1; i >= 0; i--)
        {
            for (var j = theirs.Count - 1; j >= 0; j--)
                common[i, j] = mine[i] == theirs[j] ? common[i + 1, j + 1] + 1 : Math.Max(common[i + 1, j], common[i, j + 1]);
        }
        // Where next to nothing is in common it is another line, and marking every word says nothing.
        if (common[0, 0] * 3 < Math.Max(mine.Count, theirs.Count))
            return [(line, false)];
        var told = new List<(string, bool)>();
        for (int i = 0, j = 0; i < mine.Count; )
        {
            if (j < theirs.Count && mine[i] == theirs[j])
            {
                told.Add((mine[i++], false));
                j++;
            }
            else if (j < theirs.Count && common[i, j + 1] >= common[i + 1, j])
                j++;
            else
                told.Add((mine[i++], true));
        }
        return told;
    }

    // Words with the spaces behind them, and marks by themselves.
    private static List<string> Split(string line)
    {
        var words = new List<string>();
        var start = 0;
        for (var i = 1; i <= line.Length; i++)
        {
            if (i < line.Length && char.IsLetterOrDigit(line[i]) && char.IsLetterOrDigit(line[i - 1]))
                continue;
            words.Add(line[start..i]);
            start = i;
        }
        return words;
    }
}
