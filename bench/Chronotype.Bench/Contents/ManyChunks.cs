using System.Diagnostics;
using Chronotype.Content.Files;
using Chronotype.Content.Segments;

namespace Chronotype.Bench.Contents;

/// <summary>A store of ten million chunks: how long it takes to open, and to find one of them.</summary>
internal static class ManyChunks
{
    private const int Chunks = 10_000_000,
        Asked = 1_000_000,
        Rounds = 5;

    public static void Run(string folder)
    {
        var path = Path.Combine(folder, "many");
        var ids = Fill(path);
        new Random(3).Shuffle(ids);
        var (opening, finding, missing) = (new List<double>(), new List<double>(), new List<double>());
        for (var round = 0; round < Rounds; round++)
        {
            var clock = Stopwatch.StartNew();
            using var records = new RecordLog(DiskFiles.Instance, path, null, new StoreSettings());
            opening.Add(clock.Elapsed.TotalSeconds);
            finding.Add(Look(records, ids, id => id, isThere: true));
            missing.Add(Look(records, ids, id => new Digest(id.D, id.C, id.B, id.A), isThere: false));
        }
        var bytes = new DirectoryInfo(Path.Combine(path, "index")).EnumerateFiles().Sum(f => f.Length);
        Console.WriteLine($"{Chunks:N0} chunks, index of {bytes / 1e6:0} MB, medians of {Rounds} rounds:");
        Tool.Tell("opening, s", Tool.Median(opening), 2);
        Tool.Tell("a look-up of a chunk that is there, µs", Tool.Median(finding), 20, "0.0");
        Tool.Tell("a look-up of a chunk that is not, µs", Tool.Median(missing), 20, "0.0");
        Directory.Delete(path, recursive: true);
    }

    /// <summary>Chunks of a few bytes take an index as large as chunks of many do.</summary>
    private static Digest[] Fill(string path)
    {
        var ids = new Digest[Asked];
        Span<byte> payload = stackalloc byte[16];
        using var records = new RecordLog(DiskFiles.Instance, path, null, new StoreSettings());
        var batch = new RecordBatch(1 << 21);
        for (var i = 0; i < Chunks; i++)
        {
            BitConverter.TryWriteBytes(payload, (long)i);
            var id = Digest.Of(payload);
            if (i % (Chunks / Asked) == 0)
                ids[i / (Chunks / Asked)] = id;
            batch.Add(new RecordKey(RecordKind.Chunk, id), Codec.Plain, payload.Length, payload);
            if (batch.Bytes < 1 << 20 && i < Chunks - 1)
                continue;
            records.Append(batch);
            batch.Clear();
        }
        return ids;
    }

    /// <summary>Microseconds of one look-up.</summary>
    private static double Look(RecordLog records, Digest[] ids, Func<Digest, Digest> asked, bool isThere)
    {
        var clock = Stopwatch.StartNew();
        foreach (var id in ids)
        {
            if (records.TryFind(new RecordKey(RecordKind.Chunk, asked(id)), out _) != isThere)
                throw new InvalidOperationException("The index does not know what is there.");
        }
        return clock.Elapsed.TotalMicroseconds / ids.Length;
    }
}
