using System.ComponentModel;
using System.Diagnostics;

namespace Chronotype.Studio.Readers;

/// <summary>
/// Keeps readers apart from the network: a network namespace of its own, with nothing in it (Linux, unshare(1) with a user namespace,
/// which needs no root). Where the system does not allow it, readers run without, and whoever looks after the studio is told so.
/// </summary>
/// <param name="Tool">The program that begins a namespace; null where there is none that works.</param>
public sealed record ReaderIsolation(string? Tool)
{
    private static readonly Lazy<ReaderIsolation> Found = new(Find);

    private static readonly string[] Apart = ["--user", "--map-root-user", "--net", "--"];

    /// <summary>Readers have no network.</summary>
    public bool HasNoNetwork => Tool is not null;

    /// <summary>The isolation that this machine allows, tried once with a program that does nothing.</summary>
    public static ReaderIsolation Here => Found.Value;

    private static ReaderIsolation Find()
    {
        var tool = new[] { "/usr/bin/unshare", "/bin/unshare" }.FirstOrDefault(File.Exists);
        if (tool is null)
            return new ReaderIsolation((string?)null);
        try
        {
            using var tried = Process.Start(
                new ProcessStartInfo(tool, [.. Apart, "/bin/true"]) { RedirectStandardError = true, RedirectStandardOutput = true }
            )!;
            if (!tried.WaitForExit(TimeSpan.FromSeconds(10)))
                tried.Kill();
            return new ReaderIsolation(tried.HasExited && tried.ExitCode == 0 ? tool : null);
        }
        catch (Exception e) when (e is Win32Exception or IOException)
        {
            return new ReaderIsolation((string?)null);
        }
    }

    /// <summary>A program started apart; it keeps the process that is started, so that its number is the program's.</summary>
    public ProcessStartInfo Start(string program, params IEnumerable<string> arguments) =>
        Tool is null ? new ProcessStartInfo(program, arguments) : new ProcessStartInfo(Tool, [.. Apart, program, .. arguments]);
}
