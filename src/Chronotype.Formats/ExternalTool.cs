using System.Diagnostics;

namespace Chronotype.Formats;

/// <summary>Programs of the machine that do what none of ours does, where they stand.</summary>
public static class ExternalTool
{
    /// <summary>By its place alone: a reader has no surroundings to look it up in.</summary>
    /// <returns>Null where it does not stand on this machine.</returns>
    public static string? Find(string name) =>
        new[] { "/usr/bin", "/usr/local/bin", "/opt/homebrew/bin" }.Select(f => Path.Combine(f, name)).FirstOrDefault(File.Exists);

    /// <param name="patience">Milliseconds.</param>
    /// <returns>What it said; null where it failed, or took too long.</returns>
    internal static string? Run(string tool, int patience, IReadOnlyList<string> arguments, CancellationToken cancel)
    {
        var info = new ProcessStartInfo(tool, arguments)
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            RedirectStandardInput = true,
        };
        using var process = Process.Start(info)!;
        using var ending = cancel.Register(() => process.Kill());
        process.StandardInput.Close();
        process.ErrorDataReceived += (_, _) => { };
        process.BeginErrorReadLine();
        var output = process.StandardOutput.ReadToEndAsync(cancel);
        if (!process.WaitForExit(patience))
        {
            process.Kill();
            return null;
        }
        return process.ExitCode == 0 ? output.GetAwaiter().GetResult() : null;
    }
}
