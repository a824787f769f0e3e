namespace Chronotype.Core.Timeline;

/// <summary>
/// Estimates how wide text is drawn in the strip's narrow face, on the safe side, since the server has no screen to measure on.
/// </summary>
public static class TextWidth
{
    /// <returns>Pixels at a size of <paramref name="size"/> pixels.</returns>
    public static double Of(string text, double size) => text.EnumerateRunes().Sum(r => Em(r.Value)) * size;

    /// <summary>As much of a text as fits, with an ellipsis where it was cut.</summary>
    public static string Fit(string text, double width, double size)
    {
        if (Of(text, size) <= width)
            return text;
        var room = width - Em('…') * size;
        var length = 0;
        foreach (var rune in text.EnumerateRunes())
        {
            room -= Em(rune.Value) * size;
            if (room < 0)
                break;
            length += rune.Utf16SequenceLength;
        }
        return text[..length].TrimEnd() + "…";
    }

    private static double Em(int rune) =>
        rune switch
        {
            'i' or 'j' or 'l' or 'I' or '.' or ',' or ':' or ';' or '\'' or '|' or '!' or ' ' => 0.27,
            'f' or 't' or 'r' or '-' or '(' or ')' => 0.36,
            'm' or 'w' or 'M' or 'W' or '…' or '@' or '%' => 0.86,
            >= 'A' and <= 'Z' => 0.62,
            < 0x250 => 0.53,
            < 0x2E80 => 0.66,
            _ => 1.05,
        };
}
