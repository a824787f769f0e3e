namespace Chronotype.Core.Naming;

/// <summary>What one slot of a name may hold. Each rule checks one value and writes it as it stands in a name.</summary>
public abstract record SlotRule
{
    /// <summary>Writes <paramref name="value"/> as it stands in a name, or says why it cannot stand there.</summary>
    /// <returns>The text (never empty) and no fault, or no text and a sentence that begins with the slot's label.</returns>
    public abstract SlotText Write(string label, string value);
}

/// <summary>The text of one slot, or the sentence that says what is wrong with its value.</summary>
public readonly record struct SlotText(string? Text, string? Fault)
{
    public static SlotText Of(string text) => new(text, null);
    public static SlotText Wrong(string fault) => new(null, fault);
}

/// <summary>One of a list of codes that the studio keeps: 1 to 12 ASCII letters and digits, so that no code can hold a join mark.</summary>
/// <param name="List">The name of the list, such as <c>client</c> or <c>function</c>. Membership is the studio's to check.</param>
public sealed record CodeRule(string List) : SlotRule
{
    public const int MaxLength = 12;

    public static bool IsCode(string value) =>
        value.Length is >= 1 and <= MaxLength && value.All(char.IsAsciiLetterOrDigit);

    public override SlotText Write(string label, string value) => IsCode(value)
        ? SlotText.Of(value)
        : SlotText.Wrong($"The {label} is a code of 1 to {MaxLength} letters and digits, without accents, spaces or marks.");
}

/// <summary>Free words, folded to plain lower case and joined by a mark of their own.</summary>
/// <param name="MaxLength">The most characters that stand in a name; longer words are cut at a word's end.</param>
/// <param name="Joiner">Stands between two words; differs from every slot's join mark.</param>
public sealed record WordsRule(int MaxLength = 40, char Joiner = '-') : SlotRule
{
    public override SlotText Write(string label, string value)
    {
        var folded = Words.Fold(value, Joiner, MaxLength);
        return folded.Length > 0
            ? SlotText.Of(folded)
            : SlotText.Wrong($"The {label} needs at least one letter or digit.");
    }
}

/// <summary>A version's number in digits.</summary>
/// <param name="Width">The fewest digits; a greater number grows past it and never wraps.</param>
/// <param name="Start">The first number of a line: 0 or 1.</param>
/// <param name="Lead">Letters before the digits, or empty.</param>
public sealed record VersionRule(int Width = 3, int Start = 1, string Lead = "") : SlotRule
{
    public override SlotText Write(string label, string value) => Digits.Write(label, value, Lead, Width);
}

/// <summary>A milestone's number in digits, counted in a series of the piece that begins at 1.</summary>
public sealed record MilestoneRule(int Width = 2, string Lead = "M") : SlotRule
{
    public override SlotText Write(string label, string value) => Digits.Write(label, value, Lead, Width);
}

/// <summary>The initials of the person who keeps a version: 2 to 4 ASCII capitals, unique in the studio.</summary>
public sealed record HandRule : SlotRule
{
    public static bool AreInitials(string value) => value.Length is >= 2 and <= 4 && value.All(char.IsAsciiLetterUpper);

    public override SlotText Write(string label, string value) => AreInitials(value)
        ? SlotText.Of(value)
        : SlotText.Wrong($"The {label} is a person's initials: 2 to 4 capital letters, A to Z.");
}

internal static class Digits
{
    public static SlotText Write(string label, string value, string lead, int width) =>
        value.Length > 0 && value.All(char.IsAsciiDigit)
            ? SlotText.Of(lead + value.TrimStart('0').PadLeft(width, '0'))
            : SlotText.Wrong($"The {label} is a number in digits.");
}
