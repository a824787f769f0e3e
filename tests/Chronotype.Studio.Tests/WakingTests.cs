using Chronotype.Studio.Share;
using Microsoft.Extensions.Time.Testing;

namespace Chronotype.Studio.Tests;

public sealed class WakingTests
{
    private readonly FakeTimeProvider time = new(new DateTimeOffset(2026, 3, 2, 9, 0, 0, TimeSpan.Zero));

    [Fact]
    public async Task It_wakes_who_waits_and_who_waits_after_it()
    {
        var waking = new Waking(time);
        var waits = waking.WaitAsync(TimeSpan.FromHours(1), default);
        Assert.False(waits.IsCompleted);
        waking.Wake();
        await OverAsync(waits);
        waking.Wake();
        waking.Wake();
        await OverAsync(waking.WaitAsync(TimeSpan.FromHours(1), default));
        // Once for all of them.
        Assert.False(waking.WaitAsync(TimeSpan.FromHours(1), default).IsCompleted);
    }

    [Fact]
    public async Task It_is_not_lost_at_the_moment_when_a_wait_is_over()
    {
        var waking = new Waking(time);
        for (var i = 0; i < 500; i++)
        {
            var waits = waking.WaitAsync(TimeSpan.FromSeconds(1), default);
            time.Advance(TimeSpan.FromSeconds(1));
            await OverAsync(waits);
            waking.Wake();
            await OverAsync(waking.WaitAsync(TimeSpan.FromHours(1), default));
        }
    }

    [Fact]
    public async Task A_wait_ends_with_what_it_is_part_of()
    {
        using var stop = new CancellationTokenSource();
        var waits = new Waking(time).WaitAsync(TimeSpan.FromHours(1), stop.Token);
        await stop.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => waits.WaitAsync(TimeSpan.FromSeconds(60)));
    }

    private static Task OverAsync(Task waits) => waits.WaitAsync(TimeSpan.FromSeconds(20));
}
