using Chronotype.Storage.Connections;

namespace Chronotype.Storage.Tests;

public sealed class WriteTurnTests
{
    private readonly WriteTurn turn = new();

    [Fact]
    public async Task One_has_it_at_a_time_and_people_come_before_the_studio_but_not_for_ever()
    {
        var held = await turn.TakeAsync(comesFirst: true);
        var came = new List<string>();
        var all = new List<Task> { WriteAsync("studio", comesFirst: false) };
        for (var i = 0; i < 20; i++)
            all.Add(WriteAsync("person", comesFirst: true));
        Assert.Empty(came);
        held.Dispose();
        held.Dispose();
        await Task.WhenAll(all);
        Assert.Equal(21, came.Count);
        // It came last of those it could, and before the last of the people.
        Assert.Equal(8, came.IndexOf("studio"));

        async Task WriteAsync(string who, bool comesFirst)
        {
            using var mine = await turn.TakeAsync(comesFirst);
            came.Add(who);
            var count = came.Count;
            await Task.Delay(2);
            Assert.Equal(count, came.Count);
        }
    }

    [Fact]
    public async Task Who_goes_away_while_waiting_keeps_no_other_from_it()
    {
        var held = await turn.TakeAsync(comesFirst: true);
        using var cancel = new CancellationTokenSource();
        var gone = turn.TakeAsync(comesFirst: true, cancel.Token);
        var next = turn.TakeAsync(comesFirst: false);
        await cancel.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => gone);
        held.Dispose();
        (await next.WaitAsync(TimeSpan.FromSeconds(20))).Dispose();
        (await turn.TakeAsync(comesFirst: false).WaitAsync(TimeSpan.FromSeconds(20))).Dispose();
    }
}
