using System.ComponentModel;
using System.Diagnostics;
using System.Runtime.InteropServices;

namespace Chronotype.Studio.Readers;

/// <summary>How far readers are kept from everything else.</summary>
public enum ReaderReach
{
    /// <summary>They reach what the studio's account does; only memory and time are limited.</summary>
    Everything,

    /// <summary>They have no network, and can read what the studio's account can.</summary>
    NoNetwork,

    /// <summary>They have no network, and see no file but programs, their libraries and typefaces, and a folder of their own.</summary>
    OwnFolder,
}

/// <summary>
/// Keeps readers apart, by namespaces of the system that need no root (Linux, user_namespaces(7)): with bubblewrap from the files and the
/// network; without it, with unshare(1), from the network. Where the system allows neither, readers run without, and whoever looks after the
/// studio is told so.
/// </summary>
/// <param name="Reach">How far they reach.</param>
/// <param name="Tool">The program that begins the namespaces; null where there is none that works.</param>
public sealed record ReaderIsolation(ReaderReach Reach, string? Tool)
{
    /// <summary>Nothing keeps readers apart.</summary>
    public static readonly ReaderIsolation None = new(ReaderReach.Everything, null);

    private static readonly Lazy<ReaderIsolation> Found = new(Find);

    private static readonly string[] NoNetwork = ["--user", "--map-root-user", "--net", "--"];

    // Programs need these of the system: code, libraries and their list, typefaces and their cache.
    private static readonly string[] System =
    [
        "/usr",
        "/bin",
        "/sbin",
        "/lib",
        "/lib64",
        "/etc/ld.so.cache",
        "/etc/fonts",
        "/etc/alternatives",
        "/etc/localtime",
        "/var/cache/fontconfig",
    ];

    /// <summary>Readers have no network.</summary>
    public bool HasNoNetwork => Reach != ReaderReach.Everything;

    /// <summary>The isolation that this machine allows, tried once with a program that does nothing.</summary>
    public static ReaderIsolation Here => Found.Value;

    private static ReaderIsolation Find()
    {
        foreach (var (reach, name) in new[] { (ReaderReach.OwnFolder, "bwrap"), (ReaderReach.NoNetwork, "unshare") })
        {
            if (
                new[] { $"/usr/bin/{name}", $"/bin/{name}" }.FirstOrDefault(File.Exists) is { } tool
                && Works(new ReaderIsolation(reach, tool))
            )
                return new ReaderIsolation(reach, tool);
        }
        return None;
    }

    private static bool Works(ReaderIsolation isolation)
    {
        try
        {
            var start = isolation.Start(Path.GetTempPath(), "/bin/true");
            start.RedirectStandardError = start.RedirectStandardOutput = true;
            using var tried = Process.Start(start)!;
            if (!tried.WaitForExit(TimeSpan.FromSeconds(10)))
                tried.Kill();
            return tried.HasExited && tried.ExitCode == 0;
        }
        catch (Exception e) when (e is Win32Exception or IOException)
        {
            return false;
        }
    }

    /// <summary>A program started apart.</summary>
    /// <param name="folder">The one folder that it may write to, and begins in.</param>
    /// <param name="program">Its full path.</param>
    public ProcessStartInfo Start(string folder, string program, params IEnumerable<string> arguments)
    {
        var start = Reach switch
        {
            ReaderReach.OwnFolder => new ProcessStartInfo("/bin/sh", InOwnFolder(folder, program, arguments)),
            ReaderReach.NoNetwork => new ProcessStartInfo(Tool!, [.. NoNetwork, program, .. arguments]),
            _ => new ProcessStartInfo(program, arguments),
        };
        start.WorkingDirectory = folder;
        return start;
    }

    // The shell is there to be the parent: what ends with its parent would end with the thread that began it (prctl(2), PR_SET_PDEATHSIG),
    // and the studio's threads come and go.
    private List<string> InOwnFolder(string folder, string program, IEnumerable<string> arguments) =>
        [
            "-c",
            "\"$@\"; exit $?",
            "reader",
            Tool!,
            "--unshare-all",
            "--die-with-parent",
            "--new-session",
            .. System.Where(Path.Exists).SelectMany(p => LinkOrBind(p)),
            .. ReadOnly(Path.GetFullPath(Path.Combine(RuntimeEnvironment.GetRuntimeDirectory(), "../../.."))),
            .. ReadOnly(AppContext.BaseDirectory),
            "--proc",
            "/proc",
            "--dev",
            "/dev",
            "--bind",
            folder,
            folder,
            "--chdir",
            folder,
            "--",
            program,
            .. arguments,
        ];

    private static string[] LinkOrBind(string path) =>
        new FileInfo(path).LinkTarget is { } target && Directory.Exists(path) ? ["--symlink", target, path] : ReadOnly(path);

    private static string[] ReadOnly(string path) => ["--ro-bind", path, path];
}
