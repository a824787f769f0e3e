using System.Diagnostics;
using System.Text.Json;

namespace Chronotype.Bench.Contents;

/// <summary>Programs run as a shell runs them: their time, and the most memory that they held.</summary>
internal static class Tool
{
    public sealed record Ended(double Seconds, long MostResident, string Output);

    /// <summary>Runs one program to its end.</summary>
    /// <exception cref="InvalidOperationException">It is not there, or ended with an error.</exception>
    public static Ended Run(string program, params string[] words)
    {
        var start = new ProcessStartInfo(program, words) { RedirectStandardOutput = true };
        var clock = Stopwatch.StartNew();
        using var process = Process.Start(start)!;
        var reading = process.StandardOutput.ReadToEndAsync();
        var most = 0L;
        while (!process.WaitForExit(20))
            most = Math.Max(most, Resident(process.Id));
        var seconds = clock.Elapsed.TotalSeconds;
        return process.ExitCode == 0
            ? new Ended(seconds, most, reading.Result)
            : throw new InvalidOperationException($"{program} {string.Join(' ', words)} ended with {process.ExitCode}.");
    }

    /// <summary>Runs a line of shell.</summary>
    public static Ended Shell(string line) => Run("sh", "-c", line);

    public static string Program => Path.Combine(AppContext.BaseDirectory, "chronotype.dll");

    /// <summary>Puts one file into a store by the command line.</summary>
    public static (Ended Ended, string Hash, long NewBytes) Put(string file, string store)
    {
        var ended = Run("dotnet", Program, "content", "put", file, "--store", store);
        var answer = JsonDocument.Parse(ended.Output).RootElement;
        return (ended, answer.GetProperty("hash").GetString()!, answer.GetProperty("newBytes").GetInt64());
    }

    public static bool IsThere(string program) =>
        (Environment.GetEnvironmentVariable("PATH") ?? "").Split(Path.PathSeparator).Any(p => File.Exists(Path.Combine(p, program)));

    public static double Median(IEnumerable<double> values)
    {
        var sorted = values.Order().ToList();
        return sorted[sorted.Count / 2];
    }

    /// <summary>Prints a number beside what it should be.</summary>
    public static void Tell(string what, double measured, double bar, string format = "0.00", bool atLeast = false)
    {
        var isMet = atLeast ? measured >= bar : measured <= bar;
        Console.WriteLine(
            $"  {(isMet ? "ok  " : "MISS")} {what}: {measured.ToString(format)} (wanted: {(atLeast ? "at least" : "at most")} "
                + $"{bar.ToString(format)})"
        );
    }

    private static long Resident(int process)
    {
        try
        {
            return long.Parse(
                    File.ReadLines($"/proc/{process}/status")
                        .First(l => l.StartsWith("VmHWM:", StringComparison.Ordinal))
                        .Split(' ', StringSplitOptions.RemoveEmptyEntries)[1]
                ) * 1024;
        }
        catch (Exception e) when (e is IOException or InvalidOperationException)
        {
            return 0;
        }
    }
}
