using System.Globalization;

namespace Chronotype.Core.Timeline;

/// <summary>How a person writes dates, as patterns of .NET; names of months and days are English.</summary>
/// <param name="Day">A day of this year: <c>d MMM</c>.</param>
/// <param name="Year">A day of any year: <c>d MMM yyyy</c>.</param>
public sealed record DatePatterns(string Day, string Year)
{
    /// <summary>24 Nov 2026.</summary>
    public static readonly DatePatterns DayFirst = new("d MMM", "d MMM yyyy");

    /// <summary>Nov 24, 2026.</summary>
    public static readonly DatePatterns MonthFirst = new("MMM d", "MMM d, yyyy");

    /// <summary>2026-11-24, as ISO 8601 says.</summary>
    public static readonly DatePatterns YearFirst = new("MM-dd", "yyyy-MM-dd");

    /// <summary>A day.</summary>
    /// <param name="date">The day.</param>
    /// <param name="thisYear">A day of this year is written without it.</param>
    public string Of(DateOnly date, int thisYear) => date.ToString(date.Year == thisYear ? Day : Year, CultureInfo.InvariantCulture);

    /// <summary>A day with the name of the day of the week before it.</summary>
    /// <param name="date">The day.</param>
    /// <param name="thisYear">As for <see cref="Of"/>.</param>
    public string Named(DateOnly date, int thisYear) => $"{date.ToString("ddd", CultureInfo.InvariantCulture)} {Of(date, thisYear)}";

    /// <summary>From one day to another of the same year, without the year.</summary>
    /// <param name="first">The first day.</param>
    /// <param name="last">The last day, not before the first.</param>
    public string Range(DateOnly first, DateOnly last)
    {
        var to = last.ToString(Day, CultureInfo.InvariantCulture);
        if (first == last)
            return to;
        return first.Month == last.Month && Day == DayFirst.Day
            ? $"{first.Day}–{to}"
            : $"{first.ToString(Day, CultureInfo.InvariantCulture)}–{to}";
    }
}
