using System.Numerics;

namespace Chronotype.Core.Comparing;

/// <summary>
/// Cuts bytes where their content says so, so that an insertion moves only the cuts near it.
/// FastCDC: W. Xia et al., "FastCDC: a Fast and Efficient Content-Defined Chunking Approach for Data Deduplication",
/// USENIX ATC 2016: gear hash, sub-minimum skipping and normalised chunking at level 2.
/// </summary>
public sealed class ContentChunker
{
    private static readonly ulong[] Gear = MakeGear();

    private readonly int min, average, max;
    private readonly ulong strictMask, easyMask;

    /// <param name="average">The wished mean length in bytes, a power of two from 64 to 1 MiB; chunks have from a quarter to eight times as many.</param>
    public ContentChunker(int average)
    {
        if (average is < 64 or > 1 << 20 || !BitOperations.IsPow2(average))
            throw new ArgumentOutOfRangeException(nameof(average), average, "The mean length is a power of two from 64 to 1,048,576 bytes.");
        (min, this.average, max) = (average / 4, average, average * 8);
        var bits = BitOperations.Log2((uint)average);
        // The mask's bits stand high: the gear hash shifts left, so high bits have seen the most bytes.
        strictMask = ~0ul << (64 - (bits + 2));
        easyMask = ~0ul << (64 - (bits - 2));
    }

    /// <summary>A mean length that cuts <paramref name="length"/> bytes into about 32,000 chunks, within what is allowed.</summary>
    public static ContentChunker ForLength(long length) =>
        new((int)Math.Clamp((long)BitOperations.RoundUpToPowerOf2((ulong)Math.Max(1, length / 32_768)), 64, 1 << 20));

    /// <summary>Reads to the end and hands each chunk over, in order. The span is valid only during the call.</summary>
    public void Cut(Stream content, Action<ReadOnlySpan<byte>> chunk, CancellationToken cancel = default)
    {
        var buffer = new byte[Math.Max(max * 2, 1 << 16)];
        int start = 0, end = 0;
        var ended = false;
        while (true)
        {
            cancel.ThrowIfCancellationRequested();
            if (!ended && end - start < max)
            {
                buffer.AsSpan(start, end - start).CopyTo(buffer);
                (start, end) = (0, end - start);
                while (end < buffer.Length && !ended)
                {
                    var read = content.Read(buffer, end, buffer.Length - end);
                    end += read;
                    ended = read == 0;
                }
            }
            if (start == end) return;
            var length = NextCut(buffer.AsSpan(start, end - start));
            chunk(buffer.AsSpan(start, length));
            start += length;
        }
    }

    private int NextCut(ReadOnlySpan<byte> bytes)
    {
        if (bytes.Length <= min) return bytes.Length;
        var limit = Math.Min(bytes.Length, max);
        var normal = Math.Min(limit, average);
        var hash = 0ul;
        var i = min;
        for (; i < normal; i++)
        {
            hash = (hash << 1) + Gear[bytes[i]];
            if ((hash & strictMask) == 0) return i + 1;
        }
        for (; i < limit; i++)
        {
            hash = (hash << 1) + Gear[bytes[i]];
            if ((hash & easyMask) == 0) return i + 1;
        }
        return limit;
    }

    // SplitMix64 (Steele, Lea, Flood 2014) from a fixed seed: the table must be the same for ever, or old cuts would not be found again.
    private static ulong[] MakeGear()
    {
        var table = new ulong[256];
        var state = 0x43_68_72_6F_6E_6F_74_79ul;
        for (var i = 0; i < table.Length; i++)
        {
            state += 0x9E3779B97F4A7C15;
            var z = state;
            z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9;
            z = (z ^ (z >> 27)) * 0x94D049BB133111EB;
            table[i] = z ^ (z >> 31);
        }
        return table;
    }
}
