namespace Chronotype.Studio.Share;

/// <summary>Lets one who waits for a time be woken before it, or at once where it was woken since. One waits at a time.</summary>
internal sealed class Waking(TimeProvider time)
{
    private readonly SemaphoreSlim woken = new(0);

    // It goes on from one wait to the next: one that was given up could still take what wakes.
    private Task? next;

    public void Wake()
    {
        if (woken.CurrentCount == 0)
            woken.Release();
    }

    /// <exception cref="OperationCanceledException">It was asked to end.</exception>
    public async Task WaitAsync(TimeSpan wait, CancellationToken cancel)
    {
        next ??= woken.WaitAsync(CancellationToken.None);
        using var over = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        await Task.WhenAny(Task.Delay(wait, time, over.Token), next);
        await over.CancelAsync();
        if (next.IsCompleted)
            next = null;
        cancel.ThrowIfCancellationRequested();
    }
}
