using Chronotype.Content;
using Chronotype.Content.Files;
using Chronotype.Content.Segments;
using Chronotype.Core.Content;

namespace Chronotype.Content.Tests;

/// <summary>Segments as they lie on the disk, and those who read them beside a writer.</summary>
public sealed class SegmentTests : IDisposable
{
    private readonly StoreFolder folder = new();

    public void Dispose() => folder.Dispose();

    [Fact]
    public async Task Content_that_is_itself_a_segment_is_never_taken_for_records()
    {
        byte[] inner;
        using (var other = new StoreFolder())
        {
            using (var store = other.Open())
                await store.PutAsync(Samples.Noise(30_000, 1));
            inner = File.ReadAllBytes(other.Segments.Single());
        }
        using (var store = folder.Open())
        {
            await store.PutAsync(inner);
            await store.PutAsync(File.ReadAllBytes(folder.Segments[0]));
        }
        // With the headers around it gone, a reader looks for records inside the content too.
        var path = folder.Segments[0];
        var bytes = File.ReadAllBytes(path);
        for (var at = SegmentFormat.SegmentHeaderBytes; at < 20_000; at++)
        {
            if (bytes[at] == 0xE5 && bytes[at + 1] == 0xC7)
                bytes[at] = 0;
        }
        File.WriteAllBytes(path, bytes);
        using var again = folder.Open();
        again.Maintenance.RebuildIndex();
        var inside = ContentHash.Of(Samples.Noise(30_000, 1));
        Assert.False(again.Has(inside));
        Assert.DoesNotContain(again.Maintenance.Contents(), c => c.Hash == inside);
        Assert.NotEmpty(again.Maintenance.Verify().Places);
    }

    [Fact]
    public async Task A_record_is_valid_nowhere_but_where_it_was_written()
    {
        using (var store = folder.Open())
            await store.PutAsync(Samples.Noise(500_000, 2));
        var segments = folder.Segments;
        Assert.True(segments.Length > 1);
        // The second segment's bytes under the first one's name: whole records, in the wrong place.
        File.Copy(segments[1], segments[0], overwrite: true);
        using var again = folder.Open();
        Assert.Throws<DamagedContentException>(() => again.Get(ContentHash.Of(Samples.Noise(500_000, 2))));
        Assert.Single(again.Maintenance.Verify().Damaged);
    }

    [Fact]
    public async Task A_store_is_gone_on_with_where_it_was_closed()
    {
        for (var i = 0; i < 20; i++)
        {
            using var store = folder.Open();
            await store.PutAsync(Samples.Noise(9000, i));
        }
        Assert.Single(folder.Segments);
        using var last = folder.Open();
        for (var i = 0; i < 20; i++)
            last.Holds(Samples.Noise(9000, i));
        Assert.True(last.Maintenance.Verify().IsSound);
    }

    [Fact]
    public async Task What_a_crash_left_at_the_end_is_kept_apart_and_never_counts()
    {
        using (var store = folder.Open())
            await store.PutAsync(Samples.Noise(9000, 1));
        var torn = Samples.Noise(700, 2);
        await using (var file = new FileStream(folder.Segments.Single(), FileMode.Append))
            file.Write(torn);
        using (var store = folder.Open())
        {
            Assert.True(store.Maintenance.Verify().IsSound);
            await store.PutAsync(Samples.Noise(9000, 3));
        }
        Assert.Equal(2, folder.Segments.Length);
        Assert.True(
            File.ReadAllBytes(folder.Segments[0]).AsSpan().IndexOf(torn) > 0,
            "Nothing is cut away that might be wanted by somebody who looks into a damaged disk."
        );
        using var again = folder.Open();
        Assert.True(again.Maintenance.Verify().IsSound);
        again.Maintenance.RebuildIndex();
        again.Holds(Samples.Noise(9000, 1));
        again.Holds(Samples.Noise(9000, 3));
        // Two short segments are worth making one of.
        again.Maintenance.Compact();
        Assert.True(folder.Segments.Length <= 2 && again.Maintenance.SegmentBytes < 19_000);
        again.Holds(Samples.Noise(9000, 1));
    }

    [Fact]
    public async Task Who_reads_beside_a_writer_goes_on_reading_when_segments_are_compacted_away()
    {
        using var writing = folder.Open();
        var contents = Enumerable.Range(0, 10).Select(i => Samples.Noise(250_000, i)).ToList();
        foreach (var content in contents)
            await writing.PutAsync(content);
        using var reading = folder.OpenReadOnly();
        reading.Holds(contents[1]);
        for (var i = 0; i < contents.Count; i += 2)
            writing.Drop(ContentHash.Of(contents[i]));
        Assert.True(writing.Maintenance.Compact().Deleted > 3);
        for (var i = 1; i < contents.Count; i += 2)
            reading.Holds(contents[i]);
        Assert.Empty(reading.Maintenance.Verify().Damaged);
        foreach (var gone in contents.Where((_, i) => i % 2 == 0))
            Assert.Throws<MissingContentException>(() => reading.Get(ContentHash.Of(gone)));
        Assert.Throws<InvalidOperationException>(() => reading.Drop(ContentHash.Of(contents[1])));
        Assert.Throws<InvalidOperationException>(() => reading.Maintenance.Compact());
    }

    [Fact]
    public async Task A_scan_gives_every_byte_of_a_segment_once_whatever_is_in_it()
    {
        var random = new Random(3);
        for (var round = 0; round < 60; round++)
        {
            using var small = new StoreFolder(isInMemory: true);
            using (var store = small.Open())
                await store.PutAsync(Samples.Noise(random.Next(1, 200_000), round));
            var path = small.Segments[0];
            var bytes = File.ReadAllBytes(path);
            for (var n = random.Next(0, 30); n > 0; n--)
                bytes[random.Next(64, bytes.Length)] ^= (byte)(1 << random.Next(8));
            File.WriteAllBytes(path, bytes[..random.Next(64, bytes.Length + 1)]);
            using var segments = new SegmentSet(DiskFiles.Instance, Path.GetDirectoryName(path)!, null);
            segments.Load();
            var scanner = new SegmentScanner(segments, 1);
            long at = 64;
            while (scanner.Next(out var found))
            {
                Assert.Equal(at, found.Offset);
                Assert.True(found.Length > 0);
                at += found.Length;
            }
            Assert.Equal(segments.LengthOf(1), at);
        }
    }
}
