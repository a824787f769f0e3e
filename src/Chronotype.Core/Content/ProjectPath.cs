using System.Text;

namespace Chronotype.Core.Content;

/// <summary>A path inside a piece or a project: relative, with <c>/</c> between its parts, and never out of its place.</summary>
public sealed record ProjectPath
{
    /// <summary>The longest path, in bytes of UTF-8; a zip and most file systems take no more in practice.</summary>
    public const int MaxBytes = 1024;

    private const int MaxPartBytes = 255;

    private ProjectPath(string text) => Text = text;

    public string Text { get; }

    /// <summary>The last part.</summary>
    public string Name => Text[(Text.LastIndexOf('/') + 1)..];

    /// <exception cref="FormatException">The text is no path inside a project; the message says why.</exception>
    public static ProjectPath Parse(string text) => TryParse(text, out var path, out var fault) ? path : throw new FormatException(fault);

    /// <summary>Reads a path as a zip or a browser gives it; backslashes count as separators.</summary>
    /// <param name="text">Any text.</param>
    /// <param name="path">The path in NFC, when it is legal.</param>
    /// <param name="fault">Why it is not, in a sentence.</param>
    public static bool TryParse(string text, out ProjectPath path, out string fault)
    {
        path = null!;
        fault = Fault(text) ?? "";
        if (fault.Length > 0) return false;
        path = new ProjectPath(text.Replace('\\', '/').Normalize(NormalizationForm.FormC));
        return true;
    }

    public override string ToString() => Text;

    private static string? Fault(string text)
    {
        if (text.Length == 0) return "A path is empty.";
        // The replacement character and lone surrogates mean that the name was not readable text to begin with.
        if (text.EnumerateRunes().Any(r => !UnicodeText.IsLegible(r))) return "A path holds characters that no name may hold.";
        if (Encoding.UTF8.GetByteCount(text) > MaxBytes) return $"A path is longer than {MaxBytes} bytes.";
        var parts = text.Split('/', '\\');
        if (parts[0].Length == 0 || (parts[0].Length == 2 && parts[0][1] == ':')) return $"'{text}' is an absolute path; only paths inside the folder are taken.";
        foreach (var part in parts)
        {
            if (part is "." or "..") return $"'{text}' leads out of its folder.";
            if (part.Length == 0) return $"'{text}' has an empty part.";
            if (Encoding.UTF8.GetByteCount(part) > MaxPartBytes) return $"A name in a path is longer than {MaxPartBytes} bytes.";
        }
        return null;
    }
}
