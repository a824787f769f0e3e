using Chronotype.Studio.Saves;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Background;

/// <summary>Looks once a minute for sittings that are over.</summary>
public sealed class SittingWorker(SaveQueue queue, IServiceScopeFactory scopes, TimeProvider time, ILogger<SittingWorker> log) : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromMinutes(1), time);
        do
        {
            try
            {
                await using var scope = scopes.CreateAsyncScope();
                foreach (var kept in await scope.ServiceProvider.GetRequiredService<KeepBySetting>().AfterSittingsAsync(stopping)) queue.Add(kept.SaveId);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "Sittings that are over could not be kept; they are tried again in a minute.");
            }
        }
        while (await timer.WaitForNextTickAsync(stopping));
    }
}
