using System.Buffers.Binary;
using System.Runtime.InteropServices;
using System.Security.Cryptography;

namespace Chronotype.Core.Comparing;

/// <summary>A stretch of bytes.</summary>
/// <param name="Offset">Bytes from the beginning.</param>
/// <param name="Length">Bytes.</param>
public readonly record struct ByteRange(long Offset, long Length)
{
    /// <summary>The offset behind the last byte.</summary>
    public long End => Offset + Length;
}

/// <summary>How much of two contents is held in common, wherever it stands in them.</summary>
/// <param name="Change">The share of the longer one's bytes that is not held in common, 0 to 1.</param>
/// <param name="New">What the second has and the first has not, in order, adjoining stretches joined.</param>
/// <param name="Gone">What the first has and the second has not, likewise.</param>
public sealed record ByteComparison(double Change, IReadOnlyList<ByteRange> New, IReadOnlyList<ByteRange> Gone)
{
    /// <summary>How many bytes the first has and the second has not.</summary>
    public long RemovedBytes => Gone.Sum(r => r.Length);

    /// <summary>
    /// Reads both to their ends. Memory grows with the number of chunks, about 32,000 to 130,000 a side, not with the length.
    /// </summary>
    /// <param name="first">The earlier content, from where it stands.</param>
    /// <param name="second">The later one.</param>
    /// <param name="lengthHint">The longer one's length in bytes; it sets how finely they are cut.</param>
    /// <param name="cancel">Stops between two chunks.</param>
    public static ByteComparison Compare(Stream first, Stream second, long lengthHint, CancellationToken cancel = default)
    {
        var chunker = ContentChunker.ForLength(lengthHint);
        var left = new Dictionary<ulong, int>();
        var old = new List<(ulong Identity, int Length)>();
        long firstLength = 0,
            secondLength = 0,
            common = 0;
        chunker.Cut(
            first,
            chunk =>
            {
                var identity = Identity(chunk);
                CollectionsMarshal.GetValueRefOrAddDefault(left, identity, out _)++;
                old.Add((identity, chunk.Length));
                firstLength += chunk.Length;
            },
            cancel
        );

        var fresh = new List<ByteRange>();
        chunker.Cut(
            second,
            chunk =>
            {
                ref var count = ref CollectionsMarshal.GetValueRefOrNullRef(left, Identity(chunk));
                if (!System.Runtime.CompilerServices.Unsafe.IsNullRef(ref count) && count > 0)
                {
                    count--;
                    common += chunk.Length;
                }
                else
                    Join(fresh, secondLength, chunk.Length);
                secondLength += chunk.Length;
            },
            cancel
        );

        // Of several that are alike the last ones are those that went.
        var gone = new List<ByteRange>();
        var at = firstLength;
        foreach (var (identity, length) in Enumerable.Reverse(old))
        {
            at -= length;
            if (left[identity] == 0)
                continue;
            left[identity]--;
            gone.Add(new ByteRange(at, length));
        }
        gone.Reverse();
        var joined = new List<ByteRange>();
        foreach (var range in gone)
            Join(joined, range.Offset, range.Length);
        var longer = Math.Max(firstLength, secondLength);
        return new ByteComparison(longer == 0 ? 0 : 1 - (double)common / longer, fresh, joined);
    }

    private static void Join(List<ByteRange> ranges, long offset, long length)
    {
        if (ranges.Count > 0 && ranges[^1].End == offset)
            ranges[^1] = ranges[^1] with { Length = ranges[^1].Length + length };
        else
            ranges.Add(new ByteRange(offset, length));
    }

    private static ulong Identity(ReadOnlySpan<byte> chunk)
    {
        Span<byte> digest = stackalloc byte[SHA256.HashSizeInBytes];
        SHA256.HashData(chunk, digest);
        return BinaryPrimitives.ReadUInt64LittleEndian(digest);
    }
}
