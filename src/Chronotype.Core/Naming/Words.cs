using System.Globalization;
using System.Text;

namespace Chronotype.Core.Naming;

/// <summary>Folds free words into the plain characters that every file system takes.</summary>
public static class Words
{
    // Letters that Unicode does not decompose into a base letter and a mark.
    private static readonly Dictionary<char, string> Spelled = new()
    {
        ['ß'] = "ss", ['æ'] = "ae", ['œ'] = "oe", ['ø'] = "o", ['đ'] = "d", ['ð'] = "d", ['þ'] = "th", ['ł'] = "l", ['ı'] = "i",
    };

    /// <summary>
    /// Lower-case ASCII letters and digits, every run of anything else folded to one <paramref name="joiner"/>,
    /// accents removed, at most <paramref name="maxLength"/> characters and cut at a word's end where there is one.
    /// </summary>
    /// <returns>The folded words; empty where nothing of <paramref name="text"/> can stand in a name.</returns>
    public static string Fold(string text, char joiner, int maxLength)
    {
        var folded = new StringBuilder();
        foreach (var c in Decompose(text))
        {
            if (CharUnicodeInfo.GetUnicodeCategory(c) == UnicodeCategory.NonSpacingMark) continue;
            // An apostrophe stands inside a word: "client's" is one word.
            if (c is '\'' or '’') continue;
            var lower = char.ToLowerInvariant(c);
            if (char.IsAsciiLetterOrDigit(lower)) folded.Append(lower);
            else if (Spelled.TryGetValue(lower, out var spelled)) folded.Append(spelled);
            else if (folded.Length > 0 && folded[^1] != joiner) folded.Append(joiner);
        }
        return Shorten(folded.ToString().TrimEnd(joiner), joiner, maxLength);
    }

    // A lone surrogate cannot be normalised; it is replaced first, and then dropped like any other foreign character.
    private static string Decompose(string text) =>
        Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(text)).Normalize(NormalizationForm.FormKD);

    private static string Shorten(string words, char joiner, int maxLength)
    {
        if (words.Length <= maxLength) return words;
        var cut = words[maxLength] == joiner ? maxLength : words.LastIndexOf(joiner, maxLength - 1);
        return words[..(cut > 0 ? cut : maxLength)];
    }
}
