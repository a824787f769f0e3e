using System.Diagnostics;

namespace Chronotype.Web.Tests.Flush;

/// <summary>Disks as they are in the worst hour, which are put under a real program.</summary>
internal static class Preloaded
{
    /// <summary>Compiles one of the sources of this folder.</summary>
    /// <returns>The library, for <c>LD_PRELOAD</c>.</returns>
    public static string Made(string name, string folder)
    {
        var library = Path.Combine(folder, name + ".so");
        var source = Path.Combine(AppContext.BaseDirectory, "Flush", name + ".c");
        using var made = Process.Start("cc", ["-shared", "-fPIC", "-O2", "-o", library, source, "-ldl"]);
        made.WaitForExit();
        Assert.Equal(0, made.ExitCode);
        return library;
    }
}
