namespace Chronotype.Storage.Connections;

/// <summary>
/// The line of writers of the records, in one process. SQLite admits one writer; others poll, each with a thread and in pauses that grow
/// to 100 ms (sqlite3_busy_timeout), and the last to come may win. Here writers stand in line without a thread, deeds of people before the
/// studio's own. The turn is for speed alone: SQLite still excludes writers, and a writer whose turn does not come goes on and polls.
/// </summary>
public sealed class WriteTurn
{
    // After so many deeds of people in a row comes one of the studio's.
    private const int MostInARow = 8;

    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(10);

    private readonly Lock gate = new();
    private readonly Queue<TaskCompletionSource> first = new(),
        later = new();
    private bool isTaken;
    private int inARow;

    /// <summary>Waits for the turn.</summary>
    /// <param name="comesFirst">It is a person's deed.</param>
    /// <returns>Ends the turn when it is disposed of, once.</returns>
    /// <exception cref="OperationCanceledException">It was asked to end while it waited.</exception>
    public async Task<IDisposable> TakeAsync(bool comesFirst, CancellationToken cancel = default)
    {
        cancel.ThrowIfCancellationRequested();
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
        catch (Exception e) when (e is TimeoutException or OperationCanceledException)
        {
            // The turn may have come in this very moment. Otherwise it skips this place from now on.
            var isMine = !place.TrySetCanceled(CancellationToken.None);
            if (e is TimeoutException)
                return new Turn(isMine ? this : null);
            if (isMine)
                End();
            throw;
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
