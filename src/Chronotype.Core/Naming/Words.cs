using System.Globalization;
using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Core.Naming;

/// <summary>Folds free words into the plain characters that every file system takes.</summary>
public static class Words
{
    // Letters that Unicode does not decompose into a base letter and a mark.
    private static readonly Dictionary<char, string> Spelled = new()
    {
        ['ß'] = "ss",
        ['æ'] = "ae",
        ['œ'] = "oe",
        ['ø'] = "o",
        ['đ'] = "d",
        ['ð'] = "d",
        ['þ'] = "th",
        ['ł'] = "l",
        ['ı'] = "i",
    };

    /// <summary>
    /// ASCII letters of one case and digits, every run of anything else folded to one <paramref name="joiner"/>,
    /// accents removed, at most <paramref name="maxLength"/> characters and cut at a word's end where there is one.
    /// </summary>
    /// <returns>The folded words; empty where nothing of <paramref name="text"/> can stand in a name.</returns>
    public static string Fold(string text, string joiner, int maxLength, WordCase wordCase = WordCase.Lower)
    {
        var length = 0;
        var taken = new List<string>();
        foreach (var word in Split(text))
        {
            var room = maxLength - length - (taken.Count > 0 ? joiner.Length : 0);
            if (word.Length > room && taken.Count > 0)
                break;
            var whole = word.Length > room ? word[..room] : word;
            taken.Add(
                wordCase switch
                {
                    WordCase.Upper => whole.ToUpperInvariant(),
                    WordCase.Title => char.ToUpperInvariant(whole[0]) + whole[1..],
                    _ => whole,
                }
            );
            length = maxLength - room + whole.Length;
        }
        return string.Join(joiner, taken);
    }

    /// <summary>The words of a text in lower-case ASCII letters and digits.</summary>
    public static IEnumerable<string> Split(string text)
    {
        var word = new StringBuilder();
        foreach (var c in Decompose(text))
        {
            if (CharUnicodeInfo.GetUnicodeCategory(c) == UnicodeCategory.NonSpacingMark)
                continue;
            // An apostrophe stands inside a word: "client's" is one word.
            if (c is '\'' or '’')
                continue;
            var lower = char.ToLowerInvariant(c);
            if (char.IsAsciiLetterOrDigit(lower))
                word.Append(lower);
            else if (Spelled.TryGetValue(lower, out var spelled))
                word.Append(spelled);
            else if (word.Length > 0)
            {
                yield return word.ToString();
                word.Clear();
            }
        }
        if (word.Length > 0)
            yield return word.ToString();
    }

    /// <summary>The plain letters that stand for one letter with an accent; empty where there are none.</summary>
    internal static string Plain(Rune letter)
    {
        if (letter.Value < 128)
            return "";
        var lower = letter.IsBmp ? char.ToLowerInvariant((char)letter.Value) : '\0';
        if (Spelled.TryGetValue(lower, out var spelled))
            return lower == letter.Value ? spelled : spelled.ToUpperInvariant();
        // A letter and its accents, not the letters of a word: a ligature or a number in a circle is not one.
        var parts = UnicodeText.Normalized(letter.ToString(), NormalizationForm.FormKD);
        return
            char.IsAsciiLetterOrDigit(parts[0])
            && parts
                .Skip(1)
                .All(c => char.IsAsciiLetterOrDigit(c) || CharUnicodeInfo.GetUnicodeCategory(c) == UnicodeCategory.NonSpacingMark)
            ? string.Concat(parts.Where(char.IsAsciiLetterOrDigit))
            : "";
    }

    // What is replaced on the way is dropped like any other foreign character.
    private static string Decompose(string text) => UnicodeText.Normalized(text, NormalizationForm.FormKD);
}
