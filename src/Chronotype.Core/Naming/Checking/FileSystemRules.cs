using System.Globalization;
using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Core.Naming.Checking;

/// <summary>
/// What Windows, macOS or a zip would not take, whatever the convention. Sources: Microsoft, "Naming files, paths, and
/// namespaces"; Unicode Standard Annex 9 (direction marks) and Annex 15 (normal forms); ZIP APPNOTE 4.4.17 (names in entries).
/// </summary>
public static class FileSystemRules
{
    /// <summary>The most bytes that a name has in UTF-8 on the file systems of Linux and macOS.</summary>
    public const int MaxBytes = 255;

    /// <summary>The most characters of a whole path that Windows programs take without being told to.</summary>
    public const int MaxPath = 259;

    private static readonly HashSet<string> Devices = new(StringComparer.OrdinalIgnoreCase)
    {
        "CON",
        "PRN",
        "AUX",
        "NUL",
        "CONIN$",
        "CONOUT$",
        "COM0",
        "COM1",
        "COM2",
        "COM3",
        "COM4",
        "COM5",
        "COM6",
        "COM7",
        "COM8",
        "COM9",
        "COM¹",
        "COM²",
        "COM³",
        "LPT0",
        "LPT1",
        "LPT2",
        "LPT3",
        "LPT4",
        "LPT5",
        "LPT6",
        "LPT7",
        "LPT8",
        "LPT9",
        "LPT¹",
        "LPT²",
        "LPT³",
    };

    /// <summary>Whether Windows takes the name for a device, with or without an extension.</summary>
    public static bool IsDevice(string name)
    {
        var dot = name.IndexOf('.');
        var stem = (dot < 0 ? name : name[..dot]).TrimEnd(' ');
        return stem.Length is >= 3 and <= 7 && Devices.Contains(stem);
    }

    /// <summary>Adds every fault of a name, with its place.</summary>
    /// <param name="name">A file's name, without its folder.</param>
    /// <param name="folder">The path of the folder that it stands in, without a mark at its end; null where that is not known.</param>
    /// <param name="faults">Get what is found.</param>
    public static void Check(string name, string? folder, List<NameFault> faults)
    {
        if (name.Length == 0)
        {
            faults.Add(new(null, 0, 0, NameFaultCodes.Empty, "The name is empty."));
            return;
        }
        for (var i = 0; i < name.Length; )
        {
            // Nearly all characters of nearly all names need no second look.
            if (name[i] is >= ' ' and < (char)127 and not ('"' or '*' or '/' or ':' or '<' or '>' or '?' or '\\' or '|'))
            {
                i++;
                continue;
            }
            var length = char.IsHighSurrogate(name[i]) && i + 1 < name.Length && char.IsLowSurrogate(name[i + 1]) ? 2 : 1;
            if (Fault(name, i, length) is var (code, message))
                faults.Add(new(null, i, length, code, message));
            i += length;
        }
        if (IsDevice(name))
            faults.Add(
                new(
                    null,
                    0,
                    name.IndexOf('.') is var dot && dot > 0 ? dot : name.Length,
                    NameFaultCodes.DeviceName,
                    $"Windows keeps “{name.Split('.')[0].TrimEnd()}” for a device and takes no file of that name."
                )
            );
        if (name[^1] == '.')
            faults.Add(Tail(name, '.', NameFaultCodes.EndsInDot, "Windows drops dots at the end of a name."));
        if (name[^1] == ' ')
            faults.Add(Tail(name, ' ', NameFaultCodes.EndsInSpace, "Windows drops spaces at the end of a name."));
        var bytes = name.Length * 3 <= MaxBytes ? 0 : Encoding.UTF8.GetByteCount(name);
        if (bytes > MaxBytes)
            faults.Add(
                new(null, 0, name.Length, NameFaultCodes.NameTooLong, $"The name has {bytes:N0} bytes; file systems take {MaxBytes}.")
            );
        else if (folder is not null && folder.Length + 1 + name.Length > MaxPath)
            faults.Add(
                new(
                    null,
                    0,
                    name.Length,
                    NameFaultCodes.PathTooLong,
                    $"With its folder the name has {folder.Length + 1 + name.Length:N0} characters; many Windows programs open no "
                        + $"more than {MaxPath}."
                )
            );
    }

    /// <summary>Whether a character is drawn as nothing, turns the direction of text, or ends a line.</summary>
    public static bool IsUnseen(char c) =>
        c < ' '
        || c == 127
        || (
            c >= 128
            && WordLetters.Of(c) == 0
            && CharUnicodeInfo.GetUnicodeCategory(c)
                is UnicodeCategory.Control
                    or UnicodeCategory.Format
                    or UnicodeCategory.LineSeparator
                    or UnicodeCategory.ParagraphSeparator
                    or UnicodeCategory.NonSpacingMark
                    or UnicodeCategory.Surrogate
        );

    // Some scripts have marks that are letters of theirs, and are one with no other.
    private static bool IsLooseAccent(string name, int at) =>
        WordLetters.Of(name[at]) == 0 || (at > 0 && !char.IsSurrogate(name[at - 1]) && Composed(name, at).Length == 1);

    private static (string Code, string Message)? Fault(string name, int at, int length)
    {
        var c = name[at];
        if (length == 1 && char.IsSurrogate(c))
            return (
                NameFaultCodes.HalfCharacter,
                $"Half of a character stands here (a lone surrogate, U+{(int)c:X4}); no file system keeps it."
            );
        if (c is '\n' or '\r' or '\u0085' or '\u2028' or '\u2029')
            return (NameFaultCodes.LineBreak, "A line break stands in the name.");
        if (c is '/' or '\\' or ':' or '*' or '?' or '"' or '<' or '>' or '|')
            return (
                NameFaultCodes.RefusedCharacter,
                $"“{c}” cannot stand in a name: {(c == '/' ? "it parts folders everywhere" : c == ':' ? "Windows and macOS refuse "
                    + "it" : "Windows refuses it")}."
            );
        if (c is '\u200E' or '\u200F' or '\u061C' or (>= '\u202A' and <= '\u202E') or (>= '\u2066' and <= '\u2069'))
            return (
                NameFaultCodes.DirectionMark,
                $"A mark that turns the direction of text (U+{(int)c:X4}) makes the name read otherwise than it is."
            );
        var category = CharUnicodeInfo.GetUnicodeCategory(name, at);
        if (category == UnicodeCategory.Control)
            return (NameFaultCodes.Control, $"A control character (U+{(int)c:X4}) stands in the name.");
        if (category == UnicodeCategory.Format)
            return (NameFaultCodes.Invisible, $"A character that cannot be seen (U+{(int)c:X4}) stands in the name.");
        if (category == UnicodeCategory.NonSpacingMark && (length > 1 || IsLooseAccent(name, at)))
            return (
                NameFaultCodes.CombiningMark,
                $"An accent stands by itself (U+{(int)c:X4}): macOS and Windows write “{Composed(name, at)}” in different ways, so "
                    + $"the name may not be found again."
            );
        if (category is UnicodeCategory.PrivateUse or UnicodeCategory.OtherNotAssigned)
            return (NameFaultCodes.Character, $"U+{char.ConvertToUtf32(name, at):X4} is no character that others can read.");
        return null;
    }

    private static string Composed(string name, int at) =>
        at > 0 && !char.IsSurrogate(name[at - 1])
            ? UnicodeText.Normalized($"{name[at - 1]}{name[at]}", NormalizationForm.FormC)
            : $"{name[at]}";

    private static NameFault Tail(string name, char tail, string code, string message)
    {
        var at = name.AsSpan().TrimEnd(tail).Length;
        return new(null, at, name.Length - at, code, message);
    }
}
