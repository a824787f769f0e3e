using Chronotype.Content.Segments;

namespace Chronotype.Content.Ingest;

/// <summary>Keeps of a content's chunks what is not there yet, and makes the lists that name them.</summary>
/// <param name="records">Where chunks are looked up and kept.</param>
/// <param name="stage">What keeps them from compaction until the content is recorded.</param>
/// <param name="mustBeReadable">Whether what is there already is read even where it was checked before.</param>
internal sealed class ChunkWriter(RecordLog records, StagingPins.Stage stage, bool mustBeReadable)
{
    private const int BatchBytes = 1 << 20;

    private readonly ChunkCompressor squeeze = new();
    private readonly RecordBatch batch = new(64 << 10);
    private readonly HashSet<RecordKey> pending = [];
    private readonly List<List<Part>> levels = [];

    /// <summary>Bytes that were added to the segments.</summary>
    public long NewBytes { get; private set; }

    /// <summary>Adds the content's next chunk.</summary>
    /// <param name="id">Its SHA-256.</param>
    /// <param name="chunk">Its bytes, before compression.</param>
    /// <exception cref="IOException">It could not be kept.</exception>
    public void AddChunk(Digest id, ReadOnlySpan<byte> chunk)
    {
        Keep(new RecordKey(RecordKind.Chunk, id), chunk);
        AddPart(new Part(id, 0, chunk.Length));
    }

    /// <summary>Ends the content. All of it is in the segments then, though not yet durable.</summary>
    /// <returns>What holds all of it; not set for content of no bytes.</returns>
    public Part Finish()
    {
        for (var level = 0; level < levels.Count; level++)
        {
            if (level == levels.Count - 1 && levels[level].Count == 1)
                break;
            if (levels[level].Count > 0)
                EndList(level);
        }
        Append();
        return levels.Count == 0 ? default : levels[^1][0];
    }

    private void AddPart(Part part)
    {
        if (levels.Count == part.Level)
            levels.Add([]);
        levels[part.Level].Add(part);
        if (PartList.EndsAfter(levels[part.Level].Count, part.Id))
            EndList(part.Level);
    }

    private void EndList(int level)
    {
        var parts = levels[level];
        var bytes = PartList.Write(parts);
        var id = Digest.Of(bytes);
        Keep(new RecordKey(RecordKind.List, id), bytes);
        var list = new Part(id, level + 1, parts.Sum(p => p.Length));
        parts.Clear();
        AddPart(list);
    }

    private void Keep(RecordKey key, ReadOnlySpan<byte> payload)
    {
        if (pending.Contains(key) || (stage.TryFind(key, out var at) && records.Holds(key, at, payload, mustBeReadable)))
            return;
        var stored = squeeze.Pack(payload, out var codec);
        NewBytes += SegmentFormat.RecordHeaderBytes + stored.Length;
        batch.Add(key, codec, payload.Length, stored);
        pending.Add(key);
        if (batch.Bytes >= BatchBytes)
            Append();
    }

    private void Append()
    {
        if (batch.IsEmpty)
            return;
        stage.Append(batch);
        batch.Clear();
        pending.Clear();
    }
}
