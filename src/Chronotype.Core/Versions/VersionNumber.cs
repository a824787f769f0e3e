using System.Globalization;

namespace Chronotype.Core.Versions;

/// <summary>The number of a version on its line: 0 or greater, given once and never again.</summary>
public readonly record struct VersionNumber : IComparable<VersionNumber>
{
    /// <exception cref="ArgumentOutOfRangeException"><paramref name="value"/> is negative.</exception>
    public VersionNumber(int value)
    {
        ArgumentOutOfRangeException.ThrowIfNegative(value);
        Value = value;
    }

    /// <summary>The number itself.</summary>
    public int Value { get; }

    /// <summary>The highest number ever used on the line plus one, or <paramref name="start"/> on a new line.</summary>
    /// <param name="highest">The highest ever used, also by versions that are gone; null on a new line.</param>
    /// <param name="start">The first number: 0 or 1.</param>
    public static VersionNumber Next(VersionNumber? highest, int start) => new(highest is { } h ? h.Value + 1 : start);

    /// <inheritdoc />
    public int CompareTo(VersionNumber other) => Value.CompareTo(other.Value);

    /// <summary>In three digits, or more where it has more: how people say it outside a name.</summary>
    public override string ToString() => Value.ToString("D3", CultureInfo.InvariantCulture);

    /// <summary>Whether the first comes before the second.</summary>
    public static bool operator <(VersionNumber a, VersionNumber b) => a.Value < b.Value;

    /// <summary>Whether the first comes after the second.</summary>
    public static bool operator >(VersionNumber a, VersionNumber b) => a.Value > b.Value;

    /// <summary>Whether the first comes before the second, or is the same.</summary>
    public static bool operator <=(VersionNumber a, VersionNumber b) => a.Value <= b.Value;

    /// <summary>Whether the first comes after the second, or is the same.</summary>
    public static bool operator >=(VersionNumber a, VersionNumber b) => a.Value >= b.Value;
}
