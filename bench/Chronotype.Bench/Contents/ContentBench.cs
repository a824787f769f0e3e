using System.Diagnostics;
using Chronotype.Content;
using Chronotype.Content.Ingest;
using Chronotype.Content.Segments;
using Chronotype.Core.Content;
using Chronotype.Core.Content.Cutting;

namespace Chronotype.Bench.Contents;

/// <summary>The content store beside the tools that people would use without it, on the same files in the same run.</summary>
internal static class ContentBench
{
    private const int Rounds = 5,
        Versions = 100;
    private const long Large = 1L << 30;

    /// <param name="part">What to measure; empty for everything.</param>
    public static void Run(string part)
    {
        if (!OperatingSystem.IsLinux())
        {
            Console.WriteLine("The content store is measured beside cp, sync, sha256sum, cat and xdelta3, on Linux.");
            return;
        }
        var folder = Directory.CreateTempSubdirectory("chronotype-bench-").FullName;
        try
        {
            if (part is "" or "hashes")
                Hashes();
            if (part is "" or "put")
                Put(folder);
            if (part is "" or "read")
                Reading(folder);
            if (part is "" or "poster")
                Poster(folder);
            if (part is "" or "recording")
                Recorded(folder);
            if (part is "" or "index")
                ManyChunks.Run(folder);
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    private static void Hashes()
    {
        const int Chunk = 8192;
        var bytes = new byte[64 << 20];
        new Random(7).NextBytes(bytes);
        Range[] chunks = [.. Enumerable.Range(0, bytes.Length / Chunk).Select(i => new Range(i * Chunk, (i + 1) * Chunk))];
        var digests = new Digest[chunks.Length];
        var lanes = new DigestLanes();
        var (alone, together, cut) = (new List<double>(), new List<double>(), new List<double>());
        for (var round = 0; round < Rounds * 2; round++)
        {
            var since = Stopwatch.GetTimestamp();
            foreach (var chunk in chunks)
                digests[0] = Digest.Of(bytes.AsSpan(chunk));
            alone.Add(Stopwatch.GetElapsedTime(since).TotalSeconds);
            since = Stopwatch.GetTimestamp();
            lanes.HashEach(bytes, chunks, digests);
            together.Add(Stopwatch.GetElapsedTime(since).TotalSeconds);
            since = Stopwatch.GetTimestamp();
            var cutter = new ContainerCutter();
            for (var at = 0; at < bytes.Length; )
                at += cutter.Next(bytes.AsSpan(at));
            cut.Add(Stopwatch.GetElapsedTime(since).TotalSeconds);
        }
        Console.WriteLine(
            $"SHA-256 of chunks of 8 KiB on one core: {bytes.Length / 1e6 / Tool.Median(alone):0} MB/s one after another, "
                + $"{bytes.Length / 1e6 / Tool.Median(together):0} MB/s as the store does it; "
                + $"finding where to cut {bytes.Length / 1e6 / Tool.Median(cut):0} MB/s"
        );
    }

    private static void Put(string folder)
    {
        string file = Path.Combine(folder, "take.bin"),
            changed = Path.Combine(folder, "take-2.bin"),
            copy = Path.Combine(folder, "copy.bin"),
            store = Path.Combine(folder, "put");
        WriteNoise(file, changed, Large);
        var (tools, puts, again, news, most) = (new List<double>(), new List<double>(), new List<double>(), 0L, 0L);
        for (var round = 0; round < Rounds; round++)
        {
            Tool.Shell($"rm -rf '{copy}' '{store}'; sync");
            var tool = Tool.Shell($"cp '{file}' '{copy}' && sync '{copy}'").Seconds + Tool.Shell($"sha256sum '{file}'").Seconds;
            var (first, _, _) = Tool.Put(file, store);
            var (second, _, newBytes) = Tool.Put(changed, store);
            tools.Add(tool);
            puts.Add(first.Seconds / tool);
            again.Add(second.Seconds / first.Seconds);
            (news, most) = (newBytes, Math.Max(most, Math.Max(first.MostResident, second.MostResident)));
        }
        Console.WriteLine(
            $"1 GiB that does not compress, medians of {Rounds} rounds; cp, sync and sha256sum took {Tool.Median(tools):0.0} s:"
        );
        Tool.Tell("put, times cp, sync and sha256sum", Tool.Median(puts), 1.5);
        Tool.Tell("put with 1 % changed in 64 places, times the first put", Tool.Median(again), 1);
        Tool.Tell("bytes that the change added, % of the file", 100.0 * news / Large, 1.3);
        Tool.Tell("most memory of put, MB", most / 1e6, 150, "0");
        Tool.Shell($"rm -rf '{file}' '{changed}' '{copy}' '{store}'");
    }

    private static void Reading(string folder)
    {
        string file = Path.Combine(folder, "take.bin"),
            changed = Path.Combine(folder, "take-2.bin"),
            store = Path.Combine(folder, "read");
        WriteNoise(file, changed, Large);
        var (_, hash, _) = Tool.Put(file, store);
        Tool.Put(changed, store);
        var (reads, gets, cats) = (new List<double>(), new List<double>(), new List<double>());
        Read(store, hash, 4);
        for (var round = 0; round < Rounds + 2; round++)
        {
            cats.Add(Tool.Shell($"cat '{file}' > /dev/null").Seconds);
            reads.Add(Read(store, hash, 2));
            gets.Add(Tool.Shell($"dotnet '{Tool.Program}' content get {hash} --store '{store}' > /dev/null").Seconds);
        }
        Console.WriteLine($"1 GiB that does not compress, medians of {Rounds + 2} rounds; cat took {Tool.Median(cats):0.00} s:");
        Tool.Tell(
            "reading it in a process that has read before, share of cat's speed",
            Tool.Median(cats.Zip(reads, (c, r) => c / r)),
            0.5,
            atLeast: true
        );
        Console.WriteLine(
            $"       chronotype content get > /dev/null, with the start of its process: "
                + $"{Tool.Median(cats.Zip(gets, (c, g) => c / g)):0.00} of cat's speed ({Tool.Median(gets):0.00} s and "
                + $"{Tool.Median(cats):0.00} s)"
        );
        Tool.Shell($"rm -rf '{file}' '{changed}' '{store}'");
    }

    /// <summary>Seconds of the last of several readings from beginning to end.</summary>
    private static double Read(string store, string hash, int times)
    {
        using var opened = ContentStore.OpenReadOnly(store);
        var seconds = 0.0;
        for (var i = 0; i < times; i++)
        {
            var clock = Stopwatch.StartNew();
            using var stream = opened.OpenRead(ContentHash.Parse(hash));
            stream.CopyTo(Stream.Null);
            seconds = clock.Elapsed.TotalSeconds;
        }
        return seconds;
    }

    private static void Poster(string folder)
    {
        string store = Path.Combine(folder, "posters"),
            current = Path.Combine(folder, "poster.ora"),
            before = Path.Combine(folder, "poster-before.ora"),
            delta = Path.Combine(folder, "delta");
        var poster = new LayeredPoster();
        var hasDelta = Tool.IsThere("xdelta3");
        var hashes = new List<string>();
        long plain = 0,
            layers = 0,
            merged = 0,
            added = 0,
            deltas = 0;
        for (var version = 0; version < Versions; version++)
        {
            if (version > 0)
                File.Move(current, before, overwrite: true);
            var (layer, picture) = poster.WriteNext(current);
            var (_, hash, newBytes) = Tool.Put(current, store);
            hashes.Add(hash);
            var size = new FileInfo(current).Length;
            plain += size;
            if (version == 0)
            {
                deltas = size;
                continue;
            }
            (layers, merged, added) = (layers + layer, merged + picture, added + newBytes);
            if (!hasDelta)
                continue;
            Tool.Run("xdelta3", "-9", "-f", "-e", "-s", before, current, delta);
            deltas += new FileInfo(delta).Length;
        }
        var disk = SizeOf(store);
        Console.WriteLine(
            $"{Versions} versions of an OpenRaster file of {plain / Versions / 1e6:0.0} MB, one layer of "
                + $"{layers / (Versions - 1) / 1e6:0.0} MB repainted each time, with a merged picture of "
                + $"{merged / (Versions - 1) / 1e6:0.0} MB:"
        );
        Tool.Tell(
            "bytes added by a version, times those of the entries that it rewrote (layer and merged picture)",
            (double)added / (layers + merged),
            1.15,
            "0.000"
        );
        Console.WriteLine($"       the same, times those of the repainted layer alone: {(double)added / layers:0.000}");
        Tool.Tell("plain copies, times the bytes on disk, index and all", (double)plain / disk, 10, "0.0", atLeast: true);
        if (hasDelta)
            Tool.Tell("bytes on disk, times a chain of xdelta3 -9 with its first file", (double)disk / deltas, 1.1, "0.000");
        else
            Console.WriteLine("       not compared to xdelta3, which is not installed (apt-get install xdelta3)");
        ReadBack(store, hashes, current);
        Tool.Shell($"rm -rf '{store}' '{current}' '{before}' '{delta}'");
    }

    private static void Recorded(string folder)
    {
        string store = Path.Combine(folder, "recordings"),
            current = Path.Combine(folder, "mix.wav");
        var recording = new Recording();
        var hashes = new List<string>();
        long inserted = 0,
            removed = 0,
            added = 0,
            plain = 0;
        for (var version = 0; version < Versions; version++)
        {
            var (put, cut) = recording.WriteNext(current);
            var (_, hash, newBytes) = Tool.Put(current, store);
            hashes.Add(hash);
            plain += new FileInfo(current).Length;
            (inserted, removed, added) = (inserted + put, removed + cut, version == 0 ? 0 : added + newBytes);
        }
        Console.WriteLine(
            $"{Versions} versions of a WAV of {plain / Versions / 1e6:0} MB; each cuts {removed / (Versions - 1) / 288e3:0.0} s out "
                + $"and puts {inserted / (Versions - 1) / 288e3:0.0} s in elsewhere:"
        );
        Tool.Tell("bytes added by a version, times those that were put in", (double)added / inserted, 1.2, "0.000");
        Console.WriteLine(
            $"       the same, times those put in and cut out: {(double)added / (inserted + removed):0.000}; plain copies, times the "
                + $"bytes on disk: {(double)plain / SizeOf(store):0.0}"
        );
        ReadBack(store, hashes, current);
        Tool.Shell($"rm -rf '{store}' '{current}'");
    }

    private static void ReadBack(string store, List<string> hashes, string plainFile)
    {
        var (first, last) = (new List<double>(), new List<double>());
        for (var round = 0; round < Rounds; round++)
        {
            var cat = Tool.Shell($"cat '{plainFile}' > /dev/null").Seconds;
            first.Add(cat / Read(store, hashes[0], 8));
            last.Add(cat / Read(store, hashes[^1], 8));
        }
        Tool.Tell($"reading version {hashes.Count} back, share of cat's speed on a file as long", Tool.Median(last), 0.5, atLeast: true);
        Tool.Tell(
            $"the speed of version {hashes.Count}, times that of version 1",
            Tool.Median(last.Zip(first, (l, f) => l / f)),
            0.9,
            atLeast: true
        );
    }

    private static long SizeOf(string folder) =>
        new DirectoryInfo(folder).EnumerateFiles("*", SearchOption.AllDirectories).Sum(f => f.Length);

    private static void WriteNoise(string file, string changed, long length)
    {
        var random = new Random(5);
        var block = new byte[1 << 20];
        using (var stream = File.Create(file))
        {
            for (long at = 0; at < length; at += block.Length)
            {
                random.NextBytes(block);
                stream.Write(block);
            }
        }
        File.Copy(file, changed);
        using var edited = new FileStream(changed, FileMode.Open);
        var edit = new byte[length / 100 / 64];
        for (var i = 0; i < 64; i++)
        {
            random.NextBytes(edit);
            edited.Position = random.NextInt64(length - edit.Length);
            edited.Write(edit);
        }
    }
}
