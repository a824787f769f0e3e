using System.Buffers.Binary;
using System.IO.Hashing;
using Chronotype.Content.Files;
using Chronotype.Content.Segments;

namespace Chronotype.Content.Index;

/// <summary>Writes a run from entries in the order of their keys.</summary>
internal static class IndexRunWriter
{
    private const int BufferPages = 64;

    /// <param name="files">Where the run is written.</param>
    /// <param name="folder">The index's folder.</param>
    /// <param name="number">The run's, which gives it its name.</param>
    /// <param name="entries">In the order of their keys, each key once.</param>
    /// <param name="atMost">No fewer than there are entries; the filter is made for so many.</param>
    /// <exception cref="StorageFullException">The disk is full; what was begun is removed.</exception>
    public static void Write(IStoreFiles files, string folder, uint number, IEnumerable<IndexEntry> entries, long atMost)
    {
        var path = Path.Combine(folder, IndexRun.NameOf(number));
        files.Delete(path);
        var file = files.Create(path);
        try
        {
            using (file)
                Write(file, entries, atMost);
        }
        catch
        {
            files.Delete(path);
            throw;
        }
    }

    private static void Write(IStoreFile file, IEnumerable<IndexEntry> entries, long atMost)
    {
        var filterBytes = new byte[RunFormat.Filter.BytesFor(atMost)];
        var filter = new RunFormat.Filter(filterBytes);
        var firstIds = new List<ulong>();
        var sections = new RunFormat.Section[RunFormat.Sections];
        var buffer = new byte[BufferPages * RunFormat.PageBytes];
        var (inPage, kind, pages) = (0, RecordKind.Chunk, 0u);
        Span<byte> Page() => buffer.AsSpan((int)(pages % BufferPages) * RunFormat.PageBytes, RunFormat.PageBytes);

        foreach (var entry in entries)
        {
            if (inPage == RunFormat.EntriesAPage || (inPage > 0 && entry.Key.Kind != kind))
                EndPage();
            if (inPage == 0)
            {
                kind = entry.Key.Kind;
                firstIds.Add(entry.Key.Id.A);
            }
            RunFormat.WriteEntry(Page(), inPage++, entry);
            filter.Add(entry.Key);
        }
        if (inPage > 0)
            EndPage();
        var left = (int)(pages % BufferPages);
        if (left > 0)
            file.Write(buffer.AsSpan(0, left * RunFormat.PageBytes), (long)(pages - left + 1) * RunFormat.PageBytes);

        var tail = new byte[firstIds.Count * 8];
        for (var i = 0; i < firstIds.Count; i++)
            BinaryPrimitives.WriteUInt64LittleEndian(tail.AsSpan(i * 8), firstIds[i]);
        var check = new XxHash3();
        check.Append(tail);
        check.Append(filterBytes);
        var header = new RunFormat.Header(sections, pages, filterBytes.Length, check.GetCurrentHashAsUInt64());
        file.Write(tail, header.TailAt);
        file.Write(filterBytes, header.TailAt + tail.Length);
        RunFormat.WriteHeader(buffer, header);
        file.Write(buffer.AsSpan(0, RunFormat.PageBytes), 0);
        file.Flush();

        void EndPage()
        {
            RunFormat.SealPage(Page(), inPage, pages + 1);
            ref var section = ref sections[RunFormat.SectionOf(kind)];
            section = new RunFormat.Section(
                section.Pages == 0 ? pages + 1 : section.FirstPage,
                section.Pages + 1,
                section.Entries + (ulong)inPage
            );
            (inPage, pages) = (0, pages + 1);
            if (pages % BufferPages == 0)
                file.Write(buffer, (long)(pages - BufferPages + 1) * RunFormat.PageBytes);
        }
    }
}
