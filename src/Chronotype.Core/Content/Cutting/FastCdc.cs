using System.Numerics;

namespace Chronotype.Core.Content.Cutting;

/// <summary>
/// Says where bytes are cut by what they hold, so that an insertion moves only the cuts near it: gear hash, skipping of the
/// least length, and normalised chunking at level 2. W. Xia et al., "FastCDC: a Fast and Efficient Content-Defined Chunking
/// Approach for Data Deduplication", USENIX ATC 2016; and W. Xia et al., "The Design of Fast Content-Defined Chunking for Data
/// Deduplication Based Storage Systems", IEEE TPDS 31(9), 2020, whose step of two bytes a round is taken here. It cuts where
/// the step of one byte does.
/// </summary>
public sealed class FastCdc
{
    private static readonly ulong[] Gear = MakeGear(),
        GearShifted = [.. Gear.Select(g => g << 1)];

    private readonly int average;
    private readonly ulong strictMask,
        easyMask;

    /// <param name="min">The least length in bytes, from 16 and below <paramref name="average"/>.</param>
    /// <param name="average">The wished mean length in bytes, a power of two from 64 to 1 MiB.</param>
    /// <param name="max">The greatest length in bytes, above <paramref name="average"/>.</param>
    public FastCdc(int min, int average, int max)
    {
        if (average is < 64 or > 1 << 20 || !BitOperations.IsPow2(average))
            throw new ArgumentOutOfRangeException(
                nameof(average),
                average,
                "The mean length is a power of two from 64 to 1,048,576 bytes."
            );
        if (min < 16 || min >= average || max <= average)
            throw new ArgumentOutOfRangeException(nameof(min), $"{min}, {average} and {max} do not rise, or the least length is below 16.");
        (Min, this.average, Max) = (min, average, max);
        var bits = BitOperations.Log2((uint)average);
        // The mask's bits stand high: the gear hash shifts left, so high bits have seen the most bytes.
        strictMask = ~0ul << (64 - (bits + 2));
        easyMask = ~0ul << (64 - (bits - 2));
    }

    /// <summary>The shortest chunk, in bytes.</summary>
    public int Min { get; }

    /// <summary>The longest chunk, in bytes.</summary>
    public int Max { get; }

    /// <summary>
    /// The length of the first chunk of <paramref name="bytes"/>, from 1 to <see cref="Max"/>; all of them where none is found before
    /// their end.
    /// </summary>
    /// <param name="bytes">
    /// Not empty. To be cut the same wherever they end, they hold at least <see cref="Max"/> or go to the content's end.
    /// </param>
    public int NextCut(ReadOnlySpan<byte> bytes)
    {
        if (bytes.Length <= Min)
            return bytes.Length;
        var limit = Math.Min(bytes.Length, Max);
        var normal = Math.Min(limit, average);
        var hash = 0ul;
        return Find(bytes[..normal], Min, strictMask, ref hash) is var strict and > 0 ? strict
            : Find(bytes[..limit], normal, easyMask, ref hash) is var easy and > 0 ? easy
            : limit;
    }

    private static int Find(ReadOnlySpan<byte> bytes, int from, ulong mask, ref ulong state)
    {
        var (hash, i, gear, shifted) = (state, from, Gear, GearShifted);
        for (; i + 1 < bytes.Length; i += 2)
        {
            // The second hash is made from the one before the round, so that it does not wait for the first.
            var first = (hash << 1) + gear[bytes[i]];
            if ((first & mask) == 0)
            {
                state = first;
                return i + 1;
            }
            hash = (hash << 2) + shifted[bytes[i]] + gear[bytes[i + 1]];
            if ((hash & mask) == 0)
            {
                state = hash;
                return i + 2;
            }
        }
        if (i < bytes.Length)
        {
            hash = (hash << 1) + gear[bytes[i]];
            if ((hash & mask) == 0)
            {
                state = hash;
                return i + 1;
            }
        }
        state = hash;
        return 0;
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
