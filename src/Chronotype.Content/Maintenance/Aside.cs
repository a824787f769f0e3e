using System.Collections.Concurrent;
using System.Runtime.InteropServices;

namespace Chronotype.Content.Maintenance;

/// <summary>Work on threads of its own, which whoever saves meanwhile comes before.</summary>
internal static partial class Aside
{
    // Of getpriority(2): a thread alone, and half-way to the last.
    private const int OfThread = 0,
        Late = 10;

    /// <summary>Does a piece of work for each of some items, on so many threads, from 1.</summary>
    /// <exception cref="OperationCanceledException">It was asked to end.</exception>
    /// <exception cref="AggregateException">All that went wrong, on any of the threads; what was not begun by then is not done.</exception>
    public static void ForEach<T>(IEnumerable<T> items, int atOnce, Action<T> work, CancellationToken cancel)
    {
        var (left, failed) = (new ConcurrentQueue<T>(items), new ConcurrentQueue<Exception>());
        var threads = Enumerable.Range(0, Math.Max(1, Math.Min(atOnce, left.Count))).Select(_ => new Thread(Work)).ToList();
        threads.ForEach(t => t.Start());
        threads.ForEach(t => t.Join());
        cancel.ThrowIfCancellationRequested();
        if (!failed.IsEmpty)
            throw new AggregateException(failed);

        void Work()
        {
            ComeLater();
            try
            {
                while (failed.IsEmpty && !cancel.IsCancellationRequested && left.TryDequeue(out var next))
                    work(next);
            }
            catch (Exception e)
            {
                failed.Enqueue(e);
            }
        }
    }

    // Only a wish: a system that does not know it does the work all the same.
    private static void ComeLater()
    {
        if (OperatingSystem.IsLinux())
            _ = SetPriority(OfThread, 0, Late);
    }

    [LibraryImport("libc", EntryPoint = "setpriority", SetLastError = true)]
    private static partial int SetPriority(int which, uint who, int priority);
}
