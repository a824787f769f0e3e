using System.ComponentModel;
using System.Diagnostics;
using System.Runtime.InteropServices;

namespace Chronotype.Studio.Readers;

/// <summary>Ends a process with all that it has started, also where it has ended before them.</summary>
internal static partial class ProcessGroup
{
    private const int Killed = 9;

    /// <param name="leader">A process that made itself the leader of a group of its own (setpgid, POSIX.1-2017), as readers do; or one that those in a
    /// namespace of their own end with.</param>
    /// <param name="id">Its number, which can still be told when it has ended.</param>
    public static void Kill(Process leader, int id)
    {
        if (!OperatingSystem.IsWindows())
            _ = Signal(-id, Killed);
        try
        {
            leader.Kill(entireProcessTree: OperatingSystem.IsWindows());
        }
        catch (Exception e) when (e is InvalidOperationException or Win32Exception)
        {
            // Gone already.
        }
    }

    [LibraryImport("libc", EntryPoint = "kill")]
    private static partial int Signal(int process, int signal);
}
