using Chronotype.Storage;
using Chronotype.Storage.Content;
using Chronotype.Storage.Content.Care;
using Chronotype.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;

namespace Chronotype.Studio.Care;

public enum CareKind { Verify, Sample, Compact }

/// <summary>Long work on the content store that is going on.</summary>
/// <param name="StartedBy">Null where the studio does it by itself.</param>
public sealed record CareState(CareKind Kind, StoreProgress Progress, DateTimeOffset StartedAt, Guid? StartedBy);

/// <summary>
/// Does the long work on the content store, one at a time, whoever asked for it and whether or not they stay to watch. What a
/// verification finds is recorded.
/// </summary>
public sealed class CareRunner(ContentStore store, IServiceScopeFactory scopes, TimeProvider time, ILogger<CareRunner> log) : IAsyncDisposable
{
    /// <summary>The share of the segments that a sample reads: each of them about once in three weeks of daily samples.</summary>
    public const double SampleShare = 0.05;

    private readonly Lock gate = new();
    private CancellationTokenSource? stop;
    private Task work = Task.CompletedTask;
    private Verified? lastFound;

    /// <summary>What is going on; null for nothing.</summary>
    public CareState? Running { get; private set; }

    /// <summary>What the last work came to that has no record of its own, in a sentence; null for nothing.</summary>
    public string? Said { get; private set; }

    /// <returns>False where something is going on already.</returns>
    public bool TryStart(CareKind kind, Guid? person)
    {
        lock (gate)
        {
            if (Running is not null) return false;
            stop = new CancellationTokenSource();
            Running = new CareState(kind, default, time.GetUtcNow(), person);
            Said = null;
            work = Task.Run(() => WorkAsync(Running, stop.Token));
            return true;
        }
    }

    /// <summary>Ends what is going on. What it did so far stays.</summary>
    public void Stop()
    {
        lock (gate) stop?.Cancel();
    }

    /// <summary>Waits for what is going on.</summary>
    public Task WaitAsync() => work;

    public async ValueTask DisposeAsync()
    {
        Stop();
        await work;
    }

    private async Task WorkAsync(CareState state, CancellationToken cancel)
    {
        string? said = null;
        try
        {
            var progress = new Progress(p => Running = state with { Progress = p });
            if (state.Kind == CareKind.Compact) said = Compact(progress, cancel);
            else await VerifyAsync(state, progress, cancel);
        }
        catch (OperationCanceledException)
        {
            said = state.Kind == CareKind.Compact ? "Stopped. What was freed stays free." : "Stopped before the end, so nothing is recorded.";
        }
        catch (IOException e)
        {
            log.LogError(e, "The content store could not be cared for.");
            said = e.Message;
        }
        finally
        {
            lock (gate) (Running, Said, stop) = (null, said, null);
        }
    }

    private string Compact(IProgress<StoreProgress> progress, CancellationToken cancel)
    {
        var result = store.Care.Compact(lastFound, progress, cancel);
        lastFound = null;
        var freed = Math.Max(0, result.BytesBefore - result.BytesAfter);
        log.LogInformation("Compacting freed {Freed} bytes in {Deleted} segments.", freed, result.Deleted);
        return result.Skipped.Count == 0
            ? $"{freed / 1e6:0.0} MB were freed."
            : $"{freed / 1e6:0.0} MB were freed. {result.Skipped.Count} segments hold something damaged that is still needed, and stay as they are.";
    }

    private async Task VerifyAsync(CareState state, IProgress<StoreProgress> progress, CancellationToken cancel)
    {
        var found = store.Care.Verify(state.Kind == CareKind.Sample ? SampleShare : 1, progress, cancel);
        lastFound = found;
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<StudioDb>();
        var check = new StoreCheck
        {
            StartedAt = state.StartedAt, EndedAt = time.GetUtcNow(), Share = found.Share, BytesRead = found.BytesRead, DamagedPlaces = found.Places.Count, IndexFault = found.IndexFault,
            Damaged = [.. found.Damaged.Select(d => new CheckDamage { Hash = d.Hash, UnreadableBytes = d.UnreadableBytes })],
        };
        var known = found.Damaged.Select(d => d.Hash).ToHashSet();
        foreach (var hash in await db.SaveFiles.Select(f => f.Hash).Distinct().ToListAsync(cancel))
        {
            if (!known.Contains(hash) && !store.Has(hash)) check.Damaged.Add(new CheckDamage { Hash = hash });
        }
        // Every content that a record names is there and whole, so what a missing segment held is needed by none.
        if (check.Damaged.Count == 0 && check.Share >= 1) store.Care.GiveUpMissing();
        db.StoreChecks.Add(check);
        await db.SaveChangesAsync(cancel);
        if (check.Damaged.Count > 0) log.LogError("{Count} contents are damaged or missing; the Storage screen says which.", check.Damaged.Count);
        else if (!found.IsSound) log.LogWarning("The content store has damage that nothing needs: {Places} places, {Index}.", found.Places.Count, found.IndexFault ?? "index sound");
    }

    // Progress<T> answers on another thread, later than the end of the work; here the last word is the last.
    private sealed class Progress(Action<StoreProgress> take) : IProgress<StoreProgress>
    {
        public void Report(StoreProgress value) => take(value);
    }
}
