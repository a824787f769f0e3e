using System.Diagnostics;
using Chronotype.Content;

namespace Chronotype.Cli.Content;

/// <summary>Shows on a terminal how far long work is, in one line that goes away at the end. Elsewhere it shows nothing.</summary>
internal sealed class ProgressLine(string what) : IProgress<StoreProgress>, IDisposable
{
    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(100);

    private readonly Lock gate = new();
    private readonly bool isShown = !Console.IsErrorRedirected;
    private long shownAt;
    private int width;

    public void Report(StoreProgress progress)
    {
        if (!isShown)
            return;
        lock (gate)
        {
            if (shownAt != 0 && Stopwatch.GetElapsedTime(shownAt) < Pause)
                return;
            shownAt = Stopwatch.GetTimestamp();
            var line =
                progress.Total > 0
                    ? $"{what} {100 * progress.Done / progress.Total} %, {Size(progress.Done)} of {Size(progress.Total)}"
                    : $"{what} {Size(progress.Done)}";
            Console.Error.Write($"\r{line.PadRight(width)}");
            width = line.Length;
        }
    }

    public void Dispose()
    {
        if (width > 0)
            Console.Error.Write($"\r{new string(' ', width)}\r");
    }

    private static string Size(long bytes) => bytes >= 1_000_000_000 ? $"{bytes / 1e9:0.0} GB" : $"{bytes / 1e6:0.0} MB";
}

/// <summary>Tells how much of a stream was read.</summary>
internal sealed class CountedStream(Stream inner, long total, IProgress<StoreProgress> progress) : Core.Content.ForwardStream
{
    private long done;

    public override int Read(Span<byte> buffer) => Count(inner.Read(buffer));

    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancel = default) =>
        Count(await inner.ReadAsync(buffer, cancel));

    private int Count(int read)
    {
        progress.Report(new StoreProgress(done += read, total));
        return read;
    }
}
