namespace Chronotype.Content.Segments;

/// <summary>Records that are ready to be appended, but for what depends on their place.</summary>
internal sealed class RecordBatch(int capacity)
{
    private byte[] bytes = new byte[capacity];
    private readonly List<(RecordKey Key, int Start, int Length)> records = [];

    public int Bytes { get; private set; }
    public IReadOnlyList<(RecordKey Key, int Start, int Length)> Records => records;

    public bool IsEmpty => records.Count == 0;

    public void Add(RecordKey key, Codec codec, int raw, ReadOnlySpan<byte> stored)
    {
        var length = SegmentFormat.RecordHeaderBytes + stored.Length;
        if (Bytes + length > bytes.Length)
            Array.Resize(ref bytes, Math.Max(bytes.Length * 2, Bytes + length));
        var record = bytes.AsSpan(Bytes, length);
        SegmentFormat.WriteRecordHeader(
            record,
            new RecordHeader(key.Kind, codec, (uint)stored.Length, (uint)raw, SegmentFormat.PayloadCheck(stored), key.Id)
        );
        stored.CopyTo(record[SegmentFormat.RecordHeaderBytes..]);
        records.Add((key, Bytes, length));
        Bytes += length;
    }

    public Span<byte> Slice(int start, int length) => bytes.AsSpan(start, length);

    public void Clear()
    {
        records.Clear();
        Bytes = 0;
    }
}
