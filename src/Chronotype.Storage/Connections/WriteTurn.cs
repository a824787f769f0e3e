namespace Chronotype.Storage.Connections;

/// <summary>
/// Whose turn it is to write the records, among all of one process. SQLite lets one write at a time, and has others look again after
/// pauses that grow to 100 ms (sqlite3_busy_timeout), whoever came first; here they stand in line, and deeds of people come before what
/// the studio does by itself. What is right does not depend on it: who has waited too long goes on, and waits as SQLite has it.
/// </summary>
public sealed class WriteTurn
{
    // So many deeds of people in a row, and one of the studio's waits no longer.
    private const int MostInARow = 8;

    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(10);

    private readonly Lock gate = new();
    private readonly Queue<TaskCompletionSource> first = new(),
        later = new();
    private bool isTaken;
    private int inARow;

    /// <summary>Waits for the turn.</summary>
    /// <param name="comesFirst">It is a person's deed.</param>
    /// <returns>Ends the turn when it is disposed of.</returns>
    /// <exception cref="OperationCanceledException">It was asked to end while it waited.</exception>
    public async Task<IDisposable> TakeAsync(bool comesFirst, CancellationToken cancel = default)
    {
        var place = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        lock (gate)
        {
            if (!isTaken)
            {
                isTaken = true;
                return new Turn(this);
            }
            (comesFirst ? first : later).Enqueue(place);
        }
        try
        {
            await place.Task.WaitAsync(Longest, cancel);
        }
        // Whoever gives turns out has given this one, or passes over it.
        catch (TimeoutException) when (place.TrySetCanceled(CancellationToken.None))
        {
            return new Turn(null);
        }
        catch (OperationCanceledException) when (place.TrySetCanceled(CancellationToken.None))
        {
            throw;
        }
        catch (Exception e) when (e is TimeoutException or OperationCanceledException)
        {
            // It came in this very moment.
        }
        return new Turn(this);
    }

    private void End()
    {
        lock (gate)
        {
            while (first.Count + later.Count > 0)
            {
                var isFirst = first.Count > 0 && (later.Count == 0 || inARow < MostInARow);
                inARow = isFirst ? inARow + 1 : 0;
                if ((isFirst ? first : later).Dequeue().TrySetResult())
                    return;
            }
            isTaken = false;
        }
    }

    private sealed class Turn(WriteTurn? of) : IDisposable
    {
        private WriteTurn? of = of;

        public void Dispose() => Interlocked.Exchange(ref of, null)?.End();
    }
}
