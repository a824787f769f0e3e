using System.Buffers.Binary;
using System.IO.Hashing;
using System.Runtime.InteropServices;
using Chronotype.Content.Files;
using Chronotype.Content.Segments;

namespace Chronotype.Content.Index;

/// <summary>A part of the index that changes no more. Finding a key reads one page.</summary>
internal sealed class IndexRun : IDisposable
{
    private const int MostLately = 1024;

    private readonly IStoreFile file;
    private readonly RunFormat.Header header;
    private readonly ulong[] firstIds;
    private readonly RunFormat.Filter filter;

    // Pages that were asked for lately, each at the one place where it may stand.
    private readonly Lately?[] lately;

    // Of each such place the page that was asked for last: one that is asked for once is let go, since the keys of a content that is read
    // in order stand all over the run, and holding each of their pages for a moment would keep none.
    private readonly uint[] asked;

    [ThreadStatic]
    private static byte[]? passing;

    /// <summary>A page that is held; whoever looks into it locks it.</summary>
    private sealed class Lately
    {
        public readonly byte[] Page = new byte[RunFormat.PageBytes];

        /// <summary>Which page it is; 0, which is the header's, for none that was checked.</summary>
        public uint Number;
    }

    private IndexRun(uint number, IStoreFile file, RunFormat.Header header, ulong[] firstIds, byte[] filter)
    {
        (Number, this.file, this.header, this.firstIds) = (number, file, header, firstIds);
        this.filter = new RunFormat.Filter(filter);
        lately = new Lately[Math.Min(MostLately, (int)header.Pages + 1)];
        asked = new uint[lately.Length];
    }

    public uint Number { get; }
    public long Entries => header.Sections.Sum(s => (long)s.Entries);

    /// <summary>Bytes on disk.</summary>
    public long Bytes => header.FileBytes;

    public static string NameOf(uint number) => $"{number:d8}.run";

    /// <exception cref="IndexDamagedException">The file is not there, or is no whole run.</exception>
    public static IndexRun Open(IStoreFiles files, string folder, uint number)
    {
        IStoreFile file;
        try
        {
            file = files.Open(Path.Combine(folder, NameOf(number)), forWriting: false);
        }
        catch (FileNotFoundException e)
        {
            throw new IndexDamagedException($"The run {number} is not there.", e);
        }
        try
        {
            var page = new byte[RunFormat.PageBytes];
            var header = RunFormat.ReadHeader(page.AsSpan(0, file.Read(page, 0)));
            if (file.Length != header.FileBytes)
                throw new IndexDamagedException($"The run {number} is not as long as it was.");
            var firstIds = new ulong[header.Pages];
            var filter = new byte[header.FilterBytes];
            var check = new XxHash3();
            var idBytes = MemoryMarshal.AsBytes(firstIds.AsSpan());
            file.Read(idBytes, header.TailAt);
            file.Read(filter, header.TailAt + idBytes.Length);
            check.Append(idBytes);
            check.Append(filter);
            if (check.GetCurrentHashAsUInt64() != header.TailCheck)
                throw new IndexDamagedException($"The run {number} is damaged.");
            if (!BitConverter.IsLittleEndian)
                BinaryPrimitives.ReverseEndianness(firstIds, firstIds);
            return new IndexRun(number, file, header, firstIds, filter);
        }
        catch
        {
            file.Dispose();
            throw;
        }
    }

    /// <exception cref="IndexDamagedException">The page that would hold the key is damaged.</exception>
    public bool TryFind(RecordKey key, out Location location)
    {
        location = default;
        var section = header.Sections[RunFormat.SectionOf(key.Kind)];
        if (section.Pages == 0 || !filter.MayHave(key))
            return false;
        var ids = firstIds.AsSpan((int)section.FirstPage - 1, (int)section.Pages);
        var at = ids.BinarySearch(key.Id.A);
        var page = at >= 0 ? at : ~at - 1;
        if (page < 0)
            return false;
        // Digests that begin with the same 64 bits may stand on several pages, of which any was met.
        while (page + 1 < ids.Length && ids[page + 1] == key.Id.A)
            page++;
        do
        {
            if (TryFindIn(section.FirstPage + (uint)page, key, out location))
                return true;
        } while (ids[page] == key.Id.A && --page >= 0);
        return false;
    }

    private bool TryFindIn(uint pageNumber, RecordKey key, out Location location)
    {
        var place = pageNumber % lately.Length;
        var wasAsked = Interlocked.Exchange(ref asked[place], pageNumber) == pageNumber;
        var held = Volatile.Read(ref lately[place]);
        if (held is null)
        {
            Interlocked.CompareExchange(ref lately[place], new Lately(), null);
            (held, wasAsked) = (lately[place]!, true);
        }
        lock (held)
        {
            if (held.Number != pageNumber && wasAsked)
            {
                held.Number = 0;
                Page(held.Page, pageNumber);
                held.Number = pageNumber;
            }
            if (held.Number == pageNumber)
                return TryFindIn(held.Page, key, out location);
        }
        var page = passing ??= new byte[RunFormat.PageBytes];
        Page(page, pageNumber);
        return TryFindIn(page, key, out location);
    }

    private static bool TryFindIn(byte[] page, RecordKey key, out Location location)
    {
        var count = RunFormat.CountOf(page);
        int low = 0,
            high = count - 1;
        while (low <= high)
        {
            var middle = (low + high) >>> 1;
            var order = RunFormat.IdAt(page, middle).CompareTo(key.Id);
            if (order == 0)
            {
                location = RunFormat.ReadEntry(page, middle, key.Kind).Location;
                return true;
            }
            if (order < 0)
                low = middle + 1;
            else
                high = middle - 1;
        }
        location = default;
        return false;
    }

    /// <summary>All entries of one kind, in the order of their keys.</summary>
    public IEnumerable<IndexEntry> EntriesOf(RecordKind kind)
    {
        var section = header.Sections[RunFormat.SectionOf(kind)];
        var page = new byte[RunFormat.PageBytes];
        for (var p = 0u; p < section.Pages; p++)
        {
            var count = Page(page, section.FirstPage + p);
            for (var i = 0; i < count; i++)
                yield return RunFormat.ReadEntry(page, i, kind);
        }
    }

    /// <summary>All entries, in the order of their keys.</summary>
    public IEnumerable<IndexEntry> All() =>
        EntriesOf(RecordKind.Chunk)
            .Concat(EntriesOf(RecordKind.List))
            .Concat(EntriesOf(RecordKind.Content))
            .Concat(EntriesOf(RecordKind.Note));

    /// <summary>Reads every page.</summary>
    /// <exception cref="IndexDamagedException">One is damaged.</exception>
    public void Verify()
    {
        Span<byte> page = stackalloc byte[RunFormat.PageBytes];
        if (file.Length != header.FileBytes)
            throw new IndexDamagedException($"The run {Number} is not as long as it was.");
        RunFormat.ReadHeader(page[..file.Read(page, 0)]);
        for (var p = 1u; p <= header.Pages; p++)
            Page(page, p);
        var check = new XxHash3();
        var tail = new byte[1 << 16];
        for (var at = header.TailAt; at < header.FileBytes; )
        {
            var read = file.Read(tail, at);
            if (read == 0)
                break;
            check.Append(tail.AsSpan(0, read));
            at += read;
        }
        if (check.GetCurrentHashAsUInt64() != header.TailCheck)
            throw new IndexDamagedException($"The run {Number} is damaged.");
    }

    public void Dispose() => file.Dispose();

    private int Page(Span<byte> page, uint number)
    {
        if (file.Read(page, (long)number * RunFormat.PageBytes) < RunFormat.PageBytes)
            throw new IndexDamagedException($"The run {Number} is cut short.");
        return RunFormat.CheckPage(page, number);
    }
}
