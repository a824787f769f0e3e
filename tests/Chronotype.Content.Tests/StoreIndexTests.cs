using Chronotype.Content.Files;
using Chronotype.Content.Index;
using Chronotype.Content.Segments;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Content.Tests;

/// <summary>The index beside a plain dictionary, through writing, merging, opening anew, and segments that go.</summary>
public sealed class StoreIndexTests : IDisposable
{
    private readonly StoreFolder folder = new(isInMemory: true);

    public void Dispose() => folder.Dispose();

    // Few different beginnings, so that keys which begin alike fill more than one page.
    private static Digest Id(Random random, int beginnings) =>
        new((ulong)random.Next(beginnings) << 32, (ulong)random.NextInt64(), (ulong)random.NextInt64(), (ulong)random.Next(1000));

    [Property(MaxTest = 60)]
    public void It_finds_what_was_added_last_and_nothing_else(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var path = Directory.CreateDirectory(Path.Combine(folder.Path, Guid.NewGuid().ToString("N"))).FullName;
        var segments = new SegmentSet(DiskFiles.Instance, path, null);
        var index = new StoreIndex(DiskFiles.Instance, path, segments);
        var model = new Dictionary<RecordKey, Location>();
        var ids = Enumerable
            .Range(0, random.Next(2, 900))
            .Select(_ => Id(random, random.Next(2) == 0 ? 3 : int.MaxValue))
            .Distinct()
            .ToList();
        var (segment, offset) = (0u, 0u);
        void NextSegment()
        {
            segments.Add(++segment, segment);
            offset = SegmentFormat.SegmentHeaderBytes;
        }
        void Add(RecordKey key)
        {
            var at =
                key.Kind == RecordKind.Drop ? Location.Dropped(segment, offset) : new Location(segment, offset, (uint)random.Next(70_000));
            index.Add(key, at);
            model[key.Kind == RecordKind.Drop ? key with { Kind = RecordKind.Content } : key] = at;
            offset += 100;
        }
        NextSegment();
        for (var step = 0; step < 30; step++)
        {
            switch (random.Next(8))
            {
                case 0:
                    index.Checkpoint(segment, offset, mergeAll: random.Next(4) == 0);
                    break;
                case 1:
                    // What is not written down is taken from the segments again, which is not the index's to do.
                    index.Checkpoint(segment, offset);
                    index.Dispose();
                    index = new StoreIndex(DiskFiles.Instance, path, segments);
                    index.Load();
                    Assert.Equal((segment, offset), index.Covered);
                    break;
                case 2:
                    NextSegment();
                    break;
                case 3 when segments.Numbers.Length > 1:
                    // As compaction does: what stands in a segment that goes is added anew before.
                    var going = segments.Numbers[random.Next(segments.Numbers.Length - 1)];
                    foreach (var (key, at) in model.Where(e => e.Value.Segment == going).ToList())
                        Add(at.IsDropped ? key with { Kind = RecordKind.Drop } : key);
                    segments.Delete(going);
                    break;
                default:
                    for (var n = random.Next(1, 400); n > 0; n--)
                        Add(new RecordKey((RecordKind)random.Next(1, 5), ids[random.Next(ids.Count)]));
                    break;
            }
        }
        foreach (var id in ids)
        {
            foreach (var kind in new[] { RecordKind.Chunk, RecordKind.List, RecordKind.Content })
            {
                var key = new RecordKey(kind, id);
                Assert.Equal(model.TryGetValue(key, out var expected), index.TryFindRaw(key, out var found));
                if (expected != default)
                    Assert.Equal(expected, found);
            }
        }
        Assert.False(index.TryFindRaw(new RecordKey(RecordKind.Chunk, new Digest(7, 7, 7, 7)), out _));
        Assert.Equal(
            model.Where(e => e.Key.Kind == RecordKind.Content).ToDictionary(e => e.Key.Id, e => e.Value),
            index.AllOf(RecordKind.Content)
        );
        index.Verify();
        index.Dispose();
    }

    [Fact]
    public void Each_run_is_at_least_three_times_as_long_as_the_next_so_that_there_are_few()
    {
        var segments = new SegmentSet(DiskFiles.Instance, folder.Path, null);
        segments.Add(1, 1);
        using var index = new StoreIndex(DiskFiles.Instance, folder.Path, segments);
        var random = new Random(1);
        for (var round = 0; round < 60; round++)
        {
            for (var i = 0; i < 200; i++)
                index.Add(new RecordKey(RecordKind.Chunk, Id(random, int.MaxValue)), new Location(1, (uint)(round * 200 + i), 10));
            index.Checkpoint(1, round * 200 + 200);
        }
        var lengths = Directory.GetFiles(folder.Path, "*.run").Select(f => new FileInfo(f).Length).OrderDescending().ToList();
        Assert.InRange(lengths.Count, 1, 5);
        for (var i = 1; i < lengths.Count; i++)
            Assert.True(lengths[i] * 2 < lengths[i - 1]);
        Assert.Equal(12_000, index.Entries);
    }

    [Fact]
    public async Task Look_ups_go_on_while_runs_are_merged()
    {
        var segments = new SegmentSet(DiskFiles.Instance, folder.Path, null);
        segments.Add(1, 1);
        using var index = new StoreIndex(DiskFiles.Instance, folder.Path, segments);
        var random = new Random(2);
        var known = Enumerable.Range(0, 3000).Select(_ => new RecordKey(RecordKind.Chunk, Id(random, int.MaxValue))).ToList();
        for (var i = 0; i < known.Count; i++)
            index.Add(known[i], new Location(1, (uint)i, 10));
        index.Checkpoint(1, 3000);
        using var stop = new CancellationTokenSource();
        using var begun = new ManualResetEventSlim();
        var looking = Task.Factory.StartNew(
            () =>
            {
                var asked = 0;
                for (var i = 0; !stop.IsCancellationRequested; i = (i + 1) % known.Count, asked++)
                {
                    Assert.True(index.TryFindRaw(known[i], out var at));
                    Assert.Equal((uint)i, at.Offset);
                    begun.Set();
                }
                return asked;
            },
            TaskCreationOptions.LongRunning
        );
        Assert.True(begun.Wait(TimeSpan.FromSeconds(30)));
        for (var round = 0; round < 40; round++)
        {
            for (var i = 0; i < 1500; i++)
                index.Add(new RecordKey(RecordKind.List, Id(random, int.MaxValue)), new Location(1, 100_000, 10));
            index.Checkpoint(1, 200_000);
        }
        await stop.CancelAsync();
        Assert.True(await looking > 1000);
    }

    [Fact]
    public void Many_find_at_once_what_stands_on_more_pages_than_are_held()
    {
        var segments = new SegmentSet(DiskFiles.Instance, folder.Path, null);
        segments.Add(1, 1);
        using var index = new StoreIndex(DiskFiles.Instance, folder.Path, segments);
        var random = new Random(3);
        var known = Enumerable.Range(0, 40_000).Select(_ => new RecordKey(RecordKind.Chunk, Id(random, int.MaxValue))).ToList();
        for (var i = 0; i < known.Count; i++)
            index.Add(known[i], new Location(1, (uint)i, 10));
        index.Checkpoint(1, 40_000);
        var pages = new FileInfo(Directory.GetFiles(folder.Path, "*.run").Single()).Length / 4096;
        Assert.True(pages > 300, $"{pages} pages");
        Parallel.For(
            0,
            8,
            new ParallelOptions { MaxDegreeOfParallelism = 8 },
            reader =>
            {
                var own = new Random(reader);
                for (var n = 0; n < 20_000; n++)
                {
                    // Some keys are asked for again and again, so that their pages are held, and pushed out by others.
                    var i = n % 3 > 0 ? own.Next(known.Count) : own.Next(50);
                    Assert.True(index.TryFindRaw(known[i], out var at));
                    Assert.Equal((uint)i, at.Offset);
                }
            }
        );
    }
}
