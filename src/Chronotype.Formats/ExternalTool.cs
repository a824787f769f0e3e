using System.Diagnostics;
using System.Globalization;

namespace Chronotype.Formats;

/// <summary>Programs of the machine that do what none of ours does, where they stand.</summary>
public static class ExternalTool
{
    // The libraries that such a program maps are resident beside what it writes to.
    private const long MappedBytes = 80 << 20;

    // As the C library says ENOMEM, and as libavcodec does where it has no room for a picture.
    private static readonly string[] MemoryErrors = ["Cannot allocate memory", "get_buffer() failed"];

    /// <summary>By its place alone: a reader has no surroundings to look it up in.</summary>
    /// <returns>Null where it does not stand on this machine.</returns>
    public static string? Find(string name) =>
        new[] { "/usr/bin", "/usr/local/bin", "/opt/homebrew/bin" }.Select(f => Path.Combine(f, name)).FirstOrDefault(File.Exists);

    /// <summary>Bytes that a program may hold now, which count with those of this process; null for no limit.</summary>
    public static Func<long>? MemoryLeft { get; set; }

    /// <param name="patience">Milliseconds.</param>
    /// <returns>What it said; null where it failed, or took too long.</returns>
    /// <exception cref="OutOfMemoryException">It did not do with <see cref="MemoryLeft"/>.</exception>
    internal static string? Run(string tool, int patience, IReadOnlyList<string> arguments, CancellationToken cancel)
    {
        IReadOnlyList<string> command = MemoryLeft is { } left ? [.. Limited(left()), tool, .. arguments] : [tool, .. arguments];
        var info = new ProcessStartInfo(command[0], command.Skip(1))
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            RedirectStandardInput = true,
        };
        using var process = Process.Start(info)!;
        using var ending = cancel.Register(() => process.Kill());
        process.StandardInput.Close();
        var lacksMemory = false;
        process.ErrorDataReceived += (_, line) =>
            lacksMemory |= Array.Exists(MemoryErrors, e => line.Data?.Contains(e, StringComparison.Ordinal) == true);
        process.BeginErrorReadLine();
        var output = process.StandardOutput.ReadToEndAsync(cancel);
        if (!process.WaitForExit(patience))
        {
            process.Kill();
            return null;
        }
        // Until its last words are read, too.
        process.WaitForExit();
        if (process.ExitCode == 0)
            return output.GetAwaiter().GetResult();
        return lacksMemory ? throw new OutOfMemoryException() : null;
    }

    // ulimit counts what is written to (POSIX.1-2017 utilities; setrlimit, RLIMIT_DATA), in units of 1,024 bytes.
    private static string[] Limited(long bytes) =>
        [
            "/bin/sh",
            "-c",
            "ulimit -d \"$0\"; exec \"$@\"",
            (Math.Max(1, bytes - MappedBytes) / 1024).ToString(CultureInfo.InvariantCulture),
        ];
}
