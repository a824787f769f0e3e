using System.Globalization;
using Chronotype.Core.Timeline;
using Chronotype.Core.Versions;

namespace Chronotype.Web.Words;

/// <summary>Times and sizes as people write them.</summary>
public static class DisplayText
{
    /// <summary>Decimal units, as drives are sold: 48.2 MB.</summary>
    public static string Size(long bytes) =>
        bytes switch
        {
            1 => "1 byte",
            < 1000 => $"{bytes} bytes",
            < 1_000_000 => Scaled(bytes / 1e3, "kB"),
            < 1_000_000_000 => Scaled(bytes / 1e6, "MB"),
            < 1_000_000_000_000 => Scaled(bytes / 1e9, "GB"),
            _ => Scaled(bytes / 1e12, "TB"),
        };

    /// <summary>How whoever asks for the page writes dates.</summary>
    public static DatePatterns Dates => DateChoice.Now;

    /// <summary>A stretch of time in its two greatest units at most: 38 min, 2 h 5 min, 6 days.</summary>
    public static string Span(TimeSpan span) =>
        span switch
        {
            { TotalMinutes: < 1 } => "under a minute",
            { TotalHours: < 1 } => $"{(int)span.TotalMinutes} min",
            { TotalHours: < 24 } => span.Minutes == 0 ? $"{(int)span.TotalHours} h" : $"{(int)span.TotalHours} h {span.Minutes} min",
            { TotalDays: < 2 } => "1 day",
            _ => $"{(int)span.TotalDays} days",
        };

    /// <summary>A moment as one would say it today: 14:05, yesterday 14:05, Tue 3 Mar 14:05, 3 Mar 2024.</summary>
    public static string Moment(DateTimeOffset at, DateTimeOffset now)
    {
        var days = (now.Date - at.Date).Days;
        return days switch
        {
            0 => at.ToString("HH:mm", CultureInfo.InvariantCulture),
            1 => at.ToString("'yesterday' HH:mm", CultureInfo.InvariantCulture),
            > 1 and < 300 =>
                $"{Dates.Named(DateOnly.FromDateTime(at.DateTime), at.Year)} {at.ToString("HH:mm", CultureInfo.InvariantCulture)}",
            _ => at.ToString(Dates.Year, CultureInfo.InvariantCulture),
        };
    }

    /// <summary>A time in a sound, in minutes and seconds to the tenth: 1:05.3. What rounds to a minute is told as one.</summary>
    public static string Clock(double seconds)
    {
        var tenths = (long)Math.Round(seconds * 10);
        return $"{tenths / 600}:{tenths % 600 / 10:00}.{tenths % 10}";
    }

    public static string Exact(DateTimeOffset at) => at.ToString("yyyy-MM-dd HH:mm:ss zzz", CultureInfo.InvariantCulture);

    /// <summary>A version's number as people say it.</summary>
    public static string Version(int number) => new VersionNumber(number).ToString();

    public static string Count(int count, string one, string many) => count == 1 ? $"1 {one}" : $"{count:N0} {many}";

    public static string Percent(double share) =>
        share switch
        {
            0 => "0%",
            < 0.01 => "<1%",
            _ => $"{share * 100:0}%",
        };

    /// <summary>A number for SVG.</summary>
    public static string N(double value) => value.ToString("0.##", CultureInfo.InvariantCulture);

    private static string Scaled(double value, string unit) =>
        $"{value.ToString(value < 10 ? "0.##" : value < 100 ? "0.#" : "0", CultureInfo.InvariantCulture)} {unit}";
}
