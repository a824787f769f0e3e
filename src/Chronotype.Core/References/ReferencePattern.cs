using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Chronotype.Core.Content;

namespace Chronotype.Core.References;

/// <summary>Why a pattern is none.</summary>
public enum PatternFault
{
    /// <summary>It does not say where the file stands.</summary>
    NoFile,

    /// <summary>It says so several times.</summary>
    SeveralFiles,

    /// <summary>It is longer than <see cref="ReferencePattern.MaxLength"/>, or spans lines.</summary>
    TooLong,

    /// <summary>What is no ending of a file: a dot, and 1 to 16 letters of ASCII or digits.</summary>
    Ending,

    /// <summary>Files with that ending are read for what they refer to already.</summary>
    IsRead,
}

/// <summary>A link that a pattern found in a text.</summary>
/// <param name="At">Where its first letter stands, from 0.</param>
/// <param name="Length">In letters, as it stands there.</param>
/// <param name="Written">What it says: in XML with its entities resolved.</param>
/// <param name="Line">From 1.</param>
public readonly record struct FoundLink(int At, int Length, string Written, int Line);

/// <summary>
/// How a text format of a studio's own says what a file refers to: a piece of one of its lines, with <see cref="FileMark"/> where the path
/// stands, <c>*</c> for anything, and a space for any space or none. Paths are read letter by letter, from where the file stands.
/// </summary>
/// <param name="Ending">Of the format's files, with its dot, in lower case.</param>
/// <param name="Line">Such as <c>texture = "{file}"</c>.</param>
public sealed partial record ReferencePattern(string Ending, string Line)
{
    /// <summary>Stands where the path stands.</summary>
    public const string FileMark = "{file}";

    /// <summary>In letters.</summary>
    public const int MaxLength = 200;

    private static readonly string[] Read = [".svg", ".gltf", ".glb", ".otio"];

    // What is written for people to read refers to nothing that has to be there.
    private static readonly HashSet<string> Prose = [".txt", ".md", ".csv", ".srt", ".vtt", ".log"];

    /// <summary>Says what is wrong with it; null for nothing.</summary>
    public PatternFault? Fault()
    {
        if (
            Ending.Length is < 2 or > 17
            || Ending[0] != '.'
            || !Ending.Skip(1).All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c))
        )
            return PatternFault.Ending;
        if (Read.Contains(Ending))
            return PatternFault.IsRead;
        if (Line.Length > MaxLength || Line.AsSpan().IndexOfAny('\r', '\n') >= 0)
            return PatternFault.TooLong;
        return (Line.Split(FileMark).Length - 1) switch
        {
            0 => PatternFault.NoFile,
            1 => null,
            _ => PatternFault.SeveralFiles,
        };
    }

    /// <summary>Whether what a text refers to is unknown as long as no pattern says how it is written.</summary>
    /// <param name="ending">With its dot, in lower case.</param>
    /// <param name="patterns">Those of the studio.</param>
    public static bool IsUnknown(string ending, IReadOnlyCollection<ReferencePattern> patterns) =>
        !Prose.Contains(ending) && patterns.All(p => p.Ending != ending);

    /// <summary>Finds the links of a text, in time that grows with its length alone.</summary>
    /// <exception cref="InvalidOperationException">The pattern has a <see cref="Fault"/>.</exception>
    public IEnumerable<FoundLink> Find(string text)
    {
        var expression = Expression();
        var isXml = IsXml(text);
        var (line, counted) = (1, 0);
        for (var match = expression.Match(text); match.Success; match = match.NextMatch())
        {
            var found = match.Groups[1];
            line += text.AsSpan(counted, found.Index - counted).Count('\n');
            counted = found.Index;
            // Spaces at the end of a line are no part of a path.
            var value = Line.EndsWith(FileMark, StringComparison.Ordinal) ? found.Value.TrimEnd(' ', '\t') : found.Value;
            var written = isXml ? Entity().Replace(value, Resolved) : value;
            if (written.Length is > 0 and <= ReferenceFacts.Most)
                yield return new FoundLink(found.Index, value.Length, written, line);
        }
    }

    /// <summary>What is to stand in a text for a path.</summary>
    public static string Write(string text, string path) =>
        IsXml(text)
            ? path.Replace("&", "&amp;", StringComparison.Ordinal)
                .Replace("<", "&lt;", StringComparison.Ordinal)
                .Replace(">", "&gt;", StringComparison.Ordinal)
                .Replace("\"", "&quot;", StringComparison.Ordinal)
                .Replace("'", "&apos;", StringComparison.Ordinal)
            : path;

    // XML 1.0, 4.1 and 4.6. What is no entity of every file stays as it is written.
    [GeneratedRegex("&(?:#([0-9]{1,7})|#x([0-9A-Fa-f]{1,6})|(amp|lt|gt|quot|apos));", RegexOptions.NonBacktracking)]
    private static partial Regex Entity();

    private static string Resolved(Match entity)
    {
        if (entity.Groups[3].Success)
            return entity.Groups[3].Value switch
            {
                "amp" => "&",
                "lt" => "<",
                "gt" => ">",
                "quot" => "\"",
                _ => "'",
            };
        var code = entity.Groups[1].Success
            ? int.Parse(entity.Groups[1].Value, CultureInfo.InvariantCulture)
            : int.Parse(entity.Groups[2].Value, NumberStyles.HexNumber, CultureInfo.InvariantCulture);
        return Rune.TryCreate(code, out var rune) ? rune.ToString() : entity.Value;
    }

    private static bool IsXml(string text) => text.AsSpan().TrimStart("\uFEFF \t\r\n").StartsWith("<");

    private Regex Expression()
    {
        if (Fault() is { } fault)
            throw new InvalidOperationException($"“{Line}” for {Ending} is no pattern: {fault}.");
        var at = Line.IndexOf(FileMark, StringComparison.Ordinal);
        var (before, after) = (Line[..at].TrimStart(), Line[(at + FileMark.Length)..].TrimEnd());
        // A path ends where what stands behind it begins; at a space only where one stands there, and at the line's end in any case.
        var end =
            after.Length == 0 ? ""
            : after[0] is ' ' or '*' ? @" \t"
            : Regex.Escape(after[..1]).Replace("]", @"\]", StringComparison.Ordinal);
        var path = $@"([^{end}\r\n]+)";
        var whole = (before.Length == 0 ? @"^[ \t]*" : Escaped(before)) + path + (after.Length == 0 ? @"\r*$" : Escaped(after));
        return new Regex(whole, RegexOptions.NonBacktracking | RegexOptions.Multiline | RegexOptions.CultureInvariant);
    }

    private static string Escaped(string literal)
    {
        var escaped = new StringBuilder();
        foreach (var letter in literal)
            escaped.Append(
                letter switch
                {
                    '*' => @"[^\r\n]*",
                    ' ' => @"[ \t]*",
                    _ => Regex.Escape(letter.ToString()),
                }
            );
        return escaped.ToString();
    }
}
