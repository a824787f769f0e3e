using System.Globalization;

namespace Chronotype.Studio.Tests;

/// <summary>
/// Looks at the reader processes of this one and at the programs that they start, as the system tells of them (proc(5)), every few
/// hundredths of a second.
/// </summary>
internal sealed class ReaderWatch : IDisposable
{
    private readonly CancellationTokenSource over = new();
    private readonly Task watching;

    public ReaderWatch() =>
        watching = Task.Run(async () =>
        {
            while (!over.IsCancellationRequested)
            {
                Look();
                await Task.Delay(25);
            }
        });

    /// <summary>Bytes that all of them together have held at most.</summary>
    public long MostBytes { get; private set; }

    /// <summary>Seconds of processor time that one of them has had at most.</summary>
    public double MostProcessor { get; private set; }

    public void Dispose()
    {
        over.Cancel();
        watching.Wait();
        over.Dispose();
    }

    private void Look()
    {
        var all = new Dictionary<int, (int Parent, bool IsReader, long Bytes, double Processor)>();
        foreach (var folder in Directory.EnumerateDirectories("/proc").Where(f => char.IsAsciiDigit(Path.GetFileName(f)[0])))
        {
            try
            {
                // The name of the program stands in parentheses, and may hold anything.
                var stat = File.ReadAllText($"{folder}/stat");
                var fields = stat[(stat.LastIndexOf(')') + 2)..].Split(' ');
                var name = stat[(stat.IndexOf('(') + 1)..stat.LastIndexOf(')')];
                all[Number(Path.GetFileName(folder))] = (
                    Number(fields[1]),
                    // The programs between it and the studio have its name among their arguments, too.
                    name is "ffmpeg" or "ffprobe"
                        || name is not ("sh" or "bwrap")
                            && File.ReadAllText($"{folder}/cmdline").Contains("Chronotype.Reader", StringComparison.Ordinal),
                    (long)Number(fields[21]) * Environment.SystemPageSize,
                    (Number(fields[11]) + Number(fields[12])) / 100.0
                );
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                // Gone meanwhile.
            }
        }
        var readers = all.Values.Where(p => p.IsReader && IsOurs(p.Parent)).ToList();
        MostBytes = Math.Max(MostBytes, readers.Sum(r => r.Bytes));
        MostProcessor = Math.Max(MostProcessor, readers.Select(r => r.Processor).DefaultIfEmpty().Max());

        bool IsOurs(int id) => id == Environment.ProcessId || (all.TryGetValue(id, out var process) && IsOurs(process.Parent));
    }

    private static int Number(string text) => int.Parse(text, CultureInfo.InvariantCulture);
}
