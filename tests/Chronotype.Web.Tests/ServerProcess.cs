using System.Diagnostics;

namespace Chronotype.Web.Tests;

/// <summary>The real program, as a process of its own.</summary>
internal sealed class ServerProcess : IDisposable
{
    private readonly Process process;

    /// <param name="program">The folder that the program lies in; null for the one that was built with the tests.</param>
    /// <param name="environment">What it finds in its environment beside the usual.</param>
    public ServerProcess(string data, string? program = null, params IEnumerable<(string Name, string Value)> environment)
    {
        var start = new ProcessStartInfo(
            "dotnet",
            [Path.Combine(program ?? AppContext.BaseDirectory, "Chronotype.Web.dll"), "--data", data, "--port", "0"]
        )
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        foreach (var (name, value) in environment)
            start.Environment[name] = value;
        process = Process.Start(start)!;
    }

    public async Task<Uri> ReadyAsync()
    {
        while (await process.StandardOutput.ReadLineAsync() is { } line)
        {
            if (!line.Contains("ready: "))
                continue;
            _ = process.StandardOutput.ReadToEndAsync();
            _ = process.StandardError.ReadToEndAsync();
            return new Uri(line.Split("ready: ")[1]);
        }
        throw new InvalidOperationException("The server ended before it was ready.");
    }

    public bool IsKilled { get; private set; }

    public int Id => process.Id;

    public bool HasExited => process.HasExited;

    /// <summary>Bytes of memory that it holds.</summary>
    public long Resident
    {
        get
        {
            process.Refresh();
            return process.WorkingSet64;
        }
    }

    /// <summary>What it said when it did not start: all that it wrote to the error stream.</summary>
    public async Task<string> RefusalAsync()
    {
        await process.WaitForExitAsync();
        Assert.NotEqual(0, process.ExitCode);
        return await process.StandardError.ReadToEndAsync();
    }

    /// <summary>Asks it to stop, as a service manager does.</summary>
    /// <returns>How long it took.</returns>
    public async Task<TimeSpan> StopAsync()
    {
        var clock = Stopwatch.StartNew();
        Process.Start("kill", ["-TERM", process.Id.ToString(System.Globalization.CultureInfo.InvariantCulture)]).WaitForExit();
        await process.WaitForExitAsync();
        return clock.Elapsed;
    }

    /// <summary>As the power would: no handler runs, nothing is closed.</summary>
    public void Kill()
    {
        IsKilled = true;
        process.Kill();
        process.WaitForExit();
    }

    public void Dispose()
    {
        if (!process.HasExited)
            Kill();
        process.Dispose();
    }
}
