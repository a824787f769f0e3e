using System.ComponentModel;
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

    /// <summary>Private memory that is written to, in bytes; past it, asking for more fails.</summary>
    public static void Memory(long bytes) => Set(Data, bytes, bytes);

    /// <summary>The longest file that may be written, in bytes, for what is set aside on the way.</summary>
    public static void File(long bytes) => Set(FileSize, bytes, bytes);

    /// <summary>What memory held when a process was ended is nobody's to find.</summary>
    public static void NoCoreFile() => Set(Core, 0, 0);

    /// <summary>Processor time from now on, in whole seconds; past it the process is ended.</summary>
    public static void ProcessorFromNow(int seconds) =>
        Set(Processor, (long)Math.Ceiling(Environment.CpuUsage.TotalTime.TotalSeconds) + seconds, long.MaxValue);

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

    public static int Parent => GetParent();

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

    [LibraryImport("libc", EntryPoint = "getppid")]
    private static partial int GetParent();
}
