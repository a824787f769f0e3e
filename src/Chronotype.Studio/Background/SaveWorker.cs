using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Background;

/// <summary>Works the queue of saves, one at a time, and takes up at the start what a stop left undone.</summary>
public sealed class SaveWorker(SaveQueue queue, IServiceScopeFactory scopes, ILogger<SaveWorker> log) : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        foreach (var left in await In(s => s.GetRequiredService<StudioDb>().Saves
            .Where(x => x.Reading == null || (x.Number != null && x.ChangeState == ChangeState.Pending))
            .OrderBy(x => x.ArrivedAt).Select(x => x.Id).ToListAsync(stopping)))
        {
            queue.Add(left);
        }
        await foreach (var saveId in queue.ReadAllAsync(stopping))
        {
            try
            {
                await In(s => WorkAsync(s, saveId, stopping));
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                // The save itself is stored; only what is said about it is missing, and the next start tries again.
                log.LogError(e, "The save {SaveId} could not be read or measured.", saveId);
            }
        }
    }

    /// <summary>Everything that follows a save's arrival.</summary>
    public static async Task<bool> WorkAsync(IServiceProvider services, Guid saveId, CancellationToken cancel)
    {
        await services.GetRequiredService<ReadSave>().DoAsync(saveId, cancel);
        await services.GetRequiredService<KeepBySetting>().AfterSaveAsync(saveId, cancel);
        await services.GetRequiredService<MeasureVersion>().DoAsync(saveId, cancel);
        return true;
    }

    private async Task<T> In<T>(Func<IServiceProvider, Task<T>> work)
    {
        await using var scope = scopes.CreateAsyncScope();
        return await work(scope.ServiceProvider);
    }
}

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
