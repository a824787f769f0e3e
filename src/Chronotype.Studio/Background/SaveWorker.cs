using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Background;

/// <summary>
/// Works the queue of saves: a piece's saves one after another, pieces beside one another, so that what holds one piece up holds
/// up no other. Takes up at the start what a stop left undone.
/// </summary>
public sealed class SaveWorker(SaveQueue queue, IServiceScopeFactory scopes, TimeProvider time, ILogger<SaveWorker> log) : BackgroundService
{
    private const int PiecesAtOnce = 16;
    private static readonly TimeSpan BeforeTryingAgain = TimeSpan.FromMinutes(1);

    private readonly SemaphoreSlim room = new(PiecesAtOnce);
    private readonly Dictionary<Guid, Task> lanes = [];

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        foreach (var left in await In(s => s.GetRequiredService<StudioDb>().Saves
            .Where(x => x.Reading == null || (x.Number != null && x.ChangeState == ChangeState.Pending))
            .OrderBy(x => x.ArrivedAt).Select(x => x.Id).ToListAsync(stopping)))
        {
            queue.Add(left);
        }
        try
        {
            await foreach (var saveId in queue.ReadAllAsync(stopping))
            {
                var piece = await In(s => s.GetRequiredService<StudioDb>().Saves.Where(x => x.Id == saveId).Select(x => x.PieceId).FirstOrDefaultAsync(stopping));
                foreach (var ended in lanes.Where(l => l.Value.IsCompleted).Select(l => l.Key).ToList()) lanes.Remove(ended);
                lanes[piece] = FollowAsync(lanes.GetValueOrDefault(piece, Task.CompletedTask), saveId, stopping);
            }
        }
        finally
        {
            await Task.WhenAll(lanes.Values);
        }
    }

    /// <summary>Everything that follows a save's arrival.</summary>
    public static async Task<bool> WorkAsync(IServiceProvider services, Guid saveId, CancellationToken cancel)
    {
        await services.GetRequiredService<ReadSave>().DoAsync(saveId, ReaderTurn.Background, cancel);
        await services.GetRequiredService<KeepBySetting>().AfterSaveAsync(saveId, cancel);
        await services.GetRequiredService<MeasureVersion>().DoAsync(saveId, cancel);
        return true;
    }

    // Ends without an exception, whatever happens: the next save of the piece stands behind it.
    private async Task FollowAsync(Task before, Guid saveId, CancellationToken stopping)
    {
        await before;
        try
        {
            await room.WaitAsync(stopping);
            try
            {
                await In(s => WorkAsync(s, saveId, stopping));
            }
            finally
            {
                room.Release();
            }
        }
        catch (OperationCanceledException)
        {
            // Stopped, or abandoned; the next start takes it up.
        }
        catch (IOException e)
        {
            log.LogError(e, "The save {SaveId} could not be read from where it is kept; it is tried again in a minute.", saveId);
            _ = AgainAsync(saveId, stopping);
        }
        catch (Exception e)
        {
            // The save itself is stored; only what is said about it is missing, and the next start tries again.
            log.LogError(e, "The save {SaveId} could not be read or measured.", saveId);
        }
    }

    private async Task AgainAsync(Guid saveId, CancellationToken stopping)
    {
        try
        {
            await Task.Delay(BeforeTryingAgain, time, stopping);
            queue.Add(saveId);
        }
        catch (OperationCanceledException)
        {
            // The next start takes it up.
        }
    }

    private async Task<T> In<T>(Func<IServiceProvider, Task<T>> work)
    {
        await using var scope = scopes.CreateAsyncScope();
        return await work(scope.ServiceProvider);
    }
}
