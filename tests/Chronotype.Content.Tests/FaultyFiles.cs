using Chronotype.Content;
using Chronotype.Content.Files;

namespace Chronotype.Content.Tests;

/// <summary>The real disk, where one of the things that are asked of it fails.</summary>
internal sealed class FaultyFiles : IStoreFiles
{
    private readonly IStoreFiles disk = DiskFiles.Instance;
    private readonly Lock gate = new();
    private int holds;

    /// <summary>What has been asked so far that changes something, or makes it durable.</summary>
    public int Asked { get; private set; }

    /// <summary>How often a file was flushed.</summary>
    public int Flushes { get; private set; }

    /// <summary>How often a hold was asked for, whether or not it was had.</summary>
    public int Holds => Volatile.Read(ref holds);

    /// <summary>From which on it fails; 0 for never.</summary>
    public int FailAt { get; set; }

    /// <summary>How many fail, one behind the other.</summary>
    public int FailFor { get; set; } = 1;

    /// <summary>Whether it fails as a full disk does.</summary>
    public bool IsFull { get; set; }

    /// <summary>Whether only what needs room fails.</summary>
    public bool IsOnlyFull { get; set; }

    /// <summary>What failed.</summary>
    public List<string> Failed { get; } = [];

    public IReadOnlyList<string> List(string folder) => disk.List(folder);

    public bool Exists(string path) => disk.Exists(path);

    public void CreateFolder(string folder)
    {
        Ask("create folder");
        disk.CreateFolder(folder);
    }

    public IStoreFile Create(string path)
    {
        Ask("create");
        return new FaultyFile(this, disk.Create(path));
    }

    public IStoreFile Open(string path, bool forWriting) => new FaultyFile(this, disk.Open(path, forWriting));

    public void Rename(string from, string to)
    {
        Ask("rename");
        disk.Rename(from, to);
    }

    public void Delete(string path)
    {
        Ask("delete");
        disk.Delete(path);
    }

    public void FlushFolder(string folder)
    {
        Ask("flush folder");
        disk.FlushFolder(folder);
    }

    public IDisposable Hold(string path)
    {
        Interlocked.Increment(ref holds);
        return disk.Hold(path);
    }

    private void Ask(string what)
    {
        lock (gate)
        {
            Asked++;
            if (what == "flush")
                Flushes++;
            if (IsOnlyFull && what is not ("write" or "allocate" or "create"))
                return;
            if (FailAt == 0 || Asked < FailAt || Asked >= FailAt + FailFor)
                return;
            Failed.Add(what);
        }
        throw IsFull && what is "write" or "allocate" or "create"
            ? new StorageFullException(new IOException("played"))
            : new IOException($"The {what} was made to fail.");
    }

    private sealed class FaultyFile(FaultyFiles owner, IStoreFile file) : IStoreFile
    {
        public long Length => file.Length;

        public int Read(Span<byte> into, long at) => file.Read(into, at);

        public void Write(ReadOnlySpan<byte> bytes, long at)
        {
            try
            {
                owner.Ask("write");
            }
            catch
            {
                // Half of it got there.
                file.Write(bytes[..(bytes.Length / 2)], at);
                throw;
            }
            file.Write(bytes, at);
        }

        public void Allocate(long upTo)
        {
            owner.Ask("allocate");
            file.Allocate(upTo);
        }

        public void BeginFlush(long at, long length) => file.BeginFlush(at, length);

        public void Flush()
        {
            owner.Ask("flush");
            file.Flush();
        }

        public void Truncate(long length)
        {
            owner.Ask("truncate");
            file.Truncate(length);
        }

        public void Dispose() => file.Dispose();
    }
}
