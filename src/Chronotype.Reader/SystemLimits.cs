using System.ComponentModel;
using System.Diagnostics;
using System.Runtime.InteropServices;

namespace Chronotype.Reader;

/// <summary>
/// Limits that the operating system holds this process to, whatever foreign bytes make it do (setrlimit, POSIX.1-2017; Linux).
/// </summary>
internal static partial class SystemLimits
{
    private const int Processor = 0,
        FileSize = 1,
        Data = 2,
        Core = 4;

    [StructLayout(LayoutKind.Sequential)]
    private struct Limit
    {
        public nuint Soft,
            Hard;
    }

    /// <summary>
    /// Memory that this process may come to hold, in bytes; past it, asking for more fails. The system counts what was asked for, of which
    /// less is held (proc(5), VmData and VmRSS): what was asked for and never touched so far is not counted against it.
    /// </summary>
    public static void Memory(long bytes)
    {
        var asked = bytes + Status("VmData") - Status("VmRSS");
        Set(Data, asked, asked);
    }

    private static long Status(string name)
    {
        if (!OperatingSystem.IsLinux())
            return 0;
        var line = System.IO.File.ReadLines("/proc/self/status").First(l => l.StartsWith(name + ":", StringComparison.Ordinal));
        return long.Parse(line[(name.Length + 1)..].Replace("kB", "").Trim(), System.Globalization.CultureInfo.InvariantCulture) * 1024;
    }

    /// <summary>The longest file that may be written, in bytes, for what is set aside on the way.</summary>
    public static void File(long bytes) => Set(FileSize, bytes, bytes);

    /// <summary>What memory held when a process was ended is nobody's to find.</summary>
    public static void NoCoreFile() => Set(Core, 0, 0);

    /// <summary>Processor time from now on, in whole seconds; past it the process is ended.</summary>
    public static void ProcessorFromNow(int seconds) =>
        Set(Processor, (long)Math.Ceiling(Environment.CpuUsage.TotalTime.TotalSeconds) + seconds, long.MaxValue);

    /// <summary>Everybody else's work comes before what this process does from now on; there is no way back.</summary>
    public static void GoLast()
    {
        using var self = Process.GetCurrentProcess();
        self.PriorityClass = ProcessPriorityClass.BelowNormal;
    }

    /// <summary>Where memory runs out all the same, this process is the one to go, and not the studio.</summary>
    public static void GoFirst()
    {
        try
        {
            System.IO.File.WriteAllText("/proc/self/oom_score_adj", "1000");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // Only a wish.
        }
    }

    /// <summary>Whether nobody holds the other end of the standard input any more (poll, POSIX.1-2017).</summary>
    public static bool IsInputClosed()
    {
        if (OperatingSystem.IsWindows())
            return false;
        var input = new Polled();
        return Poll(ref input, 1, 0) == 1 && (input.Told & HungUp) != 0;
    }

    private const short HungUp = 0x10;

    // The standard input has the number 0; poll tells of a closed one whatever is asked.
    [StructLayout(LayoutKind.Sequential)]
    private struct Polled
    {
        public int Descriptor;
        public short Asked,
            Told;
    }

    /// <summary>Makes this process lead a group of its own, which ends with it.</summary>
    public static void LeadGroup()
    {
        if (!OperatingSystem.IsWindows())
            _ = SetGroup(0, 0);
    }

    /// <summary>Ends this process and all that it has started.</summary>
    public static void KillGroup()
    {
        if (!OperatingSystem.IsWindows())
            _ = Signal(-Environment.ProcessId, 9);
        System.Diagnostics.Process.GetCurrentProcess().Kill();
    }

    private static void Set(int resource, long soft, long hard)
    {
        if (!OperatingSystem.IsLinux())
            return;
        var limit = new Limit { Soft = (nuint)soft, Hard = hard == long.MaxValue ? nuint.MaxValue : (nuint)hard };
        if (SetLimit(resource, in limit) != 0)
            throw new Win32Exception(Marshal.GetLastPInvokeError(), $"The limit {resource} could not be set.");
    }

    [LibraryImport("libc", EntryPoint = "setrlimit", SetLastError = true)]
    private static partial int SetLimit(int resource, in Limit limit);

    [LibraryImport("libc", EntryPoint = "setpgid")]
    private static partial int SetGroup(int process, int group);

    [LibraryImport("libc", EntryPoint = "kill")]
    private static partial int Signal(int process, int signal);

    [LibraryImport("libc", EntryPoint = "poll")]
    private static partial int Poll(ref Polled first, nuint count, int milliseconds);
}
