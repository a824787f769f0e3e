using Chronotype.Core.Content;

namespace Chronotype.Core.Naming;

/// <summary>Reads what a file came as, without trusting it: browsers and zips may send any text as a name.</summary>
public static class FileNames
{
    /// <summary>The longest name kept as received, in characters.</summary>
    public const int MaxLength = 255;

    /// <summary>
    /// The last part of a name that may hold a path of Windows or of Unix, in NFC, with legible characters only, cut to <see
    /// cref="MaxLength"/> with its extension kept. Never empty: a name of nothing becomes <c>unnamed</c>.
    /// </summary>
    public static string Received(string? name)
    {
        var last = (name ?? "").Split('/', '\\')[^1];
        var text = UnicodeText.Clean(last).Trim(' ', '.');
        if (text.Length == 0)
            return "unnamed";
        if (text.Length <= MaxLength)
            return text;
        var extension = Extension(text);
        var keep = MaxLength - extension.Length;
        if (char.IsHighSurrogate(text[keep - 1]))
            keep--;
        return text[..keep] + extension;
    }

    /// <summary>The extension in lower case with its dot, when it is 1 to 16 ASCII letters and digits; else empty.</summary>
    public static string Extension(string name)
    {
        var dot = name.LastIndexOf('.');
        if (dot < 0)
            return "";
        var extension = name[(dot + 1)..];
        return extension.Length is >= 1 and <= 16 && extension.All(char.IsAsciiLetterOrDigit) ? "." + extension.ToLowerInvariant() : "";
    }

    /// <summary>A name without its extension, as free words: where a person may begin a subject.</summary>
    public static string Stem(string name) => name[..^Extension(name).Length];
}
