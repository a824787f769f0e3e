using Chronotype.Core.Content.Cutting;
using Chronotype.Storage.Content.Segments;

namespace Chronotype.Storage.Content;

/// <summary>Takes one content in: cuts it, and keeps of its parts what is not there yet.</summary>
/// <param name="mustBeReadable">Whether what is there already is read, and kept anew where it is damaged.</param>
internal sealed class Intake(RecordStore records, InUse.Stage stage, bool mustBeReadable)
{
    private const int BatchBytes = 1 << 20, BufferBytes = 4 * ContainerCutter.Sight;

    private readonly ContainerCutter cutter = new();
    private readonly Squeeze squeeze = new();
    private readonly RecordBatch batch = new(BatchBytes + 2 * ContainerCutter.MaxLength);
    private readonly HashSet<RecordKey> pending = [];
    private readonly List<List<Part>> levels = [];
    private readonly byte[] buffer = new byte[BufferBytes];
    private int start, end;

    /// <summary>Bytes that were added to the segments.</summary>
    public long NewBytes { get; private set; }

    /// <summary>Takes the next bytes.</summary>
    /// <exception cref="IOException">They could not be kept.</exception>
    public void Add(ReadOnlySpan<byte> bytes)
    {
        while (bytes.Length > 0)
        {
            if (end == buffer.Length)
            {
                buffer.AsSpan(start, end - start).CopyTo(buffer);
                (start, end) = (0, end - start);
            }
            var taken = Math.Min(bytes.Length, buffer.Length - end);
            bytes[..taken].CopyTo(buffer.AsSpan(end));
            bytes = bytes[taken..];
            end += taken;
            while (end - start >= ContainerCutter.Sight) Cut();
        }
    }

    /// <summary>Ends the content. All of it is in the segments then, though not yet durable.</summary>
    /// <returns>What holds all of it; not set for content of no bytes.</returns>
    public Part Finish()
    {
        while (start < end) Cut();
        for (var level = 0; level < levels.Count; level++)
        {
            if (level == levels.Count - 1 && levels[level].Count == 1) break;
            if (levels[level].Count > 0) EndList(level);
        }
        Append();
        return levels.Count == 0 ? default : levels[^1][0];
    }

    private void Cut()
    {
        var chunk = buffer.AsSpan(start, cutter.Next(buffer.AsSpan(start, end - start)));
        start += chunk.Length;
        var id = Digest.Of(chunk);
        Keep(new RecordKey(RecordKind.Chunk, id), chunk);
        AddPart(new Part(id, 0, chunk.Length));
    }

    private void AddPart(Part part)
    {
        if (levels.Count == part.Level) levels.Add([]);
        levels[part.Level].Add(part);
        if (PartList.EndsAfter(levels[part.Level].Count, part.Id)) EndList(part.Level);
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
        if (pending.Contains(key) || (stage.TryFind(key, out _) && (!mustBeReadable || IsReadable(key)))) return;
        var stored = squeeze.Pack(payload, out var codec);
        NewBytes += SegmentFormat.RecordHeaderBytes + stored.Length;
        batch.Add(key, codec, payload.Length, stored);
        pending.Add(key);
        if (batch.Bytes >= BatchBytes) Append();
    }

    private bool IsReadable(RecordKey key)
    {
        try
        {
            return Digest.Of(records.Load(key)) == key.Id;
        }
        catch (IOException)
        {
            return false;
        }
    }

    private void Append()
    {
        if (batch.IsEmpty) return;
        stage.Append(batch);
        batch.Clear();
        pending.Clear();
    }
}
