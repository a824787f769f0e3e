using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace Chronotype.Content.Files;

/// <summary>A real disk.</summary>
public sealed partial class DiskFiles : IStoreFiles
{
    /// <summary>There is one disk.</summary>
    public static readonly DiskFiles Instance = new();

    private DiskFiles() { }

    /// <inheritdoc />
    public IReadOnlyList<string> List(string folder) =>
        Directory.Exists(folder) ? [.. Directory.EnumerateFiles(folder).Select(f => Path.GetFileName(f))] : [];

    /// <inheritdoc />
    public bool Exists(string path) => File.Exists(path);

    /// <inheritdoc />
    public void CreateFolder(string folder)
    {
        if (Directory.Exists(folder))
            return;
        if (Path.GetDirectoryName(folder) is { Length: > 0 } above)
        {
            CreateFolder(above);
            Guard(() => Directory.CreateDirectory(folder));
            FlushFolder(above);
        }
    }

    /// <inheritdoc />
    public IStoreFile Create(string path) =>
        new DiskFile(Guard(() => File.OpenHandle(path, FileMode.CreateNew, FileAccess.ReadWrite, FileShare.ReadWrite | FileShare.Delete)));

    /// <inheritdoc />
    public IStoreFile Open(string path, bool forWriting)
    {
        try
        {
            return new DiskFile(
                File.OpenHandle(
                    path,
                    FileMode.Open,
                    forWriting ? FileAccess.ReadWrite : FileAccess.Read,
                    FileShare.ReadWrite | FileShare.Delete
                )
            );
        }
        catch (DirectoryNotFoundException e)
        {
            throw new FileNotFoundException(e.Message, path, e);
        }
    }

    /// <inheritdoc />
    public void Rename(string from, string to) => Guard(() => File.Move(from, to, overwrite: true));

    /// <inheritdoc />
    public void Delete(string path) => File.Delete(path);

    /// <inheritdoc />
    public void FlushFolder(string folder) => FolderFlush.Flush(folder);

    /// <inheritdoc />
    public IDisposable Hold(string path) => new FileStream(path, FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);

    private const int NoSpaceUnix = 28,
        QuotaUnix = 122,
        NoSpaceWindows = unchecked((int)0x80070070);

    private static T Guard<T>(Func<T> write)
    {
        try
        {
            return write();
        }
        catch (IOException e) when (e.HResult is NoSpaceUnix or QuotaUnix or NoSpaceWindows)
        {
            throw new StorageFullException(e);
        }
    }

    private static void Guard(Action write) =>
        Guard(() =>
        {
            write();
            return true;
        });

    private sealed class DiskFile(SafeFileHandle handle) : IStoreFile
    {
        public long Length => RandomAccess.GetLength(handle);

        public int Read(Span<byte> into, long at)
        {
            var read = 0;
            while (read < into.Length)
            {
                var got = RandomAccess.Read(handle, into[read..], at + read);
                if (got == 0)
                    break;
                read += got;
            }
            return read;
        }

        public void Write(ReadOnlySpan<byte> bytes, long at)
        {
            try
            {
                RandomAccess.Write(handle, bytes, at);
            }
            catch (IOException e) when (e.HResult is NoSpaceUnix or QuotaUnix or NoSpaceWindows)
            {
                throw new StorageFullException(e);
            }
        }

        public void Allocate(long upTo)
        {
            if (!OperatingSystem.IsLinux())
                return;
            var from = Length;
            // A file system without this call (EOPNOTSUPP) is simply not asked for room beforehand.
            if (
                upTo > from
                && FAllocate(handle, KeepSize, from, upTo - from) != 0
                && Marshal.GetLastPInvokeError() is NoSpaceUnix or QuotaUnix
            )
                throw new StorageFullException(new IOException("No room could be set aside on the disk.", NoSpaceUnix));
        }

        public void BeginFlush(long at, long length)
        {
            if (OperatingSystem.IsLinux())
                _ = SyncFileRange(handle, at, length, BeginWriting);
        }

        public void Flush() => Guard(() => RandomAccess.FlushToDisk(handle));

        public void Truncate(long length) => RandomAccess.SetLength(handle, length);

        public void Dispose() => handle.Dispose();
    }

    // sync_file_range(2): SYNC_FILE_RANGE_WRITE.
    private const uint BeginWriting = 2;

    [LibraryImport("libc", EntryPoint = "sync_file_range", SetLastError = true)]
    private static partial int SyncFileRange(SafeFileHandle file, long offset, long length, uint flags);

    // fallocate(2): FALLOC_FL_KEEP_SIZE.
    private const int KeepSize = 1;

    [LibraryImport("libc", EntryPoint = "fallocate", SetLastError = true)]
    private static partial int FAllocate(SafeFileHandle file, int mode, long offset, long length);
}
