using System.ComponentModel;
using System.Diagnostics;

namespace Chronotype.Tests;

/// <summary>Other programs that read the same files, from Debian's packages, which <c>./check</c> installs.</summary>
internal static class Tools
{
    /// <summary>Runs a program to its end, in a folder.</summary>
    /// <returns>What it wrote to its output, and to its error output.</returns>
    public static (byte[] Output, string Said) Run(string folder, string program, params string[] arguments)
    {
        var info = new ProcessStartInfo(program, arguments)
        {
            WorkingDirectory = folder,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        Process process;
        try
        {
            process = Process.Start(info)!;
        }
        catch (Win32Exception e)
        {
            throw new InvalidOperationException($"{program} is not here: ./check installs what tests are compared with.", e);
        }
        using (process)
        {
            var said = process.StandardError.ReadToEndAsync();
            using var output = new MemoryStream();
            process.StandardOutput.BaseStream.CopyTo(output);
            process.WaitForExit();
            return process.ExitCode == 0
                ? (output.ToArray(), said.Result)
                : throw new InvalidOperationException($"{program} ended with {process.ExitCode}: {said.Result}");
        }
    }
}
