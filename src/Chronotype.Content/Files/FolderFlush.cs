using System.Runtime.InteropServices;

namespace Chronotype.Content.Files;

/// <summary>Flushes a folder's own entries, without which a rename may be lost with the power (POSIX fsync on a directory).</summary>
public static partial class FolderFlush
{
    private const int ReadOnly = 0;

    /// <exception cref="IOException">The folder could not be flushed.</exception>
    public static void Flush(string folder)
    {
        // Windows journals the rename itself and has no call for this.
        if (OperatingSystem.IsWindows())
            return;
        var handle = Open(folder, ReadOnly);
        if (handle < 0)
            throw new IOException($"The folder {folder} could not be opened to be flushed (error {Marshal.GetLastPInvokeError()}).");
        try
        {
            if (FSync(handle) != 0)
                throw new IOException($"The folder {folder} could not be flushed (error {Marshal.GetLastPInvokeError()}).");
        }
        finally
        {
            _ = Close(handle);
        }
    }

    [LibraryImport("libc", EntryPoint = "open", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Open(string path, int flags);

    [LibraryImport("libc", EntryPoint = "fsync", SetLastError = true)]
    private static partial int FSync(int handle);

    [LibraryImport("libc", EntryPoint = "close")]
    private static partial int Close(int handle);
}
