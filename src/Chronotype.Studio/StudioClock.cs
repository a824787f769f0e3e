namespace Chronotype.Studio;

/// <summary>
/// The studio's own time, which is that of the zone it stands in: the one place where what is recorded in UTC becomes a local
/// time or a day.
/// </summary>
public sealed class StudioClock(TimeProvider time)
{
    public TimeZoneInfo Zone => time.LocalTimeZone;

    public DateTimeOffset Now => time.GetLocalNow();

    public DateTimeOffset UtcNow => time.GetUtcNow();

    public DateOnly Today => DateOnly.FromDateTime(Now.DateTime);

    /// <summary>A moment in the studio's time.</summary>
    public DateTimeOffset At(DateTimeOffset moment) => TimeZoneInfo.ConvertTime(moment, Zone);

    /// <summary>The day that a moment lies in here.</summary>
    public DateOnly DayOf(DateTimeOffset moment) => DateOnly.FromDateTime(At(moment).DateTime);
}
