namespace Chronotype.Storage.Connections;

/// <summary>
/// Does one piece of work for all who asked before it began. Who asks while it goes on shares the next run with all others who do; at most
/// one runs at a time.
/// </summary>
internal sealed class SharedRun(Func<Task> work)
{
    private readonly Lock gate = new();
    private Task? running,
        waiting;

    /// <summary>A run that begins after this call; its failure is that of all who share it.</summary>
    public Task RunAsync()
    {
        lock (gate)
        {
            if (running is null)
                return running = OnceAsync(Task.CompletedTask);
            return waiting ??= OnceAsync(running);
        }
    }

    private async Task OnceAsync(Task before)
    {
        await before.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing | ConfigureAwaitOptions.ForceYielding);
        // From here on nobody joins this run.
        lock (gate)
        {
            if (before != Task.CompletedTask)
                (running, waiting) = (waiting, null);
        }
        try
        {
            await work();
        }
        finally
        {
            lock (gate)
            {
                if (waiting is null)
                    running = null;
            }
        }
    }
}
