namespace Chronotype.Demo;

/// <summary>A clock that the demo sets, so that its history lies in the days before it is made.</summary>
internal sealed class DemoTime(DateTimeOffset now) : TimeProvider
{
    private DateTimeOffset at = now;

    public DateTimeOffset MadeAt { get; } = now;

    public void Set(DateTimeOffset time) => at = time;

    public override DateTimeOffset GetUtcNow() => at;
}
