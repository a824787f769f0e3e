using System.Buffers.Binary;
using System.IO.Hashing;
using Chronotype.Content.Segments;

namespace Chronotype.Content.Index;

/// <summary>Where a record stands, by its key.</summary>
internal readonly record struct IndexEntry(RecordKey Key, Location Location);

/// <summary>
/// The bytes of a run of the index, as docs/storage.md tells them: a header page, pages of entries in the order of their keys,
/// then the first key of every page and a filter of what is there (a blocked Bloom filter: F. Putze, P. Sanders, J. Singler,
/// "Cache-, Hash- and Space-Efficient Bloom Filters", WEA 2007).
/// </summary>
internal static class RunFormat
{
    public const int PageBytes = 4096,
        EntryBytes = 48,
        EntriesAPage = 85,
        Sections = 4;
    private const int CheckAt = PageBytes - 8,
        CountAt = PageBytes - 16,
        PageNumberAt = PageBytes - 12;
    private const ushort Version = 2;

    private static ReadOnlySpan<byte> Magic => "CHRONIDX"u8;

    /// <summary>The part of a run that holds one kind of record.</summary>
    public readonly record struct Section(uint FirstPage, uint Pages, ulong Entries);

    /// <param name="Sections">For chunks, lists, contents and notes.</param>
    /// <param name="Pages">Of all sections together, without the header's.</param>
    /// <param name="FilterBytes">Bytes of the filter, a multiple of 64.</param>
    /// <param name="TailCheck">XXH3 over the first keys and the filter.</param>
    public readonly record struct Header(Section[] Sections, uint Pages, long FilterBytes, ulong TailCheck)
    {
        public long TailAt => (long)(Pages + 1) * PageBytes;
        public long FileBytes => TailAt + (long)Pages * 8 + FilterBytes;
    }

    /// <summary>The place of a kind among the sections.</summary>
    public static int SectionOf(RecordKind kind) => kind == RecordKind.Note ? 3 : (int)kind - 1;

    public static void WriteHeader(Span<byte> page, Header header)
    {
        page[..PageBytes].Clear();
        Magic.CopyTo(page);
        BinaryPrimitives.WriteUInt16LittleEndian(page[8..], Version);
        BinaryPrimitives.WriteUInt32LittleEndian(page[12..], header.Pages);
        BinaryPrimitives.WriteInt64LittleEndian(page[16..], header.FilterBytes);
        BinaryPrimitives.WriteUInt64LittleEndian(page[24..], header.TailCheck);
        for (var i = 0; i < Sections; i++)
        {
            var at = page[(32 + i * 16)..];
            BinaryPrimitives.WriteUInt32LittleEndian(at, header.Sections[i].FirstPage);
            BinaryPrimitives.WriteUInt32LittleEndian(at[4..], header.Sections[i].Pages);
            BinaryPrimitives.WriteUInt64LittleEndian(at[8..], header.Sections[i].Entries);
        }
        BinaryPrimitives.WriteUInt64LittleEndian(page[CheckAt..], XxHash3.HashToUInt64(page[..CheckAt]));
    }

    /// <exception cref="IndexDamagedException">The page is no header of a run.</exception>
    public static Header ReadHeader(ReadOnlySpan<byte> page)
    {
        if (
            page.Length < PageBytes
            || !page.StartsWith(Magic)
            || BinaryPrimitives.ReadUInt64LittleEndian(page[CheckAt..]) != XxHash3.HashToUInt64(page[..CheckAt])
        )
            throw new IndexDamagedException("A run's header is damaged.");
        if (BinaryPrimitives.ReadUInt16LittleEndian(page[8..]) != Version)
            throw new IndexDamagedException("A run is of another version.");
        var sections = new Section[Sections];
        for (var i = 0; i < Sections; i++)
        {
            var at = page[(32 + i * 16)..];
            sections[i] = new Section(
                BinaryPrimitives.ReadUInt32LittleEndian(at),
                BinaryPrimitives.ReadUInt32LittleEndian(at[4..]),
                BinaryPrimitives.ReadUInt64LittleEndian(at[8..])
            );
        }
        return new Header(
            sections,
            BinaryPrimitives.ReadUInt32LittleEndian(page[12..]),
            BinaryPrimitives.ReadInt64LittleEndian(page[16..]),
            BinaryPrimitives.ReadUInt64LittleEndian(page[24..])
        );
    }

    public static void WriteEntry(Span<byte> page, int index, IndexEntry entry)
    {
        var at = page[(index * EntryBytes)..];
        entry.Key.Id.Write(at);
        BinaryPrimitives.WriteUInt32LittleEndian(at[32..], entry.Location.Segment);
        BinaryPrimitives.WriteUInt32LittleEndian(at[36..], entry.Location.Offset);
        BinaryPrimitives.WriteUInt32LittleEndian(at[40..], entry.Location.Stored);
        at[44..48].Clear();
    }

    public static Digest IdAt(ReadOnlySpan<byte> page, int index) => Digest.Read(page[(index * EntryBytes)..]);

    public static IndexEntry ReadEntry(ReadOnlySpan<byte> page, int index, RecordKind kind)
    {
        var at = page[(index * EntryBytes)..];
        return new IndexEntry(
            new RecordKey(kind, Digest.Read(at)),
            new Location(
                BinaryPrimitives.ReadUInt32LittleEndian(at[32..]),
                BinaryPrimitives.ReadUInt32LittleEndian(at[36..]),
                BinaryPrimitives.ReadUInt32LittleEndian(at[40..])
            )
        );
    }

    /// <param name="page">A page with its entries; the rest of it is filled in.</param>
    /// <param name="count">How many entries stand in it.</param>
    /// <param name="number">The page's place in the run, from 1.</param>
    public static void SealPage(Span<byte> page, int count, uint number)
    {
        page[(count * EntryBytes)..CountAt].Clear();
        BinaryPrimitives.WriteInt32LittleEndian(page[CountAt..], count);
        BinaryPrimitives.WriteUInt32LittleEndian(page[PageNumberAt..], number);
        BinaryPrimitives.WriteUInt64LittleEndian(page[CheckAt..], XxHash3.HashToUInt64(page[..CheckAt]));
    }

    public static int CountOf(ReadOnlySpan<byte> page) => BinaryPrimitives.ReadInt32LittleEndian(page[CountAt..]);

    public static uint NumberOf(ReadOnlySpan<byte> page) => BinaryPrimitives.ReadUInt32LittleEndian(page[PageNumberAt..]);

    /// <returns>How many entries the page holds.</returns>
    /// <exception cref="IndexDamagedException">The page is not what was written there.</exception>
    public static int CheckPage(ReadOnlySpan<byte> page, uint number)
    {
        var count = CountOf(page);
        if (
            BinaryPrimitives.ReadUInt64LittleEndian(page[CheckAt..]) != XxHash3.HashToUInt64(page[..CheckAt])
            || NumberOf(page) != number
            || count is < 1 or > EntriesAPage
        )
            throw new IndexDamagedException($"Page {number} of a run is damaged.");
        return count;
    }

    /// <summary>Says for certain that a key is not there, or that it may be.</summary>
    public readonly struct Filter(byte[] bytes)
    {
        private const int BlockBytes = 64,
            BitsAnEntry = 10,
            Probes = 6;

        public static long BytesFor(long entries) =>
            Math.Max(1, (entries * BitsAnEntry + BlockBytes * 8 - 1) / (BlockBytes * 8)) * BlockBytes;

        public void Add(RecordKey key)
        {
            var (block, bits) = Place(key);
            for (var i = 0; i < Probes; i++, bits >>= 9)
                bytes[block + (int)(bits & 511) / 8] |= (byte)(1 << (int)(bits & 7));
        }

        public bool MayHave(RecordKey key)
        {
            var (block, bits) = Place(key);
            for (var i = 0; i < Probes; i++, bits >>= 9)
            {
                if ((bytes[block + (int)(bits & 511) / 8] & (1 << (int)(bits & 7))) == 0)
                    return false;
            }
            return true;
        }

        // The key's id is a SHA-256, whose words are as good as any hash of it.
        private (int Block, ulong Bits) Place(RecordKey key) =>
            (
                (int)Math.BigMul(key.Id.B, (ulong)(bytes.Length / BlockBytes), out _) * BlockBytes,
                key.Id.C ^ ((ulong)key.Kind * 0x9E3779B97F4A7C15)
            );
    }
}

/// <summary>The index is not as it was written. It is made anew from the segments.</summary>
internal sealed class IndexDamagedException(string message, Exception? inner = null) : IOException(message, inner);
