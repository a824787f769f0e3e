namespace Chronotype.Web;

public static class Clock
{
    /// <summary>The present in the studio's own time zone, which is the server's.</summary>
    public static DateTimeOffset Here(this TimeProvider time) => time.GetLocalNow();

    public static DateTimeOffset Here(this TimeProvider time, DateTimeOffset at) => TimeZoneInfo.ConvertTime(at, time.LocalTimeZone);
}
