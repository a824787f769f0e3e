using Chronotype.Core.Readers;
using Chronotype.Storage;

namespace Chronotype.Studio.Readers;

/// <summary>For whom a job is done.</summary>
public enum ReaderTurn
{
    /// <summary>Somebody looks at a page and waits.</summary>
    Waiting,

    /// <summary>Nobody waits.</summary>
    Background,
}

/// <summary>
/// The reader processes, and whose turn it is: what somebody waits for goes before background work, of which one reader always
/// stays free; and pieces take turns, each with one reader at a time, so that no piece's trouble is another's.
/// </summary>
public sealed class ReaderPool(ReaderLimits limits, DataFolder data) : IDisposable
{
    private readonly Lock gate = new();
    private readonly List<Place> queue = [];
    private readonly Dictionary<Guid, long> lastServed = [];
    private readonly HashSet<Guid> served = [];
    private readonly Stack<ReaderProcess> idle = new();
    private readonly CancellationTokenSource closing = new();
    private int running, inBackground;
    private long turns;

    private sealed record Place(Guid Subject, ReaderTurn Turn, TaskCompletionSource Begin);

    /// <summary>Does a job when its turn comes.</summary>
    /// <param name="subject">The piece that it is for.</param>
    /// <param name="open">Opens the contents, seekable, once for each try.</param>
    /// <exception cref="TooHeavyException">It took more than it may, twice.</exception>
    /// <exception cref="IOException">A content could not be read, or no reader be had; it may be tried again.</exception>
    public async Task<(ReaderAnswer Answer, ReadOnlyMemory<byte> Drawing)> DoAsync(
        ReaderJob job, Guid subject, ReaderTurn turn, Func<IReadOnlyList<Stream>> open, CancellationToken cancel = default)
    {
        using var ends = CancellationTokenSource.CreateLinkedTokenSource(cancel, closing.Token);
        try
        {
            return await TryAsync(job, subject, turn, open, isFresh: false, ends.Token);
        }
        catch (ReaderProcess.LimitException)
        {
            // It may have been what was read before it, or what else the machine had to do: once more, with nothing beside it.
        }
        try
        {
            return await TryAsync(job, subject, turn, open, isFresh: true, ends.Token);
        }
        catch (ReaderProcess.LimitException e)
        {
            throw new TooHeavyException(e.Message);
        }
    }

    public void Dispose()
    {
        closing.Cancel();
        lock (gate)
        {
            while (idle.TryPop(out var reader)) reader.Dispose();
        }
    }

    private async Task<(ReaderAnswer, ReadOnlyMemory<byte>)> TryAsync(
        ReaderJob job, Guid subject, ReaderTurn turn, Func<IReadOnlyList<Stream>> open, bool isFresh, CancellationToken cancel)
    {
        await BeginAsync(subject, turn, cancel);
        try
        {
            return await Task.Factory.StartNew(() => Do(job, open, isFresh, cancel), CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
        }
        finally
        {
            End(subject, turn);
        }
    }

    private (ReaderAnswer, ReadOnlyMemory<byte>) Do(ReaderJob job, Func<IReadOnlyList<Stream>> open, bool isFresh, CancellationToken cancel)
    {
        var sources = open();
        ReaderProcess? reader = null;
        try
        {
            cancel.ThrowIfCancellationRequested();
            reader = Take(isFresh);
            var lengths = sources.Select(s => s.Length).ToList();
            var (answer, drawing) = reader.Do(job with { Lengths = lengths, ProcessorSeconds = limits.ProcessorSecondsFor(lengths.Sum()) }, sources, cancel);
            return answer.Fault is null ? (answer, drawing) : throw new ReaderFailedException($"The file could not be read just now ({answer.Fault}).");
        }
        finally
        {
            foreach (var source in sources) source.Dispose();
            if (reader is not null) GiveBack(reader);
        }
    }

    private ReaderProcess Take(bool isFresh)
    {
        lock (gate)
        {
            if (!isFresh && idle.TryPop(out var warm)) return warm;
        }
        return new ReaderProcess(limits, data.Scratch);
    }

    private void GiveBack(ReaderProcess reader)
    {
        lock (gate)
        {
            if (reader.IsFit && !closing.IsCancellationRequested && idle.Count < limits.Readers)
            {
                idle.Push(reader);
                return;
            }
        }
        reader.Dispose();
    }

    private async Task BeginAsync(Guid subject, ReaderTurn turn, CancellationToken cancel)
    {
        var place = new Place(subject, turn, new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously));
        lock (gate)
        {
            queue.Add(place);
            BeginNext();
        }
        await using var leaving = cancel.Register(() => Leave(place, cancel));
        await place.Begin.Task;
    }

    // What was asked for by somebody who went away is not begun at all.
    private void Leave(Place place, CancellationToken cancel)
    {
        lock (gate)
        {
            if (queue.Remove(place)) place.Begin.TrySetCanceled(cancel);
        }
    }

    private void End(Guid subject, ReaderTurn turn)
    {
        lock (gate)
        {
            served.Remove(subject);
            running--;
            if (turn == ReaderTurn.Background) inBackground--;
            BeginNext();
        }
    }

    private void BeginNext()
    {
        while (running < limits.Readers && Next() is { } next)
        {
            queue.Remove(next);
            served.Add(next.Subject);
            running++;
            if (next.Turn == ReaderTurn.Background) inBackground++;
            lastServed[next.Subject] = ++turns;
            if (lastServed.Count > 10_000) lastServed.Clear();
            next.Begin.TrySetResult();
        }
    }

    // Of those that may begin, who waits goes first, then the piece that was served longest ago, then who came first.
    private Place? Next()
    {
        var mayBackground = inBackground < Math.Max(1, limits.Readers - 1);
        return queue.Where(p => !served.Contains(p.Subject) && (p.Turn == ReaderTurn.Waiting || mayBackground))
            .MinBy(p => (p.Turn, lastServed.GetValueOrDefault(p.Subject)));
    }
}
