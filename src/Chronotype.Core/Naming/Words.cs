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
    /// <param name="text">What a person typed.</param>
    /// <param name="joiner">Stands between two words.</param>
    /// <param name="maxLength">In characters, from 1.</param>
    /// <param name="wordCase">How the letters are written.</param>
    /// <param name="scripts">The scripts whose letters stand as they are.</param>
    /// <param name="isCut">Whether letters or words were left out for want of room.</param>
    /// <returns>The folded words; empty where nothing of <paramref name="text"/> can stand in a name.</returns>
    public static string Fold(string text, string joiner, int maxLength, WordCase wordCase, Scripts scripts, out bool isCut)
    {
        var length = 0;
        var taken = new List<string>();
        isCut = false;
        foreach (var word in Split(text, scripts))
        {
            var room = maxLength - length - (taken.Count > 0 ? joiner.Length : 0);
            if (word.Length > room)
            {
                isCut = true;
                if (taken.Count > 0)
                    break;
            }
            var whole = word.Length > room ? word[..room] : word;
            taken.Add(
                wordCase switch
                {
                    WordCase.Upper => string.Concat(whole.Select(WordLetters.Upper)),
                    WordCase.Title => WordLetters.Upper(whole[0]) + whole[1..],
                    _ => whole,
                }
            );
            length = maxLength - room + whole.Length;
        }
        return string.Join(joiner, taken);
    }

    /// <summary>The words of a text in lower-case ASCII letters and digits, and in letters of the scripts that may stand.</summary>
    public static IEnumerable<string> Split(string text, Scripts scripts = Scripts.None)
    {
        var word = new StringBuilder();
        foreach (var c in scripts == Scripts.None ? Decompose(text) : Composed(text, scripts))
        {
            if (WordLetters.IsOf(scripts, c))
            {
                word.Append(WordLetters.Lower(c));
                continue;
            }
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

    // What may stand as one letter is one; all else falls into its plain letters and their marks.
    private static string Composed(string text, Scripts scripts)
    {
        var composed = UnicodeText.Normalized(text, NormalizationForm.FormKC);
        if (composed.All(c => c < 128 || WordLetters.IsOf(scripts, c)))
            return composed;
        var all = new StringBuilder();
        foreach (var rune in composed.EnumerateRunes())
            all.Append(rune.IsBmp && WordLetters.IsOf(scripts, (char)rune.Value) ? rune.ToString() : Decompose(rune.ToString()));
        return all.ToString();
    }

    // What is replaced on the way is dropped like any other foreign character.
    private static string Decompose(string text) => UnicodeText.Normalized(text, NormalizationForm.FormKD);
}
