using System.Buffers.Binary;
using System.Security.Cryptography;
using Chronotype.Content.Files;

namespace Chronotype.Content.Segments;

// How segments begin and end, in order and when the disk fails.
internal sealed partial class SegmentWriter
{
    private Active Begin()
    {
        lastNumber = Math.Max(lastNumber, segments.Highest) + 1;
        var number = lastNumber;
        var nonce = BinaryPrimitives.ReadUInt64LittleEndian(RandomNumberGenerator.GetBytes(8));
        var path = Path.Combine(folder, SegmentSet.NameOf(number, nonce));
        var file = files.Create(path);
        try
        {
            Span<byte> header = stackalloc byte[SegmentFormat.SegmentHeaderBytes];
            SegmentFormat.WriteSegmentHeader(header, new SegmentHeader(number, nonce));
            file.Write(header, 0);
            file.Flush();
            files.FlushFolder(folder);
            segments.Add(number, nonce);
            segments.SetLength(number, SegmentFormat.SegmentHeaderBytes);
            segments.WriteManifest();
        }
        catch
        {
            segments.Forget(number);
            file.Dispose();
            TryDelete(path);
            throw;
        }
        return new Active(number, nonce, file, SegmentFormat.SegmentHeaderBytes, 0);
    }

    /// <summary>
    /// Says in a segment that was left where its records end. What stands behind, and could not be cut off, counts for nothing
    /// from then on; before, nothing may be promised, since a restart could find it again.
    /// </summary>
    private void EndLeftOpen()
    {
        if (leftOpen is not { } left)
            return;
        using (var file = files.Open(segments.PathOf(left.Number), forWriting: true))
        {
            var at = file.Length;
            var batch = EndRecord(segments.NonceOf(left.Number), at, left.WholeUpTo, left.Records);
            try
            {
                file.Write(batch.Slice(0, batch.Bytes), at);
                file.Flush();
                file.Truncate(at + batch.Bytes);
            }
            catch
            {
                file.Truncate(at);
                throw;
            }
            segments.SetLength(left.Number, at + batch.Bytes);
        }
        leftOpen = null;
    }

    private static RecordBatch EndRecord(ulong nonce, long at, long wholeUpTo, uint records)
    {
        var batch = new RecordBatch(SegmentFormat.EndRecordBytes);
        Span<byte> payload = stackalloc byte[SegmentFormat.EndRecordBytes - SegmentFormat.RecordHeaderBytes];
        BinaryPrimitives.WriteUInt32LittleEndian(payload, records);
        BinaryPrimitives.WriteInt64LittleEndian(payload[8..], wholeUpTo);
        batch.Add(new RecordKey(RecordKind.End, Digest.Of(payload)), Codec.Plain, payload.Length, payload);
        SegmentFormat.Seal(batch.Slice(0, batch.Bytes), nonce, at);
        return batch;
    }

    private void EndSegment(Active full)
    {
        var batch = EndRecord(full.Nonce, full.End, full.End, full.Records);
        Write(full, batch.Slice(0, batch.Bytes), 1);
        try
        {
            full.File.Flush();
        }
        catch
        {
            Abandon(full, full.Durable);
            throw;
        }
        full.Durable = full.End;
        TryTruncate(full, full.End);
        full.File.Dispose();
        active = null;
    }

    private void Abandon(Active lost, long from)
    {
        Generation++;
        TryTruncate(lost, from);
        segments.SetLength(lost.Number, from);
        if (active == lost)
            active = null;
        leftOpen = (lost.Number, from, lost.Records);
        lost.File.Dispose();
        Lost(lost.Number, from);
    }

    private static bool TryTruncate(Active to, long length)
    {
        try
        {
            to.File.Truncate(length);
            to.Allocated = length;
            return true;
        }
        catch (Exception e) when (e is IOException or ObjectDisposedException)
        {
            return false;
        }
    }

    private void TryDelete(string path)
    {
        try
        {
            files.Delete(path);
        }
        catch (IOException)
        {
            // Empty, and passed over by whoever opens the store.
        }
    }
}
