using System.Globalization;
using System.Text;

namespace Chronotype.Core.Naming;

/// <summary>Scripts whose letters may stand in words beside the plain ones, a to z.</summary>
[Flags]
public enum Scripts
{
    /// <summary>Plain letters only.</summary>
    None = 0,

    /// <summary>Latin letters with accents and the like; the plain ones may always stand.</summary>
    Latin = 1,

    /// <summary>Greek and its letters with accents.</summary>
    Greek = 1 << 1,

    /// <summary>Cyrillic of all languages.</summary>
    Cyrillic = 1 << 2,

    /// <summary>Hebrew, with its points.</summary>
    Hebrew = 1 << 3,

    /// <summary>Arabic, with its marks and digits.</summary>
    Arabic = 1 << 4,

    /// <summary>Devanagari, with its marks and digits.</summary>
    Devanagari = 1 << 5,

    /// <summary>Thai, with its marks and digits.</summary>
    Thai = 1 << 6,

    /// <summary>Hangul syllables.</summary>
    Hangul = 1 << 7,

    /// <summary>Hiragana and katakana.</summary>
    Kana = 1 << 8,

    /// <summary>Han characters.</summary>
    Han = 1 << 9,

    /// <summary>All that are not named here.</summary>
    Other = 1 << 10,

    /// <summary>All scripts.</summary>
    Any = (1 << 11) - 1,
}

/// <summary>
/// The letters of a convention's automata: ASCII, and behind it three for each script: one for its capitals, one for its small letters,
/// and one for letters, digits and marks that have no case. Only characters of the Basic Multilingual Plane that are the same in Unicode's form NFKC (Unicode
/// Standard Annex 15) are letters, so that one word is not stored in two ways.
/// </summary>
public static class WordLetters
{
    /// <summary>The scripts by their codes of ISO 15924.</summary>
    public static readonly IReadOnlyList<(string Code, Scripts Script, string Name)> All =
    [
        ("Latn", Scripts.Latin, "Latin with accents"),
        ("Grek", Scripts.Greek, "Greek"),
        ("Cyrl", Scripts.Cyrillic, "Cyrillic"),
        ("Hebr", Scripts.Hebrew, "Hebrew"),
        ("Arab", Scripts.Arabic, "Arabic"),
        ("Deva", Scripts.Devanagari, "Devanagari"),
        ("Thai", Scripts.Thai, "Thai"),
        ("Hang", Scripts.Hangul, "Hangul"),
        ("Hrkt", Scripts.Kana, "Kana"),
        ("Hani", Scripts.Han, "Han"),
        ("Zzzz", Scripts.Other, "other scripts"),
    ];

    private const int Ascii = 128,
        None = 0;

    /// <summary>How many letters the automata know.</summary>
    internal const int Count = Ascii + 3 * 11;

    private const int Uncased = 0,
        Capital = 1,
        Small = 2;

    private static readonly (char First, char Last, Scripts Script)[] Ranges =
    [
        ('\u00AA', '\u02AF', Scripts.Latin),
        ('\u0370', '\u03FF', Scripts.Greek),
        ('\u0400', '\u052F', Scripts.Cyrillic),
        ('\u0590', '\u05FF', Scripts.Hebrew),
        ('\u0600', '\u06FF', Scripts.Arabic),
        ('\u0750', '\u077F', Scripts.Arabic),
        ('\u08A0', '\u08FF', Scripts.Arabic),
        ('\u0900', '\u097F', Scripts.Devanagari),
        ('\u0E00', '\u0E7F', Scripts.Thai),
        ('\u1C80', '\u1C8F', Scripts.Cyrillic),
        ('\u1E00', '\u1EFF', Scripts.Latin),
        ('\u1F00', '\u1FFF', Scripts.Greek),
        ('\u3005', '\u3007', Scripts.Han),
        ('\u3040', '\u30FF', Scripts.Kana),
        ('\u31F0', '\u31FF', Scripts.Kana),
        ('\u3400', '\u4DBF', Scripts.Han),
        ('\u4E00', '\u9FFF', Scripts.Han),
        ('\uA640', '\uA69F', Scripts.Cyrillic),
        ('\uA8E0', '\uA8FF', Scripts.Devanagari),
        ('\uAC00', '\uD7A3', Scripts.Hangul),
    ];

    private static readonly byte[] Numbers = Number();

    // One of each, to show a name by.
    private static readonly char[] Samples = Sample();

    /// <summary>The number of a character among the automata's letters; 0 for one that is none.</summary>
    internal static int Of(char c) => c < Ascii ? c : Numbers[c];

    /// <summary>A character of a letter's number.</summary>
    internal static char SampleOf(int letter) => letter < Ascii ? (char)letter : Samples[letter - Ascii];

    /// <summary>The letters of some scripts, as numbers: those without case, the capitals, and the small ones.</summary>
    internal static (string Uncased, string Capitals, string Small) LettersOf(Scripts scripts)
    {
        var all = Enumerable.Range(0, All.Count).Where(s => scripts.HasFlag(All[s].Script)).ToList();
        string Of(int kind) => string.Concat(all.Select(s => (char)(Ascii + 3 * s + kind)));
        return (Of(Uncased), Of(Capital), Of(Small));
    }

    /// <summary>The number of the same script's letters in the other case; itself where they have none.</summary>
    internal static int InOtherCase(int letter) =>
        ((letter - Ascii) % 3) switch
        {
            Capital => letter + 1,
            Small => letter - 1,
            _ => letter,
        };

    /// <summary>Whether a character is a letter of one of the scripts; ASCII is of none.</summary>
    public static bool IsOf(Scripts scripts, char c) =>
        c >= Ascii && Numbers[c] is var letter and not None && scripts.HasFlag(All[(letter - Ascii) / 3].Script);

    /// <summary>The scripts that a text has letters of; ASCII is of none.</summary>
    internal static Scripts ScriptsOf(ReadOnlySpan<char> text)
    {
        var scripts = Scripts.None;
        foreach (var c in text)
        {
            if (c >= Ascii && Numbers[c] is var letter and not None)
                scripts |= All[(letter - Ascii) / 3].Script;
        }
        return scripts;
    }

    /// <summary>The same letter as a small one, ASCII or of a script; itself where it is none.</summary>
    internal static char Lower(char c) =>
        c < Ascii ? char.ToLowerInvariant(c)
        : Numbers[c] != None && (Numbers[c] - Ascii) % 3 == Capital ? char.ToLowerInvariant(c)
        : c;

    /// <summary>The same letter as a capital, ASCII or of a script; itself where it has none.</summary>
    internal static char Upper(char c) =>
        c < Ascii ? char.ToUpperInvariant(c)
        : Numbers[c] != None && (Numbers[c] - Ascii) % 3 == Small ? char.ToUpperInvariant(c)
        : c;

    /// <summary><c>plain</c>, <c>any</c>, or codes of ISO 15924 with spaces between.</summary>
    public static string Write(Scripts scripts) =>
        scripts switch
        {
            Scripts.None => "plain",
            Scripts.Any => "any",
            _ => string.Join(' ', All.Where(s => scripts.HasFlag(s.Script)).Select(s => s.Code)),
        };

    /// <summary>The inverse of <see cref="Write"/>.</summary>
    /// <returns>Null when a code is not known.</returns>
    public static Scripts? Read(string text)
    {
        if (text is "plain" or "any")
            return text == "any" ? Scripts.Any : Scripts.None;
        var scripts = Scripts.None;
        foreach (var code in text.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            var at = All.ToList().FindIndex(s => s.Code.Equals(code, StringComparison.OrdinalIgnoreCase));
            if (at < 0)
                return null;
            scripts |= All[at].Script;
        }
        return scripts == Scripts.None ? null : scripts;
    }

    /// <summary>The scripts in words, to end "letters of …".</summary>
    public static string Told(Scripts scripts) =>
        scripts == Scripts.Any ? "any script" : string.Join(", ", All.Where(s => scripts.HasFlag(s.Script)).Select(s => s.Name));

    private static byte[] Number()
    {
        var numbers = new byte[char.MaxValue + 1];
        for (var code = Ascii; code <= char.MaxValue; code++)
        {
            var c = (char)code;
            var category = CharUnicodeInfo.GetUnicodeCategory(c);
            if (
                category
                    is not (
                        UnicodeCategory.UppercaseLetter
                        or UnicodeCategory.TitlecaseLetter
                        or UnicodeCategory.LowercaseLetter
                        or UnicodeCategory.ModifierLetter
                        or UnicodeCategory.OtherLetter
                        or UnicodeCategory.NonSpacingMark
                        or UnicodeCategory.SpacingCombiningMark
                        or UnicodeCategory.DecimalDigitNumber
                        or UnicodeCategory.LetterNumber
                    )
                || !c.ToString().IsNormalized(NormalizationForm.FormKC)
                // Marks that go with any script's letters, and the parts of syllables, are written as one with their letter.
                || c is (>= '\u0300' and <= '\u036F') or (>= '\u1100' and <= '\u11FF') or '\u3099' or '\u309A'
            )
                continue;
            var script = Array.Find(Ranges, r => r.First <= c && c <= r.Last).Script;
            if (script == Scripts.None)
                script = Scripts.Other;
            var at = System.Numerics.BitOperations.TrailingZeroCount((int)script);
            numbers[c] = (byte)(Ascii + 3 * at + CaseOf(c));
        }
        return numbers;
    }

    // A letter whose other case is not one of a script's own letters has none: the dotless i, the sharp s.
    private static int CaseOf(char c)
    {
        var (lower, upper) = (char.ToLowerInvariant(c), char.ToUpperInvariant(c));
        return lower != c && lower >= Ascii && char.ToUpperInvariant(lower) == c ? Capital
            : upper != c && upper >= Ascii && char.ToLowerInvariant(upper) >= Ascii ? Small
            : Uncased;
    }

    private static char[] Sample()
    {
        var samples = new char[Count - Ascii];
        for (var c = char.MaxValue; c >= Ascii; c--)
        {
            if (Numbers[c] != None && char.IsLetter(c))
                samples[Numbers[c] - Ascii] = c;
        }
        return samples;
    }
}
