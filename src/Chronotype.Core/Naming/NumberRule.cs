using System.Globalization;

namespace Chronotype.Core.Naming;

/// <summary>A number in digits: padded with zeros to its width, and past it growing, never wrapping.</summary>
/// <param name="Width">The fewest digits, 1 to 9.</param>
/// <param name="Start">The least number that stands in a name: 0 or 1.</param>
/// <param name="Lead">Letters before the digits, at most 8, or empty.</param>
public abstract record NumberRule(int Width, int Start, string Lead) : SlotRule
{
    /// <summary>The most digits a number may have.</summary>
    public const int MaxDigits = 9;

    /// <summary>How the first number stands in a name.</summary>
    public string First => Text(Start);

    /// <inheritdoc />
    public override string Holds => $"{(Lead.Length > 0 ? $"“{Lead}” and " : "")}a number in {Width} digits or more, from {First}";

    /// <inheritdoc />
    public override SlotText Write(string label, string value)
    {
        if (value.Length == 0 || !value.All(char.IsAsciiDigit))
            return SlotText.Wrong($"The {label} is a number in digits.");
        var digits = value.TrimStart('0');
        if (digits.Length > MaxDigits)
            return SlotText.Wrong($"The {label} has at most {MaxDigits} digits.");
        if (digits.Length == 0 && Start > 0)
            return SlotText.Wrong($"The {label} begins at {First}.");
        return SlotText.Of(Lead + digits.PadLeft(Width, '0'));
    }

    /// <summary>The number in plain digits: <c>14</c> of <c>v014</c>.</summary>
    public override string Read(string text)
    {
        var digits = text.AsSpan(Lead.Length).TrimStart('0');
        return digits.Length == 0 ? "0" : digits.ToString();
    }

    private string Text(int number) => Lead + number.ToString("D" + Width, CultureInfo.InvariantCulture);
}

/// <summary>A version's number, counted on its line.</summary>
public sealed record VersionRule(int Width = 3, int Start = 1, string Lead = "") : NumberRule(Width, Start, Lead)
{
    /// <inheritdoc />
    public override string Kind => "version";

    /// <inheritdoc />
    public override string ToString() => base.ToString()!;
}

/// <summary>A milestone's number, counted in a series of the piece that begins at 1.</summary>
public sealed record MilestoneRule(int Width = 2, string Lead = "M") : NumberRule(Width, 1, Lead)
{
    /// <inheritdoc />
    public override string Kind => "milestone";

    /// <inheritdoc />
    public override string ToString() => base.ToString()!;
}

/// <summary>A number that is not the version: of a scene, a shot, a track, a page, an episode.</summary>
/// <param name="Width">The fewest digits, 1 to 9.</param>
/// <param name="Lead">Letters before the digits; empty for none.</param>
/// <param name="Step">How far one lies from the next where they are counted on, 1 to 1000: a step of 10 leaves room between.</param>
public sealed record CountRule(int Width = 3, string Lead = "", int Step = 1) : NumberRule(Width, 0, Lead)
{
    /// <summary>The widest step.</summary>
    public const int MaxStep = 1000;

    /// <inheritdoc />
    public override string Kind => "number";

    /// <summary>Also as people write it, with its lead and in whatever case.</summary>
    public override SlotText Write(string label, string value)
    {
        var isLed = Lead.Length > 0 && value.Length > Lead.Length && value.StartsWith(Lead, StringComparison.OrdinalIgnoreCase);
        return base.Write(label, isLed ? value[Lead.Length..] : value);
    }

    /// <summary>The number that comes after some: the next whole step above the highest.</summary>
    /// <param name="used">In any order; none before the first.</param>
    public int Next(IEnumerable<int> used) => (used.DefaultIfEmpty(0).Max() / Step + 1) * Step;

    /// <inheritdoc />
    public override string ToString() => base.ToString()!;
}
