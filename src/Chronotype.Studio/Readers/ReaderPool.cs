using Chronotype.Core.Readers;
using Chronotype.Storage;

namespace Chronotype.Studio.Readers;

/// <summary>
/// The reader processes: so many as the machine is given, each with one file at a time. Whose turn it is, the queue of jobs says.
/// </summary>
public sealed class ReaderPool(ReaderLimits limits, DataFolder data, ReaderIsolation isolation) : IDisposable
{
    private readonly Lock gate = new();
    private readonly Stack<ReaderProcess> idle = new();
    private readonly SemaphoreSlim room = new(limits.Readers);
    private readonly CancellationTokenSource closing = new();

    /// <summary>Does a job as soon as a reader is free.</summary>
    /// <param name="open">Opens the contents, seekable, once for each try.</param>
    /// <param name="take">Given the path of a file that the reader made, before the reader is used again; it goes with the reader else.</param>
    /// <param name="progress">Takes how many bytes the reader has asked for, and of how many.</param>
    /// <exception cref="TooHeavyException">It took more than it may, twice.</exception>
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
            return await TryAsync(job, open, isFresh: false, take, progress, ends.Token);
        }
        catch (ReaderProcess.LimitException)
        {
            // It may have been what was read before it, or what else the machine had to do: once more, with nothing beside it.
        }
        try
        {
            return await TryAsync(job, open, isFresh: true, take, progress, ends.Token);
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
        bool isFresh,
        Action<string>? take,
        IProgress<(long Done, long Total)>? progress,
        CancellationToken cancel
    )
    {
        await room.WaitAsync(cancel);
        try
        {
            return await Task.Factory.StartNew(
                () => Do(job, open, isFresh, take, progress, cancel),
                CancellationToken.None,
                TaskCreationOptions.LongRunning,
                TaskScheduler.Default
            );
        }
        finally
        {
            room.Release();
        }
    }

    private (ReaderAnswer, ReadOnlyMemory<byte>) Do(
        ReaderJob job,
        Func<IReadOnlyList<Stream>> open,
        bool isFresh,
        Action<string>? take,
        IProgress<(long Done, long Total)>? progress,
        CancellationToken cancel
    )
    {
        var sources = open();
        ReaderProcess? reader = null;
        try
        {
            cancel.ThrowIfCancellationRequested();
            reader = Take(isFresh);
            var lengths = sources.Select(s => s.Length).ToList();
            var (answer, drawing) = reader.Do(
                job with
                {
                    Lengths = lengths,
                    ProcessorSeconds = limits.ProcessorSecondsFor(lengths.Sum()) + job.ProcessorSeconds,
                },
                sources,
                progress,
                cancel
            );
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
            foreach (var source in sources)
                source.Dispose();
            if (reader is not null)
                GiveBack(reader);
        }
    }

    private ReaderProcess Take(bool isFresh)
    {
        lock (gate)
        {
            if (!isFresh && idle.TryPop(out var warm))
                return warm;
        }
        return new ReaderProcess(limits, isolation, data.Scratch);
    }

    private void GiveBack(ReaderProcess reader)
    {
        lock (gate)
        {
            if (reader.IsFit && !closing.IsCancellationRequested && idle.Count < limits.Readers)
            {
                idle.Push(reader);
                return;
            }
        }
        reader.Dispose();
    }
}
