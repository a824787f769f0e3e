using System.Text;

namespace Chronotype.Studio;

/// <summary>What people type into a field, made fit to keep and to show.</summary>
public static class TypedText
{
    /// <summary>In NFC, trimmed, every run of white space one space, without control characters and lone surrogates.</summary>
    public static string Line(string? text) => string.Join(' ', Lines(text).Split(default(char[]), StringSplitOptions.RemoveEmptyEntries));

    /// <summary>As <see cref="Line"/>, with its line breaks kept.</summary>
    public static string Lines(string? text)
    {
        var clean = new StringBuilder();
        foreach (var rune in (text ?? "").ReplaceLineEndings("\n").EnumerateRunes())
        {
            if (rune.Value is '\n' or '\t' || (!Rune.IsControl(rune) && rune.Value is not (0xFFFD or 0xFFFE or 0xFFFF))) clean.Append(rune);
        }
        return clean.ToString().Normalize(NormalizationForm.FormC).Trim();
    }

    /// <summary>At most <paramref name="most"/> characters, never half of one.</summary>
    public static string Cut(string text, int most) =>
        text.Length <= most ? text : text[..(char.IsHighSurrogate(text[most - 1]) ? most - 1 : most)];
}
