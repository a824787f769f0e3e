using System.Globalization;
using System.Text.RegularExpressions;
using System.Xml.Linq;

namespace Chronotype.Formats.Drawings;

/// <summary>How a text is set, as far as that is inherited (SVG 2, 11; CSS Fonts 4).</summary>
/// <param name="Family">The first that is asked for; empty for none.</param>
/// <param name="Size">In the drawing's units.</param>
/// <param name="Weight">1 to 1000.</param>
/// <param name="IsSlanted">Italic or oblique.</param>
/// <param name="Anchor"><c>start</c>, <c>middle</c> or <c>end</c>.</param>
/// <param name="LetterSpacing">Added behind each letter.</param>
/// <param name="WordSpacing">Added behind each space.</param>
/// <param name="KeepsSpaces">Spaces stand as they are written.</param>
/// <param name="Fill">As it is written.</param>
/// <param name="Stroke">As it is written.</param>
/// <param name="Unfollowed">What is set in a way that is not followed here, by its property; null for nothing.</param>
internal sealed partial record TextStyle(
    string Family,
    double Size,
    int Weight,
    bool IsSlanted,
    string Anchor,
    double LetterSpacing,
    double WordSpacing,
    bool KeepsSpaces,
    string Fill,
    string Stroke,
    string? Unfollowed
)
{
    private static readonly TextStyle Initial = new("", 16, 400, false, "start", 0, 0, false, "black", "none", null);

    // Each with the values that change nothing.
    private static readonly (string Property, string[] Plain)[] Others =
    [
        ("alignment-baseline", ["auto", "baseline", "alphabetic"]),
        ("baseline-shift", ["0", "baseline"]),
        ("direction", ["ltr"]),
        ("dominant-baseline", ["auto", "alphabetic"]),
        ("font-feature-settings", ["normal"]),
        ("font-kerning", ["auto", "normal"]),
        ("font-size-adjust", ["none"]),
        ("font-stretch", ["normal", "100%"]),
        ("font-variant", ["normal"]),
        ("font-variation-settings", ["normal"]),
        ("inline-size", ["0", "auto"]),
        ("lengthAdjust", ["spacing"]),
        ("rotate", ["0"]),
        ("shape-inside", ["none", "auto"]),
        ("text-decoration", ["none"]),
        ("text-decoration-line", ["none"]),
        ("textLength", []),
        ("text-transform", ["none"]),
        ("unicode-bidi", ["normal"]),
        ("writing-mode", ["horizontal-tb", "lr", "lr-tb"]),
    ];

    // CSS Fonts 4, 2.5, where medium is 16.
    private static readonly Dictionary<string, double> Sizes = new()
    {
        ["xx-small"] = 9.6,
        ["x-small"] = 12,
        ["small"] = 14.2,
        ["medium"] = 16,
        ["large"] = 19.2,
        ["x-large"] = 24,
        ["xx-large"] = 32,
    };

    /// <summary>What an element's text is set in, after all that it stands in.</summary>
    public static TextStyle Of(XElement element)
    {
        var style = Initial;
        foreach (var one in element.AncestorsAndSelf().Reverse())
            style = style.Within(one);
        return style;
    }

    /// <summary>As it is within an element.</summary>
    public TextStyle Within(XElement element)
    {
        var own = this;
        if (Said(element, "font") is { } shorthand)
        {
            var parts = Shorthand().Match(shorthand);
            own = parts.Success
                ? own with
                {
                    Size = Length(parts.Groups["size"].Value, Size) ?? Size,
                    Family = FirstOf(parts.Groups["family"].Value),
                    Weight = WeightOf(parts.Groups["weight"].Value, Weight) ?? 400,
                    IsSlanted = parts.Groups["slant"].Success,
                }
                : own with
                {
                    Unfollowed = "font",
                };
        }
        var size = own.Size;
        if (Said(element, "font-size") is { } asked)
        {
            if (Sizes.TryGetValue(asked, out var named))
                size = named;
            else if (asked.EndsWith('%') && double.TryParse(asked[..^1], CultureInfo.InvariantCulture, out var share))
                size = Size * share / 100;
            else if (Length(asked, Size) is { } exact)
                size = exact;
            else
                own = own with { Unfollowed = "font-size" };
        }
        return own with
        {
            Size = size,
            Family = Said(element, "font-family") is { } families ? FirstOf(families) : own.Family,
            Weight = Said(element, "font-weight") is { } weight ? WeightOf(weight, Weight) ?? own.Weight : own.Weight,
            IsSlanted = Said(element, "font-style") is { } slant
                ? slant.StartsWith("italic", StringComparison.Ordinal) || slant.StartsWith("oblique", StringComparison.Ordinal)
                : own.IsSlanted,
            Anchor = Said(element, "text-anchor") ?? own.Anchor,
            LetterSpacing = Spacing(element, "letter-spacing", size) ?? own.LetterSpacing,
            WordSpacing = Spacing(element, "word-spacing", size) ?? own.WordSpacing,
            KeepsSpaces =
                Said(element, "white-space") is { } spaces ? spaces is "pre" or "pre-wrap" or "break-spaces"
                : element.Attribute(XNamespace.Xml + "space")?.Value is { } kept ? kept == "preserve"
                : own.KeepsSpaces,
            Fill = Said(element, "fill") ?? own.Fill,
            Stroke = Said(element, "stroke") ?? own.Stroke,
            Unfollowed =
                own.Unfollowed
                ?? Others.FirstOrDefault(o => Said(element, o.Property) is { } value && !o.Plain.Contains(value.Trim())).Property,
        };
    }

    /// <summary>A length in the drawing's units (CSS Values 4, 6): without a unit, or in one that does not hang on what is around.</summary>
    /// <param name="size">What one <c>em</c> is.</param>
    /// <returns>Null where it is none, or hangs on something else.</returns>
    public static double? Length(string text, double size)
    {
        var number = SvgOutline.LeadingNumber().Match(text.Trim()).Value;
        if (!double.TryParse(number, CultureInfo.InvariantCulture, out var n) || !double.IsFinite(n))
            return null;
        return text.Trim()[number.Length..].ToLowerInvariant() switch
        {
            "" or "px" => n,
            "pt" => n * 96 / 72,
            "pc" => n * 16,
            "in" => n * 96,
            "cm" => n * 96 / 2.54,
            "mm" => n * 96 / 25.4,
            "q" => n * 96 / 101.6,
            "em" => n * size,
            _ => null,
        };
    }

    private static double? Spacing(XElement element, string property, double size) =>
        Said(element, property) is { } said ? (said == "normal" ? 0 : Length(said, size)) : null;

    private static int? WeightOf(string text, int above) =>
        text switch
        {
            "normal" => 400,
            "bold" => 700,
            "bolder" => above < 350 ? 400
            : above < 550 ? 700
            : 900,
            "lighter" => above < 550 ? 100
            : above < 750 ? 400
            : 700,
            _ => int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) && number is >= 1 and <= 1000
                ? number
                : null,
        };

    private static string FirstOf(string families) => families.Split(',')[0].Trim().Trim('"', '\'').Trim();

    private static string? Said(XElement element, string property) =>
        SvgOutline.Style(element, property) is { Length: > 0 } value && value != "inherit" ? value : null;

    [GeneratedRegex(
        @"^(?:(?<slant>italic|oblique)\s+|(?<weight>bold|bolder|lighter|\d{1,4})\s+|normal\s+)*(?<size>[\d.]+[a-zA-Z]*)(?:\s*/\s*\S+)?\s+(?<family>.+)$"
    )]
    private static partial Regex Shorthand();
}
