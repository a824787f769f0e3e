using System.Diagnostics;
using Chronotype.Content;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;

namespace Chronotype.Studio.Tests;

/// <summary>Reader processes, the real ones, and the small files that would take the studio down if it read them itself.</summary>
public sealed class ReaderTests : IDisposable
{
    private static readonly ReaderLimits Tight = new() { PictureSeconds = 3, WorkSeconds = 3 };

    private readonly StudioFolder folder = new();
    private readonly DataFolder data;
    private readonly Xunit.Abstractions.ITestOutputHelper output;
    private ReaderPool pool;

    public ReaderTests(Xunit.Abstractions.ITestOutputHelper output)
    {
        this.output = output;
        data = new DataFolder(folder.Path);
        pool = new ReaderPool(Tight, data, ReaderIsolation.Here);
    }

    public void Dispose()
    {
        pool.Dispose();
        data.Dispose();
        folder.Dispose();
    }

    private async Task<FileFacts?> ReadAsync(byte[] content, CancellationToken cancel = default) =>
        (await pool.DoAsync(new ReaderJob { Kind = ReaderJobKind.Read }, () => [new MemoryStream(content)], cancel)).Answer.Facts;

    private Task<(ReaderAnswer Answer, ReadOnlyMemory<byte> Drawing)> DrawAsync(byte[] content, CancellationToken cancel = default) =>
        pool.DoAsync(new ReaderJob { Kind = ReaderJobKind.Draw, Side = 480 }, () => [new MemoryStream(content)], cancel);

    public static TheoryData<string> Bombs => [.. All.Keys];

    private static readonly Dictionary<string, Func<byte[]>> All = new()
    {
        ["uses in uses"] = () => Samples.NestedUses(),
        ["filters"] = Samples.HeavyFilters,
        ["paths"] = Samples.HeavyPaths,
        ["a progressive JPEG"] = () => Samples.ProgressiveJpegThatClaims(32_000, 32_000),
        ["an interlaced PNG"] = () => Samples.InterlacedPngThatClaims(32_000, 32_000),
        ["elements in elements"] = () => Samples.NestedStack(900_000),
        ["attributes"] = () => Samples.ManyAttributes(),
        ["texts"] = () => Samples.LongTexts(),
        ["markers"] = () => Samples.ManyMarkers(),
        ["subtitles"] = () => Samples.LongSubtitles(),
        ["black and white"] = () => Samples.EnormousPng(34_000, 34_000, 1),
        ["16 bits"] = () => Samples.EnormousPng(9_000, 9_000, 16),
        ["layers"] = () => Samples.ManyLayers(300, 6000, 0),
        ["a film"] = () => Film("color=black:s=8192x8192:r=5:d=0.4", "-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv444p"),
    };

    private static byte[] Film(string source, params string[] how)
    {
        using var folder = new StudioFolder();
        Tools.Run(folder.Path, "ffmpeg", ["-v", "error", "-f", "lavfi", "-i", source, .. how, "film.mkv"]);
        return File.ReadAllBytes(Path.Combine(folder.Path, "film.mkv"));
    }

    [Theory]
    [MemberData(nameof(Bombs))]
    public async Task A_small_file_that_takes_very_much_ends_within_limits_and_the_next_is_read(string bomb)
    {
        var content = All[bomb]();
        Assert.True(content.Length < 20_000_000);
        var before = Process.GetCurrentProcess().WorkingSet64;
        using var watch = new ReaderWatch();
        var clock = Stopwatch.StartNew();
        foreach (
            var (name, work) in new (string, Func<Task>)[] { ("facts", () => ReadAsync(content)), ("picture", () => DrawAsync(content)) }
        )
        {
            var said = "answered";
            try
            {
                await work();
            }
            catch (TooHeavyException e)
            {
                // Or it is refused by what was parsed of it; both are answers.
                said = e.Message;
            }
            output.WriteLine(
                $"{name}: {said}; {clock.Elapsed.TotalSeconds:0.0} s, {watch.MostBytes >> 20} MB, {watch.MostProcessor:0.0} s"
            );
            Assert.InRange(watch.MostBytes, 1, name == "facts" ? Tight.MemoryBytes : Tight.LargeMemoryBytes);
        }
        Assert.InRange(clock.Elapsed.TotalSeconds, 0, 2 * 2 * (3 + Tight.FirstSeconds) * Tight.WallFactor);
        Assert.InRange(Process.GetCurrentProcess().WorkingSet64 - before, long.MinValue, 200 << 20);
        Assert.Equal(FileFormat.Png, (await ReadAsync(Samples.Png(30, 20)))!.Format);
    }

    [Fact]
    public async Task All_readers_together_hold_no_more_than_was_given_to_them()
    {
        using var watch = new ReaderWatch();
        var drawn = Enumerable.Range(0, 6).Select(i => DrawAsync(i % 2 == 0 ? Samples.LongTexts() : Samples.EnormousPng(6000, 6000, 16)));
        await Task.WhenAll(drawn.Select(async work => await Record.ExceptionAsync(() => work)));
        output.WriteLine($"{watch.MostBytes >> 20} MB");
        Assert.InRange(watch.MostBytes, 1, 1_000_000_000);
    }

    [Fact]
    public async Task What_takes_too_much_of_the_processor_is_ended_and_said_and_not_tried_again()
    {
        var tries = 0;
        await Assert.ThrowsAsync<TooHeavyException>(() =>
            pool.DoAsync(
                new ReaderJob { Kind = ReaderJobKind.Draw, Side = 480 },
                () =>
                {
                    tries++;
                    return [new MemoryStream(Samples.NestedUses())];
                }
            )
        );
        Assert.Equal(1, tries);
    }

    [Fact]
    public async Task Of_what_is_too_much_to_be_read_its_beginning_says_what_it_is()
    {
        var store = ContentStore.Open(Path.Combine(folder.Path, "content"));
        using var closing = store;
        // Of such a picture all pixels are held before there is a row of it.
        using var staged = await store.StageAsync(new MemoryStream(Samples.InterlacedPngThatClaims(32_000, 32_000)));
        await store.CommitAsync(staged);
        var facts = await new FileReader(pool, store).ReadAsync(staged.Hash);
        Assert.Equal((FileFormat.Png, FileFaultCode.TooHeavy), (facts.Format, facts.Fault?.Code));
        Assert.Equal((32_000, 32_000), (facts.Picture?.Width, facts.Picture?.Height));
    }

    [Fact]
    public async Task Comparing_very_many_layers_ends_within_limits()
    {
        var (before, after) = (Samples.ManyLayers(3000, 4000, 0), Samples.ManyLayers(3000, 4000, 7));
        var moved = await CompareAsync(before, after);
        // Layers that only moved are told by what was read in them.
        Assert.Equal(3000, moved.Parts.Count(p => p.MovedBy == new PixelOffset(7, 0)));
        await Assert.ThrowsAsync<TooHeavyException>(() => CompareAsync(before, Samples.ManyLayers(3000, 4000, 0, red: 9)));

        async Task<Comparison> CompareAsync(byte[] a, byte[] b)
        {
            var readings = new[] { (await ReadAsync(a))!, (await ReadAsync(b))! };
            Assert.Equal(3000, readings[0].Layers.Count);
            var (answer, _) = await pool.DoAsync(
                new ReaderJob { Kind = ReaderJobKind.Compare, Facts = readings },
                () => [new MemoryStream(a), new MemoryStream(b)]
            );
            return answer.Comparison!;
        }
    }

    [Fact]
    public async Task One_pieces_trouble_is_never_anothers()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var (troubled, other) = (Guid.NewGuid(), Guid.NewGuid());
        using var stop = new CancellationTokenSource();
        // Of the troubled piece one drawing is asked for after another, more than there are readers.
        var heavy = new List<Task>();
        for (var i = 0; i < 6; i++)
        {
            var hash = await studio.StoreAsync([.. Samples.NestedUses(), .. System.Text.Encoding.ASCII.GetBytes($"<!-- {i} -->")]);
            heavy.Add(studio.Do((Previews d) => d.GetAsync(hash, troubled, 480, cancel: stop.Token)));
        }
        for (var i = 0; i < 4; i++)
        {
            var hash = await studio.StoreAsync(Samples.Png(30, 20, (byte)i));
            Assert.NotNull((await studio.Do((Previews d) => d.GetAsync(hash, other, 480))).Path);
        }
        // Nothing of the troubled piece has ended yet, and yet the other's has.
        Assert.True(heavy.Count(h => h.IsCompleted) < 6);
        var clock = Stopwatch.StartNew();
        await stop.CancelAsync();
        foreach (var ended in heavy)
            await Assert.ThrowsAnyAsync<Exception>(() => ended);
        await studio.SettledAsync();
        Assert.InRange(clock.Elapsed.TotalSeconds, 0, 3);
        Assert.Empty(await studio.JobsAsync());
    }

    [Fact]
    public async Task A_keep_of_a_save_that_is_not_read_yet_follows_when_it_is_and_asks_what_there_is_to_ask()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var (lasting, losing) = (await studio.PieceAsync("Lasting"), await studio.PieceAsync("Losing"));
        foreach (var (piece, red) in new[] { (lasting, (byte)1), (losing, (byte)2) })
            await studio.VersionAsync(
                piece,
                Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20, red), new Samples.OraLayer("Gull", 9, 9))
            );
        await studio.Do(
            async (ReaderPool busy) =>
            {
                // Readers that wait for a disk that does not answer.
                using var stop = new CancellationTokenSource();
                using var gate = new ManualResetEventSlim();
                var heavy = Enumerable
                    .Range(0, 3)
                    .Select(_ =>
                        busy.DoAsync(new ReaderJob { Kind = ReaderJobKind.Draw, Side = 480 }, () => [new GatedStream(gate)], stop.Token)
                    )
                    .ToList();
                await studio.TakeAsync(
                    lasting,
                    Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20), new Samples.OraLayer("Gull", 8, 8))
                );
                await studio.TakeAsync(losing, Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20)));
                var clock = Stopwatch.StartNew();
                foreach (var (piece, note) in new[] { (lasting, "warmer"), (losing, "one layer") })
                {
                    var keep = await studio.Do((KeepSave d) => d.DoAsync(studio.Odo, piece.Id, null, note));
                    Assert.IsType<KeepResult.Pending>(keep.Result);
                }
                Assert.InRange(clock.Elapsed.TotalSeconds, 0, 2 * (KeepSave.Patience.TotalSeconds + 3));
                Assert.IsType<Refusal.NotReadYet>(
                    (await studio.Do((MarkMilestone d) => d.DoAsync(studio.Odo, lasting.Id, null, "sent"))).Refusal
                );
                await stop.CancelAsync();
                gate.Set();
                foreach (var ended in heavy)
                    await Assert.ThrowsAnyAsync<Exception>(() => ended);
            }
        );
        await studio.SettledAsync();
        var kept = (await studio.SavesAsync(lasting))[1];
        Assert.Equal((2, "warmer", studio.Odo.PersonId), (kept.Number, kept.Note, kept.KeptById));
        // Two layers are one: nobody has been asked about that yet, so it has no number.
        var asked = (await studio.SavesAsync(losing))[1];
        Assert.Equal((null, "one layer"), (asked.Number, asked.Note));
        Assert.IsType<KeepResult.Question>(await studio.KeepAsync(losing));
        Assert.Equal(
            "one layer",
            (await studio.KeepAsync(losing, insist: true)) is KeepResult.Kept ? (await studio.SavesAsync(losing))[1].Note : null
        );
    }

    // A reader that a hostile file has taken over may send anything.
    [Fact]
    public void No_mutation_of_a_readers_frames_does_more_than_end_the_talk()
    {
        var random = new Random(8);
        using var sent = new MemoryStream();
        var reader = new ReaderWire(Stream.Null, sent);
        reader.SendWant(0, 4096, 65_536);
        reader.SendAnswer("{}"u8.ToArray(), Samples.Noise(300));
        for (var n = 0; n < Thorough.Times(400, 20_000); n++)
        {
            using var incoming = new MemoryStream(Mutations.Of(sent.ToArray(), random));
            var wire = new ReaderWire(incoming, Stream.Null);
            try
            {
                while (wire.Receive() is var (frame, payload))
                {
                    if (frame == ReaderFrame.Want)
                    {
                        var (source, offset, count) = ReaderWire.ReadWant(payload, [100_000]);
                        Assert.Equal(0, source);
                        Assert.InRange(offset, 0, 100_000);
                        Assert.InRange(count, 0, ReaderWire.MaxWant);
                    }
                    else if (frame == ReaderFrame.Answer)
                        ReaderWire.ReadAnswer(payload);
                }
            }
            catch (InvalidDataException)
            {
                // The talk ends, and the reader with it.
            }
        }
    }

    [Fact]
    public async Task What_is_cancelled_is_ended_at_once()
    {
        using var stop = new CancellationTokenSource();
        var drawing = DrawAsync(Samples.NestedUses(), cancel: stop.Token);
        // A moment is given to begin; whether it had or not, it ends.
        await Task.Delay(500);
        var clock = Stopwatch.StartNew();
        await stop.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => drawing);
        Assert.InRange(clock.Elapsed.TotalSeconds, 0, 1.5);
    }

    [Fact]
    public async Task A_disk_that_fails_under_a_file_is_no_verdict_on_the_file()
    {
        var png = Samples.Png(600, 400);
        await Assert.ThrowsAsync<IOException>(() =>
            pool.DoAsync(new ReaderJob { Kind = ReaderJobKind.Read }, () => [new FailingStream(png, 100)])
        );
        await Assert.ThrowsAsync<IOException>(() =>
            pool.DoAsync(new ReaderJob { Kind = ReaderJobKind.Draw, Side = 480 }, () => [new FailingStream(png, 0)])
        );
        Assert.Null((await ReadAsync(png))!.Fault);
    }

    [Fact]
    public async Task Readers_are_replaced_after_so_many_files_and_leave_nothing_behind()
    {
        pool.Dispose();
        pool = new ReaderPool(Tight with { Jobs = 3 }, data, ReaderIsolation.Here);
        var cut = Samples.Flat(".tif", 900, 900)[..100_000];
        for (var i = 0; i < 10; i++)
            Assert.NotNull((await ReadAsync(cut))!.Fault);
        Assert.InRange(Directory.GetDirectories(data.Scratch).Length, 0, 1);
        pool.Dispose();
        Assert.Empty(Directory.GetDirectories(data.Scratch));
    }

    [Fact]
    public async Task A_large_content_is_read_piece_by_piece()
    {
        var wave = Samples.Wave(60);
        var reading = (await ReadAsync(wave))!;
        Assert.Equal(60, reading.Sound!.Duration.TotalSeconds);
        var (answer, drawing) = await DrawAsync(wave);
        Assert.Equal("image/svg+xml", answer.MediaType);
        Assert.StartsWith("<svg", System.Text.Encoding.UTF8.GetString(drawing.Span));
    }

    /// <summary>Every format, spoiled at random: whatever it is then, it is answered, and the next one too.</summary>
    [Fact]
    public async Task Spoiled_files_of_every_format_are_answered()
    {
        byte[][] whole =
        [
            Samples.OpenRaster(80, 60, new Samples.OraLayer("Sky", 80, 60), new Samples.OraLayer("Gull", 20, 10, X: 5, Y: 5)),
            Samples.Svg("<g><rect width='9' height='9'/><path d='M0 0L9 9'/></g>"),
            Samples.Png(90, 60),
            Samples.Flat(".jpg", 90, 60),
            Samples.Flat(".tif", 90, 60),
            Samples.Flat(".webp", 90, 60),
            Samples.Wave(0.2),
        ];
        var seed = Environment.TickCount;
        var random = new Random(seed);
        var read = await Task.WhenAll(whole.Select(w => ReadAsync(w)));
        Assert.All(read, r => Assert.Null(r!.Fault));
        for (var round = 0; round < 180; round++)
        {
            var which = random.Next(whole.Length);
            var spoiled = Spoiled(whole[which], random);
            try
            {
                Assert.NotNull(await ReadAsync(spoiled));
                await DrawAsync(spoiled);
                var job = new ReaderJob { Kind = ReaderJobKind.Compare, Facts = [read[which]!, (await ReadAsync(spoiled))!] };
                Assert.NotNull(
                    (await pool.DoAsync(job, () => [new MemoryStream(whole[which]), new MemoryStream(spoiled)])).Answer.Comparison
                );
            }
            catch (TooHeavyException)
            {
                // A length that became very large, perhaps.
            }
            catch (Exception e)
            {
                Assert.Fail($"seed {seed}, round {round}, sample {which}: {e}");
            }
        }
    }

    private static byte[] Spoiled(byte[] whole, Random random)
    {
        var bytes = whole.ToArray();
        switch (random.Next(4))
        {
            case 0:
                return bytes[..random.Next(bytes.Length)];
            case 1:
                return
                [
                    .. bytes[..random.Next(bytes.Length)],
                    .. Samples.Noise(random.Next(200), random.Next()),
                    .. bytes[random.Next(bytes.Length)..],
                ];
            default:
                for (var n = random.Next(1, 12); n > 0; n--)
                    bytes[random.Next(bytes.Length)] = (byte)(random.Next(3) == 0 ? 0xFF : random.Next(256));
                return bytes;
        }
    }

    [Fact]
    public void This_process_has_not_loaded_what_reads_pictures()
    {
        // The studio's own code never does; here the samples are drawn by the same library, so it is asked of the assemblies.
        var studio = typeof(ReaderPool).Assembly.GetReferencedAssemblies().Select(a => a.Name);
        Assert.DoesNotContain("NetVips", studio);
        Assert.DoesNotContain("Chronotype.Formats", studio);
    }

    private sealed class GatedStream(ManualResetEventSlim gate) : MemoryStream(Samples.Png(30, 20))
    {
        public override int Read(byte[] buffer, int offset, int count)
        {
            gate.Wait();
            return base.Read(buffer, offset, count);
        }
    }

    private sealed class FailingStream(byte[] content, long from) : MemoryStream(content)
    {
        public override int Read(Span<byte> buffer) =>
            Position + buffer.Length > from ? throw new IOException("The disk failed.") : base.Read(buffer);

        public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));
    }
}
