namespace Chronotype.Core.Naming;

/// <summary>
/// A print, paper or frame size with its unit: <c>420x594mm</c>, <c>8.5x11in</c>, <c>1920x1080px</c>, or a paper by its name: those of
/// ISO 216 and ISO 269 (<c>a0</c> to <c>c10</c>), and <c>letter</c>, <c>legal</c>, <c>tabloid</c>. A side has up to 6 digits, and up
/// to 2 behind the point in any unit but pixels.
/// </summary>
public sealed record SizeRule : SlotRule
{
    /// <summary>The units that a size may be in.</summary>
    public static readonly IReadOnlyList<string> Units = ["mm", "cm", "in", "px"];

    /// <summary>The papers that may stand by their names.</summary>
    public static readonly IReadOnlyList<string> Papers =
    [
        .. "abc".SelectMany(series => Enumerable.Range(0, 11).Select(i => $"{series}{i}")),
        "letter",
        "legal",
        "tabloid",
    ];

    /// <inheritdoc />
    public override string Kind => "size";

    /// <inheritdoc />
    public override string Holds => "a size such as 420x594mm, a2, 24x36in or 1920x1080px";

    /// <inheritdoc />
    public override SlotText Write(string label, string value)
    {
        var text = string.Concat(value.Where(c => c != ' ')).Replace('×', 'x').ToLowerInvariant();
        return IsSize(text) ? SlotText.Of(text) : SlotText.Wrong($"The {label} is a size such as 420x594mm, a2, 24x36in or 1920x1080px.");
    }

    /// <summary>Whether a text is a size as it stands in a name.</summary>
    public static bool IsSize(string text)
    {
        if (Papers.Contains(text))
            return true;
        if (text.Length < 5 || Units.FirstOrDefault(u => text.EndsWith(u, StringComparison.Ordinal)) is not { } unit)
            return false;
        var sides = text[..^2].Split('x');
        return sides.Length == 2 && sides.All(s => IsSide(s, unit != "px"));
    }

    private static bool IsSide(string side, bool fraction)
    {
        var parts = side.Split('.');
        return parts[0].Length is >= 1 and <= 6
            && parts[0][0] != '0'
            && parts[0].All(char.IsAsciiDigit)
            && (parts.Length == 1 || (fraction && parts.Length == 2 && parts[1].Length is 1 or 2 && parts[1].All(char.IsAsciiDigit)));
    }
}
