using System.Diagnostics;
using System.Text;
using System.Text.Json;

namespace Chronotype.Cli.Tests;

/// <summary>The real program, run as a shell runs it.</summary>
internal static class Program
{
    public sealed record Ended(int Code, string Output, string Errors)
    {
        public List<JsonElement> Lines =>
            [.. Output.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => JsonDocument.Parse(l).RootElement)];
    }

    public static Process Start(params string[] words) =>
        Process.Start(
            new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "chronotype.dll"), .. words])
            {
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
                StandardInputEncoding = new UTF8Encoding(false),
                StandardOutputEncoding = Encoding.UTF8,
                StandardErrorEncoding = Encoding.UTF8,
            }
        )!;

    /// <summary>Runs the program to its end.</summary>
    public static Ended Run(string input, params string[] words)
    {
        using var process = Start(words);
        var (output, errors) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        try
        {
            process.StandardInput.Write(input);
            process.StandardInput.Close();
        }
        catch (IOException)
        {
            // A call that is refused reads nothing.
        }
        process.WaitForExit();
        return new(process.ExitCode, output.Result, errors.Result);
    }
}
