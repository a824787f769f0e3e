using System.Diagnostics.CodeAnalysis;
using System.Text;

namespace Chronotype.Core.Content;

/// <summary>Why a text is no path inside a piece or a project.</summary>
public enum PathFault
{
    /// <summary>There is nothing in it.</summary>
    Empty,

    /// <summary>It holds characters that no name may hold.</summary>
    Illegible,

    /// <summary>It is longer than <see cref="ProjectPath.MaxBytes"/>.</summary>
    TooLong,

    /// <summary>It begins at a root or a drive.</summary>
    Absolute,

    /// <summary>A part of it is <c>.</c> or <c>..</c>.</summary>
    LeadsOut,

    /// <summary>A folder or a file in it has no name.</summary>
    EmptyPart,

    /// <summary>A part of it is longer than <see cref="ProjectPath.MaxPartBytes"/>.</summary>
    PartTooLong,
}

/// <summary>A path inside a piece or a project: relative, with <c>/</c> between its parts, and never out of its place.</summary>
public sealed record ProjectPath
{
    /// <summary>The longest path, in bytes of UTF-8; a zip and most file systems take no more in practice.</summary>
    public const int MaxBytes = 1024;

    /// <summary>The longest part, in bytes of UTF-8.</summary>
    public const int MaxPartBytes = 255;

    private ProjectPath(string text) => Text = text;

    /// <summary>The whole path, with “/” between its parts.</summary>
    public string Text { get; }

    /// <summary>The last part.</summary>
    public string Name => Text[(Text.LastIndexOf('/') + 1)..];

    /// <summary>The folder that it stands in; null at the top.</summary>
    public ProjectPath? Folder => Text.LastIndexOf('/') is > 0 and var at ? new ProjectPath(Text[..at]) : null;

    /// <summary>How many folders it lies in.</summary>
    public int Depth => Text.Count(c => c == '/');

    /// <summary>
    /// Equal for paths that Windows and macOS, which do not tell cases apart, take for the same file. Unicode's simple case mapping
    /// of each character, in NFC.
    /// </summary>
    public string Key => Text.ToLowerInvariant();

    /// <exception cref="FormatException">The text is no path inside a project; the message says why.</exception>
    public static ProjectPath Parse(string text) =>
        TryParse(text, out var path, out var fault) ? path : throw new FormatException($"'{text}' is no path inside a project: {fault}.");

    /// <summary>A path one step further down.</summary>
    /// <exception cref="FormatException">They make no path together.</exception>
    public ProjectPath Append(string name) => Parse($"{Text}/{name}");

    /// <summary>Whether it lies in a folder, at any depth, in whichever capitals it names that.</summary>
    public bool IsIn(ProjectPath folder) =>
        Text.Length > folder.Text.Length && Text[folder.Text.Length] == '/' && Key.StartsWith(folder.Key, StringComparison.Ordinal);

    /// <summary>Reads a path as a zip or a browser gives it; backslashes count as separators.</summary>
    /// <param name="text">Any text.</param>
    /// <param name="path">The path in NFC, when it is legal.</param>
    /// <param name="fault">Why it is not.</param>
    public static bool TryParse(string text, [NotNullWhen(true)] out ProjectPath? path, [NotNullWhen(false)] out PathFault? fault)
    {
        path = null;
        fault = Fault(text);
        if (fault is not null)
            return false;
        path = new ProjectPath(text.Replace('\\', '/').Normalize(NormalizationForm.FormC));
        return true;
    }

    /// <inheritdoc />
    public override string ToString() => Text;

    private static PathFault? Fault(string text)
    {
        if (text.Length == 0)
            return PathFault.Empty;
        // The replacement character and lone surrogates mean that the name was not readable text to begin with.
        if (text.EnumerateRunes().Any(r => !UnicodeText.IsLegible(r)))
            return PathFault.Illegible;
        if (Encoding.UTF8.GetByteCount(text) > MaxBytes)
            return PathFault.TooLong;
        var parts = text.Split('/', '\\');
        if (parts[0].Length == 0 || (parts[0].Length == 2 && parts[0][1] == ':'))
            return PathFault.Absolute;
        foreach (var part in parts)
        {
            if (part is "." or "..")
                return PathFault.LeadsOut;
            if (part.Length == 0)
                return PathFault.EmptyPart;
            if (Encoding.UTF8.GetByteCount(part) > MaxPartBytes)
                return PathFault.PartTooLong;
        }
        return null;
    }
}
