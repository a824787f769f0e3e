using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Saves;

/// <summary>Looks once a minute for sittings that are over.</summary>
public sealed class SittingWatch(KeepBySetting keep, TimeProvider time, ILogger<SittingWatch> log) : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromMinutes(1), time);
        do
        {
            try
            {
                await keep.AskAfterSittingsAsync(stopping);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "Sittings that are over could not be looked for; it is tried again in a minute.");
            }
        } while (await timer.WaitForNextTickAsync(stopping));
    }
}
