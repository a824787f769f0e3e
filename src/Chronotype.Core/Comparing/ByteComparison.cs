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
/// <param name="RemovedBytes">How many bytes the first has and the second has not.</param>
public sealed record ByteComparison(double Change, IReadOnlyList<ByteRange> New, long RemovedBytes)
{
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
        long firstLength = 0,
            secondLength = 0,
            common = 0;
        chunker.Cut(
            first,
            chunk =>
            {
                CollectionsMarshal.GetValueRefOrAddDefault(left, Identity(chunk), out _)++;
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
                else if (fresh.Count > 0 && fresh[^1].End == secondLength)
                    fresh[^1] = fresh[^1] with { Length = fresh[^1].Length + chunk.Length };
                else
                    fresh.Add(new ByteRange(secondLength, chunk.Length));
                secondLength += chunk.Length;
            },
            cancel
        );

        var longer = Math.Max(firstLength, secondLength);
        return new ByteComparison(longer == 0 ? 0 : 1 - (double)common / longer, fresh, firstLength - common);
    }

    private static ulong Identity(ReadOnlySpan<byte> chunk)
    {
        Span<byte> digest = stackalloc byte[SHA256.HashSizeInBytes];
        SHA256.HashData(chunk, digest);
        return BinaryPrimitives.ReadUInt64LittleEndian(digest);
    }
}
