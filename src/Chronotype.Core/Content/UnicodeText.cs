using System.Text;

namespace Chronotype.Core.Content;

/// <summary>Text that somebody else made, as text that may be kept, compared and shown.</summary>
public static class UnicodeText
{
    /// <summary>
    /// Whether a character may stand in a name or a sentence: no control character, no noncharacter (Unicode 16, 23.7), and not
    /// the replacement character, which stands where something could not be read.
    /// </summary>
    public static bool IsLegible(Rune rune) => !Rune.IsControl(rune) && rune.Value != 0xFFFD && !IsNoncharacter(rune);

    /// <summary>
    /// As the platform normalises (Unicode Standard Annex 15), for any text at all: what it refuses to, lone surrogates and
    /// noncharacters, becomes the replacement character.
    /// </summary>
    public static string Normalized(string text, NormalizationForm form)
    {
        if (Ascii.IsValid(text))
            return text;
        var legible = new StringBuilder(text.Length);
        foreach (var rune in text.EnumerateRunes())
            legible.Append(IsNoncharacter(rune) ? Rune.ReplacementChar : rune);
        return legible.ToString().Normalize(form);
    }

    private static bool IsNoncharacter(Rune rune) => (rune.Value & 0xFFFE) == 0xFFFE || rune.Value is >= 0xFDD0 and <= 0xFDEF;

    /// <summary>In NFC, with only legible characters; lone surrogates are left out, too.</summary>
    /// <param name="text">Any text, of any form.</param>
    /// <param name="alsoKept">Control characters that stay all the same.</param>
    public static string Clean(string text, string alsoKept = "")
    {
        var clean = new StringBuilder(text.Length);
        foreach (var rune in text.EnumerateRunes())
        {
            if (IsLegible(rune) || (rune.IsBmp && alsoKept.Contains((char)rune.Value)))
                clean.Append(rune);
        }
        return clean.ToString().Normalize(NormalizationForm.FormC);
    }
}
