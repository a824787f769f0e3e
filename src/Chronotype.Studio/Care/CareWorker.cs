using Chronotype.Storage;
using Chronotype.Storage.Content;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Care;

/// <summary>Verifies a sample of the content store once a day, and then frees what nothing needs where that is much.</summary>
public sealed class CareWorker(CareRunner runner, ContentStore store, IServiceScopeFactory scopes, TimeProvider time, ILogger<CareWorker> log) : BackgroundService
{
    private const long WorthFreeing = 256L << 20;
    private const int ShareWorthFreeing = 5;

    private static readonly TimeSpan Look = TimeSpan.FromHours(1), Between = TimeSpan.FromHours(24);

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        using var timer = new PeriodicTimer(Look, time);
        while (await timer.WaitForNextTickAsync(stopping))
        {
            try
            {
                await CareAsync(stopping);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "The daily care of the content store failed; it is tried again in an hour.");
            }
        }
    }

    private async Task CareAsync(CancellationToken stopping)
    {
        if (await LastAsync(stopping) is { } last && time.GetUtcNow() - last < Between) return;
        if (!runner.TryStart(CareKind.Sample, null)) return;
        await runner.WaitAsync().WaitAsync(stopping);
        var stat = store.Care.Stat();
        var free = stat.FreeBytes;
        if (free < WorthFreeing || free < stat.SegmentBytes / ShareWorthFreeing || !runner.TryStart(CareKind.Compact, null)) return;
        await runner.WaitAsync().WaitAsync(stopping);
    }

    private async Task<DateTimeOffset?> LastAsync(CancellationToken cancel)
    {
        await using var scope = scopes.CreateAsyncScope();
        return await scope.ServiceProvider.GetRequiredService<StudioDb>().StoreChecks.OrderByDescending(c => c.EndedAt).Select(c => (DateTimeOffset?)c.EndedAt).FirstOrDefaultAsync(cancel);
    }
}
