using Chronotype.Content.Index;

namespace Chronotype.Content.Segments;

/// <summary>How the last segment ends.</summary>
/// <param name="Number">The segment's, from 1; 0 where there is none.</param>
/// <param name="Length">Bytes of its file.</param>
/// <param name="WholeUpTo">Bytes from its beginning to where records end; what stands behind is none.</param>
/// <param name="Records">How many whole ones it has.</param>
/// <param name="IsResumable">Whether more records may be appended to it.</param>
/// <param name="IsEnded">Whether it has its end record.</param>
internal readonly record struct LastSegment(uint Number, long Length, long WholeUpTo, uint Records, bool IsResumable, bool IsEnded);

/// <summary>Takes into the index what the segments hold past what it covers.</summary>
internal static class SegmentReplay
{
    // About 40 MB of memory.
    private const int MostRecent = 400_000;

    /// <param name="index">Takes the records in.</param>
    /// <param name="segments">Read from where the index ends.</param>
    /// <param name="mayWrite">Whether the index may be written to disk on the way, to keep memory small.</param>
    /// <param name="progress">Told of the bytes that were read; null where nobody looks.</param>
    /// <returns>The last segment, which is read as a whole, to know whether it can be gone on with; not set where there is none.</returns>
    public static LastSegment Into(StoreIndex index, SegmentSet segments, bool mayWrite, IProgress<StoreProgress>? progress)
    {
        var (coveredSegment, coveredOffset) = index.Covered;
        var numbers = segments.Numbers;
        LastSegment last = default;
        long done = 0,
            total = progress is null ? 0 : segments.TotalBytes;
        foreach (var number in numbers.Where(n => n >= coveredSegment || n == numbers[^1]))
        {
            var covered =
                number > coveredSegment ? 0
                : number < coveredSegment ? long.MaxValue
                : coveredOffset;
            last = Scan(index, segments, number, isLast: number == numbers[^1], covered);
            // All that was read stands on the disk already, so it may be written down.
            if (mayWrite && number != numbers[^1] && index.RecentCount > MostRecent)
                index.Checkpoint(number + 1, 0);
            progress?.Report(new StoreProgress(done += last.Length, total));
        }
        return last;
    }

    private static LastSegment Scan(StoreIndex index, SegmentSet segments, uint number, bool isLast, long covered)
    {
        var length = segments.LengthOf(number);
        var scanner = new SegmentScanner(
            segments,
            number,
            isLast ? SegmentFormat.SegmentHeaderBytes : Math.Max(covered, SegmentFormat.SegmentHeaderBytes)
        );
        var (wholeUpTo, records, isResumable, isEnded) = (
            length,
            0u,
            segments.IsLocal(number) && (!isLast || HasHeader(segments, number)),
            false
        );
        while (scanner.Next(out var found))
        {
            records++;
            isEnded = found is { IsWhole: true, Header.Kind: RecordKind.End };
            isResumable &= found is { IsWhole: true, Header.Kind: not RecordKind.End };
            wholeUpTo = found.IsWhole ? found.Offset + found.Length : Math.Min(wholeUpTo, found.Offset);
            if (found is { Header: { } header, IsWhole: true } && found.Offset >= covered)
                index.Add(
                    header.Key,
                    header.Kind == RecordKind.Drop
                        ? Location.Dropped(number, (uint)found.Offset)
                        : new Location(number, (uint)found.Offset, header.Stored)
                );
        }
        return new LastSegment(number, length, wholeUpTo, records, isResumable, isEnded);
    }

    private static bool HasHeader(SegmentSet segments, uint number)
    {
        Span<byte> header = stackalloc byte[SegmentFormat.SegmentHeaderBytes];
        segments.Read(number, header, 0);
        return SegmentFormat.TryReadSegmentHeader(header, out var read) && read.Number == number && read.Nonce == segments.NonceOf(number);
    }
}
