using Chronotype.Content;
using Chronotype.Content.Maintenance;
using Chronotype.Core.Content;

namespace Chronotype.Content.Tests;

/// <summary>Damage is found wherever it is, never served, and repaired from a copy.</summary>
public sealed class DamageTests : IDisposable
{
    private const int Flips = 250;

    private readonly StoreFolder folder = new();
    private readonly List<byte[]> contents = [];

    public DamageTests()
    {
        var shared = Samples.Noise(150_000, 1);
        contents.Add([.. shared, .. Samples.Noise(250_000, 2)]);
        contents.Add([.. shared, .. Samples.Noise(80_000, 3)]);
        contents.Add(System.Text.Encoding.UTF8.GetBytes(string.Concat(Enumerable.Range(0, 20_000).Select(i => $"note {i * 31 % 977}; "))));
        contents.Add([]);
        contents.Add([7]);
        using var store = folder.Open();
        foreach (var content in contents)
            store.PutAsync(content).Wait();
        var dropped = Samples.Noise(40_000, 4);
        store.PutAsync(dropped).Wait();
        store.Drop(ContentHash.Of(dropped));
    }

    public void Dispose() => folder.Dispose();

    private IEnumerable<string> Files => folder.Segments.Concat(folder.IndexFiles);

    private static void Flip(string path, long at, int bit)
    {
        using var file = new FileStream(path, FileMode.Open, FileAccess.ReadWrite, FileShare.ReadWrite);
        file.Position = at;
        var value = file.ReadByte();
        file.Position = at;
        file.WriteByte((byte)(value ^ (1 << bit)));
    }

    [Fact]
    public void A_sound_store_is_found_sound()
    {
        Assert.True(folder.Segments.Length > 1, "The damage should also meet segments that are full.");
        using var store = folder.OpenReadOnly();
        Assert.True(store.Maintenance.Verify().IsSound);
    }

    [Fact]
    public void Every_bit_that_flips_is_found_and_nothing_damaged_is_served()
    {
        var random = new Random(5);
        var files = Files.Select(f => (Path: f, new FileInfo(f).Length)).ToList();
        var total = files.Sum(f => f.Length);
        var spots = files.SelectMany(f => new[] { (f.Path, 0L), (f.Path, f.Length - 1), (f.Path, 40L), (f.Path, f.Length / 2) }).ToList();
        while (spots.Count < Flips)
        {
            var at = random.NextInt64(total);
            foreach (var (path, length) in files)
            {
                if (at < length)
                {
                    spots.Add((path, at));
                    break;
                }
                at -= length;
            }
        }
        foreach (var (path, at) in spots)
        {
            var bit = random.Next(8);
            Flip(path, at, bit);
            using (var store = folder.OpenReadOnly())
            {
                foreach (var content in contents)
                    AssertNeverServedDamaged(store, content);
                Assert.False(
                    store.Maintenance.Verify().IsSound,
                    $"Bit {bit} of byte {at} of {Path.GetFileName(path)} flipped, and nobody noticed."
                );
            }
            Flip(path, at, bit);
        }
        using var whole = folder.OpenReadOnly();
        Assert.True(whole.Maintenance.Verify().IsSound);
    }

    // Not a bit here and there, but whole files as a broken disk or a hostile hand leaves them.
    [Fact]
    public void Whatever_becomes_of_a_file_of_the_store_nothing_damaged_is_served_and_the_store_opens()
    {
        var random = new Random(6);
        for (var n = 0; n < Thorough.Times(60, 2_000); n++)
        {
            var path = Files.ElementAt(random.Next(Files.Count()));
            var sound = File.ReadAllBytes(path);
            File.WriteAllBytes(path, Mutations.Of(sound, random));
            using (var store = folder.OpenReadOnly())
            {
                foreach (var content in contents)
                    AssertNeverServedDamaged(store, content);
                store.Maintenance.Verify();
            }
            File.WriteAllBytes(path, sound);
        }
        using var whole = folder.OpenReadOnly();
        Assert.True(whole.Maintenance.Verify().IsSound);
    }

    private static void AssertNeverServedDamaged(ContentStore store, byte[] content)
    {
        try
        {
            Assert.Equal(content, store.Get(ContentHash.Of(content)));
        }
        catch (Exception e) when (e is DamagedContentException or MissingContentException)
        {
            // Said, not served.
        }
    }

    [Fact]
    public async Task Damage_is_listed_with_what_it_touches_and_repaired_from_a_copy()
    {
        // In the middle of what two contents share: one record's bytes.
        Flip(folder.Segments[0], 40_000, 3);
        using (var store = folder.Open())
        {
            var found = store.Maintenance.Verify();
            Assert.Equal([ContentHash.Of(contents[0]), ContentHash.Of(contents[1])], found.Damaged.Select(d => d.Hash));
            Assert.All(found.Damaged, d => Assert.InRange(d.UnreadableBytes!.Value, 1, 65_536));
            var place = Assert.Single(found.Places);
            Assert.InRange(40_000, place.Offset, place.Offset + place.Length);
            Assert.Throws<DamagedContentException>(() => store.Get(ContentHash.Of(contents[0])));
            // All but the damaged part can still be read.
            using (var stream = store.OpenRead(ContentHash.Of(contents[0])))
            {
                stream.Position = 200_000;
                var rest = new byte[200_000];
                stream.ReadExactly(rest);
                Assert.Equal(contents[0][200_000..], rest);
            }
            // A copy of the one heals the other too.
            var repaired = await store.RepairAsync(new MemoryStream(contents[1]));
            Assert.InRange(repaired.NewBytes, 1, 70_000);
            foreach (var content in contents)
                store.Holds(content);
            var after = store.Maintenance.Verify();
            Assert.Empty(after.Damaged);
            // What is damaged and needed no more is thrown out by compaction.
            Assert.Empty(store.Maintenance.Compact(after).Skipped);
        }
        using var again = folder.Open();
        Assert.True(again.Maintenance.Verify().IsSound);
        foreach (var content in contents)
            again.Holds(content);
    }

    [Fact]
    public async Task What_is_known_to_be_damaged_is_kept_anew_when_it_is_saved_again()
    {
        Flip(folder.Segments[0], 40_000, 3);
        using (var store = folder.Open())
        {
            Assert.Throws<DamagedContentException>(() => store.Get(ContentHash.Of(contents[0])));
            using (var staged = await store.StageAsync(new MemoryStream(contents[0])))
            {
                Assert.InRange(staged.NewBytes, 1, 70_000);
                await store.CommitAsync(staged);
            }
            foreach (var content in contents)
                store.Holds(content);
        }
        using var again = folder.Open();
        foreach (var content in contents)
            again.Holds(content);
    }

    [Fact]
    public async Task A_content_whose_own_record_is_damaged_is_whole_again_with_a_copy()
    {
        using (var store = folder.Open())
        {
            Assert.True(
                store.Log.TryFind(
                    new(
                        Chronotype.Content.Segments.RecordKind.Content,
                        Chronotype.Content.Segments.Digest.From(ContentHash.Of(contents[1]))
                    ),
                    out var at
                )
            );
            Flip(store.Log.Segments.PathOf(at.Segment), at.Offset + 70, 2);
            var damaged = Assert.Single(store.Maintenance.Verify().Damaged);
            Assert.Equal((ContentHash.Of(contents[1]), null), (damaged.Hash, damaged.UnreadableBytes));
            await store.RepairAsync(new MemoryStream(contents[1]));
            store.Holds(contents[1]);
        }
        using var again = folder.Open();
        again.Holds(contents[1]);
        Assert.Empty(again.Maintenance.Verify().Damaged);
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task What_arrives_heals_what_it_shares_with_what_is_damaged_or_gone_though_nobody_knew_of_it(bool isGone)
    {
        using var other = new StoreFolder();
        var shared = Samples.Noise(700_000, 70);
        byte[] older = [.. shared, .. Samples.Noise(100_000, 71)],
            newer = [.. shared, .. Samples.Noise(100_000, 72)];
        using (var store = ContentStore.Open(other.Path))
            await store.PutAsync(older);
        if (isGone)
            File.Delete(other.Segments[0]);
        else
            for (long at = 5000; at < 690_000; at += 50_000)
                Flip(other.Segments[0], at, 1);
        using (var store = ContentStore.Open(other.Path))
        {
            // Nothing was read or verified since: what is acknowledged is there all the same.
            await store.PutAsync(newer);
            store.Holds(newer);
            await store.PutAsync(older);
            store.Holds(older);
        }
        using var again = ContentStore.Open(other.Path);
        again.Holds(newer);
        again.Holds(older);
        Assert.Empty(again.Maintenance.Verify().Damaged);
    }

    [Fact]
    public async Task A_copy_that_nobody_asked_for_repairs_what_it_shares_and_is_not_kept()
    {
        using var other = new StoreFolder();
        var shared = Samples.Noise(4_000_000, 60);
        using var store = ContentStore.Open(other.Path);
        await store.PutAsync(shared);
        for (long at = 10_000; at < 3_900_000; at += 5000)
            Flip(other.Segments[0], at, 1);
        byte[] stranger = [.. shared, .. Samples.Noise(100_000, 61)];
        var repaired = await store.RepairAsync(new MemoryStream(stranger), isWanted: _ => false);
        Assert.True(repaired.NewBytes > 2_000_000, "The damage is to be more than what is taken back when it was staged for nothing.");
        store.Holds(shared);
        Assert.False(store.Has(ContentHash.Of(stranger)));
    }

    [Fact]
    public async Task A_lost_segment_is_listed_and_made_good_from_copies()
    {
        var lost = Path.GetFileName(folder.Segments[0]);
        File.Delete(folder.Segments[0]);
        using (var store = folder.Open())
        {
            var damaged = store.Maintenance.Verify().Damaged.Select(d => d.Hash).ToHashSet();
            Assert.NotEmpty(damaged);
            foreach (var content in contents.Where(c => store.Has(ContentHash.Of(c)) && !damaged.Contains(ContentHash.Of(c))))
                store.Holds(content);
            foreach (var content in contents)
                await store.RepairAsync(new MemoryStream(content));
            foreach (var content in contents)
                store.Holds(content);
        }
        using (var reader = ContentStore.OpenReadOnly(folder.Path))
        {
            // What stood there can be known by whoever named it; the store itself goes on missing the segment.
            var place = Assert.Single(reader.Maintenance.Verify().Places);
            Assert.Equal((lost, "the segment is missing"), (place.Segment, place.What));
        }
        using var again = folder.Open();
        again.Maintenance.Compact(again.Maintenance.Verify());
        Assert.True(again.Maintenance.Verify().IsSound);
    }

    [Fact]
    public void Compaction_frees_nothing_while_it_cannot_be_told_what_is_needed()
    {
        var before = folder.Segments.Length;
        using (var store = folder.Open())
        {
            var damaged = DamageList(store);
            Assert.NotNull(damaged);
            Assert.Throws<StoreDamagedException>(() => store.Maintenance.Compact());
            Assert.Contains(store.Maintenance.Verify().Damaged, d => d.Hash == damaged);
        }
        Assert.True(folder.Segments.Length >= before);
    }

    /// <summary>Damages the list at the root of the first content that has one.</summary>
    private static ContentHash? DamageList(ContentStore store)
    {
        foreach (var entry in store.Maintenance.Contents())
        {
            var record = Chronotype.Content.Segments.ContentRecord.Read(
                store.Log.Load(new(Chronotype.Content.Segments.RecordKind.Content, Chronotype.Content.Segments.Digest.From(entry.Hash)))
            );
            if (record.Root.Level == 0 || !store.Log.TryFind(record.Root.Key, out var at))
                continue;
            Flip(store.Log.Segments.PathOf(at.Segment), at.Offset + 60, 1);
            return entry.Hash;
        }
        return null;
    }

    [Theory]
    [InlineData("manifest")]
    [InlineData(".run")]
    public async Task An_index_that_is_gone_or_damaged_is_made_anew(string which)
    {
        foreach (var file in folder.IndexFiles.Where(f => f.EndsWith(which, StringComparison.Ordinal)))
            File.WriteAllBytes(file, [1, 2, 3]);
        using (var store = folder.Open())
        {
            foreach (var content in contents)
                store.Holds(content);
            Assert.NotNull(store.Maintenance.Verify().IndexFault);
            await store.PutAsync([1, 2, 3]);
        }
        Directory.Delete(Path.Combine(folder.Path, "index"), recursive: true);
        using var again = folder.Open();
        foreach (var content in contents.Append([1, 2, 3]))
            again.Holds(content);
        Assert.True(again.Maintenance.Verify().IsSound);
    }

    [Fact]
    public void A_store_of_a_later_version_is_left_as_it_is()
    {
        var bytes = File.ReadAllBytes(folder.Segments[^1]);
        bytes[8] = 2;
        System.Buffers.Binary.BinaryPrimitives.WriteUInt64LittleEndian(
            bytes.AsSpan(56),
            System.IO.Hashing.XxHash3.HashToUInt64(bytes.AsSpan(0, 56))
        );
        File.WriteAllBytes(folder.Segments[^1], bytes);
        foreach (var file in folder.IndexFiles)
            File.Delete(file);
        Assert.Contains("version 2", Assert.Throws<StoreVersionException>(() => folder.Open()).Message);
        Assert.Empty(folder.IndexFiles);
        Assert.Equal(bytes, File.ReadAllBytes(folder.Segments[^1]));
    }

    [Fact]
    public void A_sample_reads_a_share_of_the_segments()
    {
        using var store = folder.OpenReadOnly();
        var sample = store.Maintenance.Verify(0.5);
        Assert.Equal((folder.Segments.Length + 1) / 2, sample.Segments);
        Assert.InRange(sample.BytesRead, 1, folder.Segments.Sum(s => new FileInfo(s).Length) - 1);
        Assert.True(sample.IsSound);
    }
}
