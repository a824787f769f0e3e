using Chronotype.Content.Files;

namespace Chronotype.Content.Tests;

/// <summary>
/// A disk that forgets, when the power goes, what it was not told to make durable: of a file's bytes any sectors that were not
/// flushed, of its folders any of the last changes that were not. What survives of them is drawn by chance.
/// </summary>
internal sealed class ForgetfulDisk : IStoreFiles
{
    private const int Sector = 512;

    private readonly Lock gate = new();
    private readonly Dictionary<string, Inode> seen = [];
    private readonly Dictionary<string, Inode> durable = [];
    private readonly List<(string Folder, Action<Dictionary<string, Inode>> Apply)> pending = [];

    private sealed class Inode
    {
        public byte[] Bytes = [];
        public long Length;
        public byte[] Durable = [];
        public readonly HashSet<long> Unflushed = [];
    }

    private int left = int.MaxValue;
    private Random? fate;
    private ForgetfulDisk? found;
    private bool isPowerLost;

    /// <summary>
    /// Has the power go, or the process be killed, just before the disk would do something for the n-th time from now. From then
    /// on it does nothing.
    /// </summary>
    public void EndAfter(int requests, bool isPower, Random random) => (left, isPowerLost, fate) = (requests, isPower, random);

    /// <summary>Whether it came to that.</summary>
    public bool IsDead => found is not null;

    /// <summary>What is found afterwards; it comes to it now, if it did not before.</summary>
    public ForgetfulDisk Afterwards(Random random)
    {
        found ??= After(random);
        return found;
    }

    private ForgetfulDisk After(Random random) => isPowerLost ? AfterPowerLoss(random) : AfterKill();

    /// <summary>Everything that was done is seen, and none of it is any more durable than it was.</summary>
    private ForgetfulDisk AfterKill()
    {
        var after = new ForgetfulDisk();
        foreach (var (name, inode) in seen)
            after.seen[name] = inode;
        foreach (var (name, inode) in durable)
            after.durable[name] = inode;
        after.pending.AddRange(pending);
        return after;
    }

    private void Ask(bool isChange = true)
    {
        if (found is null && isChange && --left == 0)
            found = After(fate!);
        if (found is not null)
            throw new IOException("The power is gone.");
    }

    private ForgetfulDisk AfterPowerLoss(Random random)
    {
        lock (gate)
        {
            var names = new Dictionary<string, Inode>(durable);
            foreach (var (_, apply) in pending.Take(random.Next(pending.Count + 1)))
                apply(names);
            var after = new ForgetfulDisk();
            foreach (var (name, inode) in names)
            {
                var bytes = Survived(inode, random);
                after.seen[name] = after.durable[name] = new Inode
                {
                    Bytes = bytes,
                    Length = bytes.Length,
                    Durable = bytes,
                };
            }
            return after;
        }
    }

    private static byte[] Survived(Inode inode, Random random)
    {
        var bytes = inode.Durable.ToList();
        // None of it, all of it, or any mixture.
        var share = random.Next(3) switch
        {
            0 => 0.0,
            1 => 1.0,
            _ => random.NextDouble(),
        };
        foreach (var sector in inode.Unflushed.Order())
        {
            if (random.NextDouble() >= share)
                continue;
            var (at, end) = (sector * Sector, Math.Min((sector + 1) * Sector, inode.Length));
            while (bytes.Count < end)
                bytes.Add(0);
            for (var i = at; i < end; i++)
                bytes[(int)i] = inode.Bytes[i];
        }
        return [.. bytes];
    }

    public IReadOnlyList<string> List(string folder)
    {
        lock (gate)
            Ask(isChange: false);
        lock (gate)
            return [.. seen.Keys.Where(k => Path.GetDirectoryName(k) == folder).Select(k => Path.GetFileName(k)!)];
    }

    public bool Exists(string path)
    {
        lock (gate)
            return seen.ContainsKey(path);
    }

    public void CreateFolder(string folder) { }

    public IStoreFile Create(string path)
    {
        lock (gate)
        {
            Ask();
            var inode = new Inode();
            if (!seen.TryAdd(path, inode))
                throw new IOException($"{path} is there.");
            Change(path, names => names[path] = inode);
            return new OpenFile(this, inode);
        }
    }

    public IStoreFile Open(string path, bool forWriting)
    {
        lock (gate)
            return seen.TryGetValue(path, out var inode) ? new OpenFile(this, inode) : throw new FileNotFoundException(path);
    }

    public void Rename(string from, string to)
    {
        lock (gate)
        {
            Ask();
            var inode = seen[from];
            seen.Remove(from);
            seen[to] = inode;
            Change(
                to,
                names =>
                {
                    names.Remove(from);
                    names[to] = inode;
                }
            );
        }
    }

    public void Delete(string path)
    {
        lock (gate)
        {
            Ask();
            if (seen.Remove(path))
                Change(path, names => names.Remove(path));
        }
    }

    public void FlushFolder(string folder)
    {
        lock (gate)
        {
            Ask();
            foreach (var change in pending.Where(p => p.Folder == folder))
                change.Apply(durable);
            pending.RemoveAll(p => p.Folder == folder);
        }
    }

    public IDisposable Hold(string path) => new Nothing();

    private void Change(string path, Action<Dictionary<string, Inode>> apply) => pending.Add((Path.GetDirectoryName(path)!, apply));

    private sealed class Nothing : IDisposable
    {
        public void Dispose() { }
    }

    private sealed class OpenFile(ForgetfulDisk disk, Inode inode) : IStoreFile
    {
        public long Length
        {
            get
            {
                lock (disk.gate)
                    return inode.Length;
            }
        }

        public int Read(Span<byte> into, long at)
        {
            lock (disk.gate)
            {
                disk.Ask(isChange: false);
                var length = (int)Math.Clamp(inode.Length - at, 0, into.Length);
                inode.Bytes.AsSpan((int)Math.Min(at, inode.Length), length).CopyTo(into);
                return length;
            }
        }

        public void Write(ReadOnlySpan<byte> bytes, long at)
        {
            lock (disk.gate)
            {
                disk.Ask();
                if (at + bytes.Length > inode.Bytes.Length)
                    Array.Resize(ref inode.Bytes, (int)Math.Max(at + bytes.Length, inode.Bytes.Length * 2));
                bytes.CopyTo(inode.Bytes.AsSpan((int)at));
                inode.Length = Math.Max(inode.Length, at + bytes.Length);
                for (var sector = at / Sector; sector * Sector < at + bytes.Length; sector++)
                    inode.Unflushed.Add(sector);
            }
        }

        public void Allocate(long upTo) { }

        public void BeginFlush(long at, long length) { }

        public void Flush()
        {
            lock (disk.gate)
            {
                disk.Ask();
                inode.Durable = inode.Bytes[..(int)inode.Length];
                inode.Unflushed.Clear();
            }
        }

        public void Truncate(long length)
        {
            lock (disk.gate)
            {
                disk.Ask();
                if (length < inode.Length)
                    Array.Clear(inode.Bytes, (int)length, (int)(inode.Length - length));
                inode.Length = length;
                inode.Unflushed.RemoveWhere(s => s * Sector >= length);
            }
        }

        public void Dispose() { }
    }
}
