using Chronotype.Core.Content;

namespace Chronotype.Studio.Deeds;

/// <summary>What people type into a field, made fit to keep and to show.</summary>
public static class TypedText
{
    /// <summary>In NFC, trimmed, every run of white space one space, without control characters and lone surrogates.</summary>
    public static string Line(string? text) => string.Join(' ', Lines(text).Split(default(char[]), StringSplitOptions.RemoveEmptyEntries));

    /// <summary>As <see cref="Line"/>, with its line breaks kept.</summary>
    public static string Lines(string? text) => UnicodeText.Clean((text ?? "").ReplaceLineEndings("\n"), alsoKept: "\n\t").Trim();

    /// <summary>At most <paramref name="most"/> characters, never half of one.</summary>
    public static string Cut(string text, int most) =>
        text.Length <= most ? text : text[..(char.IsHighSurrogate(text[most - 1]) ? most - 1 : most)];
}
