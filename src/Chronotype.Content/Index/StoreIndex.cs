using Chronotype.Content.Files;
using Chronotype.Content.Segments;

namespace Chronotype.Content.Index;

/// <summary>
/// Finds records by their keys: what came lately in memory, the rest in runs on disk, of which each is at least three times as
/// long as the next (a log-structured merge-tree: P. O'Neil et al., Acta Informatica 33, 1996). All of it can be made anew from
/// the segments, so nothing here is ever the only place that knows something.
/// </summary>
internal sealed class StoreIndex(IStoreFiles files, string folder, SegmentSet segments) : IDisposable
{
    private const int Growth = 3;

    private readonly Lock gate = new();
    private readonly Dictionary<RecordKey, Location> recent = [];
    private IndexRun[] runs = [];
    private IndexManifest manifest = IndexManifest.Empty;

    // Never one that a manifest on disk may name, also one that could not be made durable.
    private uint nextRun = 1;

    /// <summary>The runs know all records before this place.</summary>
    public (uint Segment, uint Offset) Covered => (manifest.Segment, manifest.Offset);

    public int RecentCount
    {
        get
        {
            lock (gate)
                return recent.Count;
        }
    }

    /// <summary>Bytes on disk.</summary>
    public long Bytes => runs.Sum(r => r.Bytes);

    /// <summary>Entries on disk and in memory; one that was written twice may count twice.</summary>
    public long Entries => runs.Sum(r => r.Entries) + RecentCount;

    /// <summary>Opens what is on disk.</summary>
    /// <exception cref="IndexDamagedException">It is not whole.</exception>
    public void Load()
    {
        var read = IndexManifest.Read(files, folder) ?? IndexManifest.Empty;
        var opened = new List<IndexRun>();
        try
        {
            foreach (var number in read.Runs)
                opened.Add(IndexRun.Open(files, folder, number));
        }
        catch
        {
            foreach (var run in opened)
                run.Dispose();
            throw;
        }
        Take([.. opened], read, clear: true);
    }

    /// <summary>Forgets everything, so that it can be made anew.</summary>
    public void Clear() => Take([], new IndexManifest(0, 0, manifest.NextRun + 1, []), clear: true);

    public void Add(RecordKey key, Location location)
    {
        if (key.Kind == RecordKind.End)
            return;
        if (key.Kind == RecordKind.Drop)
            key = key with { Kind = RecordKind.Content };
        lock (gate)
            recent[key] = location;
    }

    /// <summary>Forgets what is not on disk yet.</summary>
    public void ForgetRecent()
    {
        lock (gate)
            recent.Clear();
    }

    /// <summary>Where the newest record of a key stands, one that drops a content included.</summary>
    /// <exception cref="IndexDamagedException">The answer stands in a damaged page.</exception>
    public bool TryFindRaw(RecordKey key, out Location location)
    {
        while (true)
        {
            IndexRun[] now;
            lock (gate)
            {
                if (recent.TryGetValue(key, out location) && segments.Has(location.Segment))
                    return true;
                now = runs;
            }
            try
            {
                for (var i = now.Length - 1; i >= 0; i--)
                {
                    // An entry of a segment that was compacted away is none.
                    if (now[i].TryFind(key, out location) && segments.Has(location.Segment))
                        return true;
                }
                return false;
            }
            catch (ObjectDisposedException) when (now != runs)
            {
                // Merged in this very moment.
            }
        }
    }

    /// <summary>The newest entry of every key of a kind, those of dropped contents included.</summary>
    public Dictionary<Digest, Location> AllOf(RecordKind kind)
    {
        while (true)
        {
            IndexRun[] now;
            KeyValuePair<RecordKey, Location>[] fresh;
            // As of one moment; whoever appends waits for this alone, and not for the walk.
            lock (gate)
                (now, fresh) = (runs, [.. recent.Where(e => e.Key.Kind == kind)]);
            try
            {
                var all = new Dictionary<Digest, Location>();
                foreach (var run in now)
                {
                    foreach (var entry in run.EntriesOf(kind))
                    {
                        if (segments.Has(entry.Location.Segment))
                            all[entry.Key.Id] = entry.Location;
                    }
                }
                foreach (var (key, location) in fresh)
                {
                    if (segments.Has(location.Segment))
                        all[key.Id] = location;
                }
                return all;
            }
            catch (ObjectDisposedException) when (now != runs)
            {
                // Merged in this very moment.
            }
        }
    }

    /// <summary>Reads every page on disk.</summary>
    /// <exception cref="IndexDamagedException">One is damaged.</exception>
    public void Verify()
    {
        lock (gate)
        {
            IndexManifest.Read(files, folder);
            foreach (var run in runs)
                run.Verify();
        }
    }

    /// <summary>Writes what is in memory to disk. Nothing may be added meanwhile, and all of it must be durable in its segments.</summary>
    /// <param name="segment">All records before this place are known.</param>
    /// <param name="offset">Bytes from that segment's beginning.</param>
    /// <param name="mergeAll">Whether all runs become one, without what was compacted away.</param>
    public void Checkpoint(uint segment, long offset, bool mergeAll = false)
    {
        IndexEntry[] fresh;
        lock (gate)
            fresh = [.. recent.Select(e => new IndexEntry(e.Key, e.Value))];
        Array.Sort(fresh, (a, b) => a.Key.CompareTo(b.Key));
        var kept = runs.ToList();
        var written = new List<uint>();
        try
        {
            if (fresh.Length > 0 || (mergeAll && kept.Count > 0))
            {
                IEnumerable<IndexEntry> entries = fresh;
                long count = fresh.Length;
                // All that are too small to stand before the new one go into it at once.
                while (kept.Count > 0 && (mergeAll || kept[^1].Entries < Growth * count))
                {
                    entries = Merged(kept[^1].All(), entries);
                    count += kept[^1].Entries;
                    kept.RemoveAt(kept.Count - 1);
                }
                var number = nextRun++;
                IndexRunWriter.Write(files, folder, number, entries, count);
                written.Add(number);
                files.FlushFolder(folder);
                kept.Add(IndexRun.Open(files, folder, number));
            }
            var after = new IndexManifest(segment, (uint)offset, nextRun, [.. kept.Select(r => r.Number)]);
            after.Write(files, folder);
            var old = runs;
            Take([.. kept], after, clear: true);
            foreach (var run in old.Except(kept))
                run.Dispose();
        }
        catch
        {
            if (written.Count > 0)
                kept.Find(r => r.Number == written[0])?.Dispose();
            throw;
        }
        Tidy();
    }

    /// <summary>Removes runs that the manifest does not name.</summary>
    public void Tidy()
    {
        var known = manifest.Runs.Select(IndexRun.NameOf).Append(IndexManifest.FileName).ToHashSet();
        foreach (var name in files.List(folder).Where(n => !known.Contains(n)))
            files.Delete(Path.Combine(folder, name));
    }

    public void Dispose()
    {
        foreach (var run in runs)
            run.Dispose();
        runs = [];
    }

    private void Take(IndexRun[] next, IndexManifest read, bool clear)
    {
        lock (gate)
        {
            foreach (var run in runs.Except(next))
                run.Dispose();
            (runs, manifest) = (next, read);
            nextRun = Math.Max(nextRun, read.NextRun);
            if (clear)
                recent.Clear();
        }
    }

    // Of two entries of one key the newer one counts, and one of a segment that is gone counts for nothing.
    private IEnumerable<IndexEntry> Merged(IEnumerable<IndexEntry> older, IEnumerable<IndexEntry> newer)
    {
        using var a = older.Where(e => segments.Has(e.Location.Segment)).GetEnumerator();
        using var b = newer.GetEnumerator();
        var (hasA, hasB) = (a.MoveNext(), b.MoveNext());
        while (hasA || hasB)
        {
            var order =
                !hasA ? 1
                : !hasB ? -1
                : a.Current.Key.CompareTo(b.Current.Key);
            yield return order < 0 ? a.Current : b.Current;
            if (order <= 0)
                hasA = a.MoveNext();
            if (order >= 0)
                hasB = b.MoveNext();
        }
    }
}
