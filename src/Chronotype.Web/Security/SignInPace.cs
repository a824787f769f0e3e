using System.Collections.Concurrent;
using System.Net;

namespace Chronotype.Web.Security;

/// <summary>
/// Slows guessing down, per address and per person, and locks nobody out: who guesses waits longer each time, and of one address
/// few are heard at once. A browser that a person signed in from before has a pace of its own, so that nobody else's guesses
/// stand in its way.
/// </summary>
public sealed class SignInPace(TimeProvider time)
{
    private const int FreeTries = 3,
        HeardAtOnce = 2,
        WaitingAtMost = 20,
        MostLanes = 10_000;
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(4),
        Forgotten = TimeSpan.FromMinutes(15);

    private readonly ConcurrentDictionary<string, Lane> lanes = new();

    internal sealed class Lane
    {
        public readonly SemaphoreSlim Heard = new(HeardAtOnce);
        public int Waiting,
            Failures;
        public DateTimeOffset LastFailure;
    }

    /// <summary>Lets a try be made when it is its turn.</summary>
    /// <param name="knownBrowser">What a browser brings that this person signed in from; null for any other.</param>
    /// <returns>What to say how it went to; null where too many wait already.</returns>
    public async Task<Turn?> WaitAsync(IPAddress? address, string initials, string? knownBrowser, CancellationToken cancel)
    {
        if (lanes.Count > MostLanes)
            Forget();
        var lane = Of(knownBrowser is null ? $"address {address}" : $"browser {knownBrowser}");
        var person = Of(knownBrowser is null ? $"person {initials}" : $"browser {knownBrowser}");
        if (Interlocked.Increment(ref lane.Waiting) > WaitingAtMost)
        {
            Interlocked.Decrement(ref lane.Waiting);
            return null;
        }
        try
        {
            await lane.Heard.WaitAsync(cancel);
        }
        finally
        {
            Interlocked.Decrement(ref lane.Waiting);
        }
        try
        {
            var wait = TimeSpan.FromMilliseconds(Math.Max(Milliseconds(lane), Milliseconds(person)));
            if (wait > TimeSpan.Zero)
                await Task.Delay(wait, time, cancel);
            return new Turn(this, lane, person);
        }
        catch
        {
            lane.Heard.Release();
            throw;
        }
    }

    /// <summary>A try that is being made.</summary>
    public sealed class Turn : IDisposable
    {
        private readonly SignInPace pace;
        private readonly Lane lane,
            person;

        internal Turn(SignInPace pace, Lane lane, Lane person) => (this.pace, this.lane, this.person) = (pace, lane, person);

        public void Failed()
        {
            foreach (var one in lane == person ? [lane] : new[] { lane, person })
            {
                Interlocked.Increment(ref one.Failures);
                one.LastFailure = pace.Now;
            }
        }

        public void Succeeded() => lane.Failures = person.Failures = 0;

        public void Dispose() => lane.Heard.Release();
    }

    private DateTimeOffset Now => time.GetUtcNow();

    private Lane Of(string key) => lanes.GetOrAdd(key, _ => new Lane());

    private double Milliseconds(Lane lane)
    {
        if (Now - lane.LastFailure > Forgotten)
            lane.Failures = 0;
        return lane.Failures < FreeTries ? 0 : Math.Min(Longest.TotalMilliseconds, 250 * Math.Pow(2, lane.Failures - FreeTries));
    }

    private void Forget()
    {
        foreach (var (key, lane) in lanes)
        {
            if (lane.Waiting == 0 && Now - lane.LastFailure > Forgotten)
                lanes.TryRemove(key, out _);
        }
    }
}
