using Chronotype.Core.Readers;
using Chronotype.Storage;

namespace Chronotype.Studio.Readers;

/// <summary>
/// The reader processes: so many as the machine is given, each with one file at a time. Whose turn it is, the queue of jobs says. What is
/// large has the room of two, so that all together hold no more than was given to them.
/// </summary>
public sealed class ReaderPool(ReaderLimits limits, DataFolder data, ReaderIsolation isolation) : IDisposable
{
    private readonly Lock gate = new();
    private readonly Stack<ReaderProcess> idle = new();
    private readonly SemaphoreSlim room = new(limits.Readers);
    private readonly SemaphoreSlim largeRoom = new(1);
    private readonly CancellationTokenSource closing = new();

    /// <summary>Does a job as soon as a reader is free.</summary>
    /// <param name="open">Opens the contents, seekable, once for each try.</param>
    /// <param name="take">Given the path of a file that the reader made, before the reader is used again; it goes with the reader else.</param>
    /// <param name="progress">Takes how many bytes the reader has asked for, and of how many.</param>
    /// <exception cref="TooHeavyException">It took more than it may, alone too.</exception>
    /// <exception cref="IOException">A content could not be read, or no reader be had; it may be tried again.</exception>
    public async Task<(ReaderAnswer Answer, ReadOnlyMemory<byte> Drawing)> DoAsync(
        ReaderJob job,
        Func<IReadOnlyList<Stream>> open,
        CancellationToken cancel = default,
        Action<string>? take = null,
        IProgress<(long Done, long Total)>? progress = null
    )
    {
        using var ends = CancellationTokenSource.CreateLinkedTokenSource(cancel, closing.Token);
        try
        {
            return await TryAsync(job, open, isAgain: false, take, progress, ends.Token);
        }
        catch (ReaderProcess.LimitException e) when (!e.IsSure)
        {
            // It may have been what was read before it, or what else the machine had to do: once more, with nothing beside it.
        }
        catch (ReaderProcess.LimitException e)
        {
            throw new TooHeavyException(e.Message);
        }
        try
        {
            return await TryAsync(job, open, isAgain: true, take, progress, ends.Token);
        }
        catch (ReaderProcess.LimitException e)
        {
            throw new TooHeavyException(e.Message);
        }
    }

    public void Dispose()
    {
        closing.Cancel();
        lock (gate)
        {
            while (idle.TryPop(out var reader))
                reader.Dispose();
        }
    }

    private async Task<(ReaderAnswer, ReadOnlyMemory<byte>)> TryAsync(
        ReaderJob job,
        Func<IReadOnlyList<Stream>> open,
        bool isAgain,
        Action<string>? take,
        IProgress<(long Done, long Total)>? progress,
        CancellationToken cancel
    )
    {
        var taken = await TakeRoomAsync(1, cancel);
        IReadOnlyList<Stream> sources = [];
        try
        {
            sources = open();
            var lengths = sources.Select(s => s.Length).ToList();
            var isLarge = limits.IsLarge(job.Kind, lengths.Sum(), isAgain);
            if (isLarge)
            {
                taken.Dispose();
                taken = await TakeRoomAsync(Math.Min(2, limits.Readers), cancel);
            }
            var asked = job with
            {
                Lengths = lengths,
                ProcessorSeconds = limits.ProcessorSecondsFor(job.Kind, lengths.Sum()) + job.ProcessorSeconds,
            };
            return await Task.Factory.StartNew(
                () => Do(asked, sources, isFresh: isAgain || isLarge, isLarge, take, progress, cancel),
                CancellationToken.None,
                TaskCreationOptions.LongRunning,
                TaskScheduler.Default
            );
        }
        finally
        {
            foreach (var source in sources)
                source.Dispose();
            taken.Dispose();
        }
    }

    private (ReaderAnswer, ReadOnlyMemory<byte>) Do(
        ReaderJob job,
        IReadOnlyList<Stream> sources,
        bool isFresh,
        bool isLarge,
        Action<string>? take,
        IProgress<(long Done, long Total)>? progress,
        CancellationToken cancel
    )
    {
        ReaderProcess? reader = null;
        try
        {
            cancel.ThrowIfCancellationRequested();
            reader = Take(isFresh, isLarge);
            var (answer, drawing) = reader.Do(job, sources, progress, cancel);
            if (answer.File is { } made && reader.PathOf(made) is { } path)
            {
                try
                {
                    take?.Invoke(path);
                }
                finally
                {
                    File.Delete(path);
                }
            }
            return answer.Fault is null
                ? (answer, drawing)
                : throw new ReaderFailedException($"The file could not be read just now ({answer.Fault}).");
        }
        finally
        {
            if (reader is not null)
                GiveBack(reader, isOnce: isLarge || job.GoesLast);
        }
    }

    private ReaderProcess Take(bool isFresh, bool isLarge)
    {
        lock (gate)
        {
            if (!isFresh && idle.TryPop(out var warm))
                return warm;
            // A new process takes the room of an idle one.
            for (var more = isLarge ? 2 : 1; more > 0 && idle.TryPop(out var waiting); more--)
                waiting.Dispose();
        }
        return new ReaderProcess(limits, isLarge ? limits.LargeMemoryBytes : limits.MemoryBytes, isolation, data.Scratch);
    }

    private void GiveBack(ReaderProcess reader, bool isOnce)
    {
        lock (gate)
        {
            if (reader.IsFit && !isOnce && !closing.IsCancellationRequested && idle.Count < limits.Readers)
            {
                idle.Push(reader);
                return;
            }
        }
        reader.Dispose();
    }

    // Only one job at a time takes the room of two, so that no two wait for each other's second half.
    private async Task<Taken> TakeRoomAsync(int places, CancellationToken cancel)
    {
        var taken = new Taken(room, places > 1 ? largeRoom : null);
        try
        {
            await taken.WaitAsync(places, cancel);
            return taken;
        }
        catch
        {
            taken.Dispose();
            throw;
        }
    }

    private sealed class Taken(SemaphoreSlim room, SemaphoreSlim? alone) : IDisposable
    {
        private int places;
        private bool isAlone;

        public async Task WaitAsync(int wanted, CancellationToken cancel)
        {
            if (alone is not null)
            {
                await alone.WaitAsync(cancel);
                isAlone = true;
            }
            for (; places < wanted; places++)
                await room.WaitAsync(cancel);
        }

        public void Dispose()
        {
            if (places > 0)
                room.Release(places);
            if (isAlone)
                alone!.Release();
            (places, isAlone) = (0, false);
        }
    }
}
