using System.Buffers.Binary;
using System.IO.Compression;
using Chronotype.Core.Content;
using Chronotype.Core.Content.Cutting;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests;

/// <summary>Where content is cut for the store: the same for ever, and so that what did not change is found again.</summary>
public class CuttingTests
{
    /// <summary>The lengths that a content is cut into, when so many bytes more than needed are seen each time.</summary>
    private static List<int> Cut(byte[] bytes, int more = 0)
    {
        var cutter = new ContainerCutter();
        var lengths = new List<int>();
        for (var at = 0; at < bytes.Length; at += lengths[^1])
        {
            var seen = Math.Min(bytes.Length - at, ContainerCutter.Sight + more);
            lengths.Add(cutter.Next(bytes.AsSpan(at, seen)));
            Assert.InRange(lengths[^1], 1, Math.Min(seen, ContainerCutter.MaxLength));
        }
        return lengths;
    }

    private static List<(int At, ContentHash Hash, int Length)> Chunks(byte[] bytes)
    {
        var chunks = new List<(int At, ContentHash Hash, int Length)>();
        var at = 0;
        foreach (var length in Cut(bytes))
        {
            chunks.Add((at, ContentHash.Of(bytes.AsSpan(at, length)), length));
            at += length;
        }
        return chunks;
    }

    /// <summary>Bytes of the second content that no chunk of the first has.</summary>
    private static long NewBytes(byte[] before, byte[] after)
    {
        var known = Chunks(before).Select(c => c.Hash).ToHashSet();
        return Chunks(after).Where(c => !known.Contains(c.Hash)).Sum(c => (long)c.Length);
    }

    // As the paper gives it, a byte at a time; the table as docs/storage.md gives it.
    private static int PlainCut(ReadOnlySpan<byte> bytes, int min, int average, int max)
    {
        var gear = new ulong[256];
        var state = 0x4368726F6E6F7479ul;
        for (var i = 0; i < 256; i++)
        {
            var z = state += 0x9E3779B97F4A7C15;
            z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9;
            z = (z ^ (z >> 27)) * 0x94D049BB133111EB;
            gear[i] = z ^ (z >> 31);
        }
        var bits = (int)Math.Log2(average);
        var hash = 0ul;
        for (var i = min; i < Math.Min(bytes.Length, max); i++)
        {
            hash = (hash << 1) + gear[bytes[i]];
            if (hash >> (64 - (i < average ? bits + 2 : bits - 2)) == 0)
                return i + 1;
        }
        return Math.Min(bytes.Length, max);
    }

    [Property(MaxTest = 200)]
    public void Two_bytes_a_round_cut_where_one_byte_does_and_where_they_always_did(int seed)
    {
        var random = new Random(seed);
        var average = 1 << random.Next(6, 14);
        var (min, max) = (Math.Max(16, average / 4), average * (4 << random.Next(2)));
        if (min >= average)
            min = average / 2;
        var bytes = Samples.Noise(random.Next(1, 4 * max), seed);
        // Runs of few different bytes meet cuts that noise never does.
        if (random.Next(3) == 0)
            for (var i = 0; i < bytes.Length; i++)
                bytes[i] &= 3;
        Assert.Equal(PlainCut(bytes, min, average, max), new FastCdc(min, average, max).NextCut(bytes));
    }

    [Theory]
    [InlineData(4, 64, 256)]
    [InlineData(64, 64, 256)]
    [InlineData(32, 100, 256)]
    [InlineData(32, 64, 64)]
    [InlineData(32, 1 << 21, 1 << 23)]
    public void Lengths_that_make_no_sense_are_refused(int min, int average, int max) =>
        Assert.Throws<ArgumentOutOfRangeException>(() => new FastCdc(min, average, max));

    [Fact]
    public void Noise_is_cut_into_chunks_of_about_the_wished_length()
    {
        var lengths = Cut(Samples.Noise(16_000_000, 1));
        Assert.InRange(lengths.Average(), 8192, 12_000);
        Assert.True(lengths.SkipLast(1).All(l => l >= 2048));
        // Normalised chunking: few are much shorter or longer than most.
        Assert.InRange(lengths.Count(l => l is > 4096 and < 20_480) / (double)lengths.Count, 0.85, 1);
    }

    [Property(MaxTest = 30)]
    public void An_edit_changes_only_the_chunks_near_it(int seed)
    {
        var random = new Random(seed);
        var before = Samples.Noise(1_500_000, seed);
        var at = random.Next(before.Length);
        var put = Samples.Noise(random.Next(0, 100_000), seed + 1);
        byte[] after = [.. before[..at], .. put, .. before[Math.Min(before.Length, at + random.Next(100_000))..]];
        Assert.InRange(NewBytes(before, after), put.Length, put.Length + 2 * ContainerCutter.MaxLength);
    }

    private static byte[] Zip(DateTime stamp, bool isStreamed, params (string Name, byte[] Bytes)[] entries)
    {
        using var memory = new MemoryStream();
        using (var zip = new ZipArchive(isStreamed ? new Unseekable(memory) : memory, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (name, bytes) in entries)
            {
                var entry = zip.CreateEntry(name, CompressionLevel.NoCompression);
                entry.LastWriteTime = stamp;
                using var stream = entry.Open();
                stream.Write(bytes);
            }
        }
        return memory.ToArray();
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Of_a_zip_an_entry_that_did_not_change_is_found_again_whole(bool isStreamed)
    {
        var layers = Enumerable.Range(0, 6).Select(i => ($"data/layer{i}.png", Samples.Noise(150_000 + i * 1777, i))).ToArray();
        var small = ("stack.xml", Samples.Noise(700, 50));
        var before = Zip(new DateTime(2026, 3, 2), isStreamed, [("mimetype", "image/openraster"u8.ToArray()), .. layers, small]);
        layers[2].Item2 = Samples.Noise(170_001, 99);
        // All times differ, and all entries behind the repainted one stand elsewhere.
        var after = Zip(new DateTime(2026, 5, 7), isStreamed, [("mimetype", "image/openraster"u8.ToArray()), .. layers, small]);
        // The layer itself; headers with their times, the small entries and the directory; where lengths follow the data they stand at
        // its end.
        Assert.InRange(NewBytes(before, after), 170_001, 170_001 + (isStreamed ? 6 * 12_000 : 4000));
    }

    [Fact]
    public void Of_a_zip_each_large_entry_is_cut_off_from_its_header()
    {
        var layer = Samples.Noise(100_000, 3);
        var zip = Zip(
            new DateTime(2026, 3, 2),
            isStreamed: false,
            ("mimetype", "image/openraster"u8.ToArray()),
            ("data/layer0.png", layer),
            ("data/layer1.png", layer)
        );
        var chunks = Chunks(zip);
        // One layer is there twice, and its chunks are the same.
        var begins = chunks.Where(c => zip.AsSpan(c.At).StartsWith(layer.AsSpan(0, 1000))).ToList();
        Assert.Equal(2, begins.Count);
        Assert.Equal(begins[0].Hash, begins[1].Hash);
    }

    private static byte[] Wave(byte[] samples, int before, bool isLong = false)
    {
        var head = new byte[12 + (isLong ? 36 : 0) + 24 + 8 + before + 8];
        (isLong ? "RF64"u8 : "RIFF"u8).CopyTo(head);
        BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(4), isLong ? uint.MaxValue : (uint)(head.Length - 8 + samples.Length));
        "WAVE"u8.CopyTo(head.AsSpan(8));
        var at = 12;
        if (isLong)
        {
            "ds64"u8.CopyTo(head.AsSpan(at));
            BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(at + 4), 28);
            BinaryPrimitives.WriteInt64LittleEndian(head.AsSpan(at + 16), samples.Length);
            at += 36;
        }
        "fmt "u8.CopyTo(head.AsSpan(at));
        BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(at + 4), 16);
        at += 24;
        "bext"u8.CopyTo(head.AsSpan(at));
        BinaryPrimitives.WriteInt32LittleEndian(head.AsSpan(at + 4), before);
        Samples.Noise(before, before).CopyTo(head.AsSpan(at + 8));
        at += 8 + before;
        "data"u8.CopyTo(head.AsSpan(at));
        BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(at + 4), isLong ? uint.MaxValue : (uint)samples.Length);
        return [.. head, .. samples, .. "LIST"u8, 4, 0, 0, 0, 1, 2, 3, 4];
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Of_a_wave_the_samples_are_found_again_whatever_stands_before_them(bool isLong)
    {
        var samples = Samples.Noise(900_000, 4);
        var (before, after) = (Wave(samples, 602, isLong), Wave(samples, 2602, isLong));
        Assert.InRange(NewBytes(before, after), 1, 3000);
    }

    [Property(MaxTest = 300)]
    public void Whatever_a_container_says_of_itself_all_of_it_is_cut_and_always_the_same(int seed)
    {
        var random = new Random(seed);
        var bytes = random.Next(3) switch
        {
            0 => Zip(
                new DateTime(2026, 3, 2),
                random.Next(2) == 0,
                [.. Enumerable.Range(0, random.Next(1, 6)).Select(i => ($"{i}", Samples.Noise(random.Next(0, 90_000), seed + i)))]
            ),
            1 => Wave(Samples.Noise(random.Next(0, 300_000), seed), random.Next(0, 40_000), random.Next(2) == 0),
            _ => Samples.Noise(random.Next(1, 300_000), seed),
        };
        // Lies: bits anywhere, and headers of entries where there are none.
        for (var n = random.Next(0, 60); n > 0; n--)
            bytes[random.Next(Math.Min(bytes.Length, n % 3 == 0 ? 400 : bytes.Length))] = (byte)random.Next(256);
        for (var n = random.Next(0, 8); n > 0 && bytes.Length > 200; n--)
            new byte[] { 0x50, 0x4B, 3, 4, 20, 0, (byte)random.Next(16), 0, 8, 0 }.CopyTo(bytes.AsSpan(random.Next(bytes.Length - 100)));
        var lengths = Cut(bytes);
        Assert.Equal(bytes.Length, lengths.Sum());
        Assert.Equal(lengths, Cut(bytes, more: random.Next(1, 200_000)));
    }

    private sealed class Unseekable(Stream inner) : Stream
    {
        public override bool CanRead => false;
        public override bool CanSeek => false;
        public override bool CanWrite => true;
        public override long Length => throw new NotSupportedException();
        public override long Position
        {
            get => inner.Position;
            set => throw new NotSupportedException();
        }

        public override void Flush() { }

        public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => inner.Write(buffer, offset, count);
    }
}
