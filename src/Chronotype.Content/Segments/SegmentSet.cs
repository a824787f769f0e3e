using System.Globalization;
using Chronotype.Content.Files;
using Chronotype.Content.Tiers;

namespace Chronotype.Content.Segments;

/// <summary>All segments of a store, on this disk or on a tier beyond it, to be read at any place.</summary>
internal sealed class SegmentSet(IStoreFiles files, string folder, ISegmentTier? tier) : IDisposable
{
    private const int MaxOpen = 128;
    private const string Extension = ".segment";

    private readonly Lock gate = new();
    private readonly SortedDictionary<uint, Segment> segments = [];
    private readonly LinkedList<Segment> opened = new();

    // As the manifest on disk has it; empty where a store has none yet.
    private Dictionary<uint, ulong> listed = [];
    private readonly HashSet<uint> struck = [];

    private sealed class Segment(uint number, ulong nonce, long length, bool isLocal)
    {
        public readonly uint Number = number;
        public readonly ulong Nonce = nonce;
        public long Length = length;
        public bool IsLocal = isLocal;
        public IStoreFile? File;

        public string Name => NameOf(Number, Nonce);
    }

    /// <summary>The name tells the nonce a second time, so that no segment is lost with its header.</summary>
    public static string NameOf(uint number, ulong nonce) => $"{number:d8}-{nonce:x16}{Extension}";

    public string PathOf(uint number) => Path.Combine(folder, Get(number).Name);

    /// <summary>Looks at what lies on the disk and on the tier.</summary>
    public void Load()
    {
        var tiered = tier?.List() ?? new Dictionary<string, long>();
        lock (gate)
        {
            foreach (var open in opened)
                open.File!.Dispose();
            opened.Clear();
            segments.Clear();
            listed = SegmentManifest.Read(files, StoreFolder) ?? [];
            foreach (var (name, length) in tiered)
            {
                if (TryParse(name, out var number, out var nonce))
                    segments[number] = new Segment(number, nonce, length, isLocal: false);
            }
            foreach (var name in files.List(folder))
            {
                if (!TryParse(name, out var number, out var nonce))
                    continue;
                if (LengthAt(name) is not { } length)
                    continue;
                // One that was never begun does not stand in the way of another of its number.
                if (segments.TryGetValue(number, out var twin) && twin.IsLocal && twin.Length > length)
                    continue;
                segments[number] = new Segment(number, nonce, length, isLocal: true);
            }
        }
    }

    private string StoreFolder => Path.GetDirectoryName(folder)!;

    /// <summary>The names of segments that must be there and are not.</summary>
    public IReadOnlyList<string> Missing
    {
        get
        {
            lock (gate)
                return
                [
                    .. listed
                        .Where(l => !segments.TryGetValue(l.Key, out var there) || there.Nonce != l.Value)
                        .OrderBy(l => l.Key)
                        .Select(l => NameOf(l.Key, l.Value)),
                ];
        }
    }

    /// <summary>The numbers and nonces of all segments that there are or must be.</summary>
    public Dictionary<uint, ulong> Expected
    {
        get
        {
            lock (gate)
            {
                var all = new Dictionary<uint, ulong>(listed);
                foreach (var segment in segments.Values)
                    all[segment.Number] = segment.Nonce;
                foreach (var gone in struck)
                    all.Remove(gone);
                return all;
            }
        }
    }

    /// <summary>
    /// Writes down which segments there are. What was written down and is missing stays so, until it is deleted on purpose.
    /// </summary>
    public void WriteManifest()
    {
        lock (gate)
        {
            var now = Expected;
            if (now.Count == listed.Count && now.All(n => listed.TryGetValue(n.Key, out var nonce) && nonce == n.Value))
                return;
            SegmentManifest.Write(files, StoreFolder, now);
            listed = now;
        }
    }

    /// <summary>Strikes out of the manifest what is missing.</summary>
    public void GiveUpMissing()
    {
        lock (gate)
        {
            if (Missing.Count == 0)
                return;
            var there = segments.Values.ToDictionary(s => s.Number, s => s.Nonce);
            SegmentManifest.Write(files, StoreFolder, there);
            listed = there;
        }
    }

    /// <summary>The segments' numbers, from the oldest.</summary>
    public uint[] Numbers
    {
        get
        {
            lock (gate)
                return [.. segments.Keys];
        }
    }

    /// <summary>The highest number that any segment has or had, as far as is known here; a number is never used twice.</summary>
    public uint Highest
    {
        get
        {
            lock (gate)
                return segments.Keys.Concat(listed.Keys).Concat(struck).DefaultIfEmpty(0u).Max();
        }
    }

    /// <summary>Bytes of all segments.</summary>
    public long TotalBytes
    {
        get
        {
            lock (gate)
                return segments.Values.Sum(s => s.Length);
        }
    }

    /// <summary>The numbers of those that lie on this disk.</summary>
    public uint[] LocalNumbers
    {
        get
        {
            lock (gate)
                return [.. segments.Values.Where(s => s.IsLocal).Select(s => s.Number)];
        }
    }

    public bool Has(uint number)
    {
        lock (gate)
            return segments.ContainsKey(number);
    }

    public bool IsLocal(uint number) => Get(number).IsLocal;

    public long LengthOf(uint number) => Get(number).Length;

    public ulong NonceOf(uint number) => Get(number).Nonce;

    public void Add(uint number, ulong nonce)
    {
        lock (gate)
            segments.Add(number, new Segment(number, nonce, 0, isLocal: true));
    }

    /// <summary>Forgets a segment that could not be begun.</summary>
    public void Forget(uint number)
    {
        lock (gate)
            segments.Remove(number);
    }

    public void SetLength(uint number, long length) => Get(number).Length = length;

    /// <summary>Deletes a segment for good. What it held must stand elsewhere, or be needed no more.</summary>
    public void Delete(uint number)
    {
        var segment = Get(number);
        var isStruck = TryStrike(number);
        // Only when it is surely gone is it forgotten, so that nothing of it comes back unforeseen.
        tier?.Delete(segment.Name);
        files.Delete(Path.Combine(folder, segment.Name));
        files.FlushFolder(folder);
        lock (gate)
        {
            segments.Remove(number);
            Close(segment);
        }
        // On a full disk the segment's own room was needed first.
        if (!isStruck)
            TryStrike(number);
    }

    // What could not be struck out is struck out with the next change.
    private bool TryStrike(uint number)
    {
        lock (gate)
        {
            struck.Add(number);
            try
            {
                WriteManifest();
                return true;
            }
            catch (IOException)
            {
                return false;
            }
        }
    }

    /// <summary>Makes a segment of this disk, and that it is there, durable.</summary>
    public void Flush(uint number)
    {
        if (!IsLocal(number))
            return;
        using (var file = files.Open(PathOf(number), forWriting: true))
            file.Flush();
        files.FlushFolder(folder);
    }

    /// <summary>Deletes segments that were never begun: a crash came before their header stood, and no record comes before that.</summary>
    public void DeleteUnbegun()
    {
        Span<byte> header = stackalloc byte[SegmentFormat.SegmentHeaderBytes];
        foreach (var number in LocalNumbers)
        {
            var length = LengthOf(number);
            if (
                length < header.Length
                || (
                    length == header.Length
                    && Read(number, header, 0) == header.Length
                    && !SegmentFormat.TryReadSegmentHeader(header, out _)
                )
            )
                Delete(number);
        }
    }

    /// <summary>Moves a full segment to the tier. It is read from there once it lies there whole.</summary>
    public void MoveToTier(uint number)
    {
        var segment = Get(number);
        if (tier is null || !segment.IsLocal)
            return;
        using (var file = files.Open(Path.Combine(folder, segment.Name), forWriting: false))
            tier.Place(segment.Name, file);
        lock (gate)
        {
            segment.IsLocal = false;
            Close(segment);
        }
        files.Delete(Path.Combine(folder, segment.Name));
        files.FlushFolder(folder);
    }

    /// <summary>Reads at a place of a segment.</summary>
    /// <returns>Fewer bytes than asked for only at the segment's end.</returns>
    /// <exception cref="SegmentGoneException">
    /// The segment was deleted, so what it held stands elsewhere or is not needed any more.
    /// </exception>
    public int Read(uint number, Span<byte> into, long at)
    {
        for (var tries = 0; ; tries++)
        {
            try
            {
                var (file, name) = Open(number);
                return file is null ? tier!.Read(name, into, at) : file.Read(into, at);
            }
            catch (Exception e) when (e is FileNotFoundException or ObjectDisposedException)
            {
                // Closed to make room for others, moved to the tier, or deleted, in this very moment.
                if (tries > 4 || !Has(number))
                    throw new SegmentGoneException(number, e);
            }
        }
    }

    public void Dispose()
    {
        lock (gate)
        {
            foreach (var segment in opened)
                segment.File!.Dispose();
            opened.Clear();
        }
    }

    private (IStoreFile? File, string Name) Open(uint number)
    {
        lock (gate)
        {
            if (!segments.TryGetValue(number, out var segment))
                throw new SegmentGoneException(number, null);
            if (!segment.IsLocal)
                return (null, segment.Name);
            if (segment.File is null)
            {
                segment.File = files.Open(Path.Combine(folder, segment.Name), forWriting: false);
                opened.AddFirst(segment);
                if (opened.Count > MaxOpen)
                    Close(opened.Last!.Value);
            }
            return (segment.File, segment.Name);
        }
    }

    private void Close(Segment segment)
    {
        if (segment.File is null)
            return;
        segment.File.Dispose();
        segment.File = null;
        opened.Remove(segment);
    }

    private long? LengthAt(string name)
    {
        try
        {
            using var file = files.Open(Path.Combine(folder, name), forWriting: false);
            return file.Length;
        }
        catch (FileNotFoundException)
        {
            // Compacted away by the process that writes, in this very moment.
            return null;
        }
    }

    private Segment Get(uint number)
    {
        lock (gate)
            return segments.TryGetValue(number, out var segment) ? segment : throw new SegmentGoneException(number, null);
    }

    private static bool TryParse(string name, out uint number, out ulong nonce)
    {
        (number, nonce) = (0, 0);
        var stem = name.EndsWith(Extension, StringComparison.Ordinal) ? name[..^Extension.Length] : "";
        return stem.Length == 25
            && stem[8] == '-'
            && uint.TryParse(stem[..8], NumberStyles.None, CultureInfo.InvariantCulture, out number)
            && number > 0
            && ulong.TryParse(stem[9..], NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out nonce);
    }
}

/// <summary>A segment is not there any more.</summary>
internal sealed class SegmentGoneException(uint number, Exception? inner) : IOException($"The segment {number} is not there.", inner);
