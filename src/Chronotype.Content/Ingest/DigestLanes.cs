using System.Buffers.Binary;
using System.Diagnostics.CodeAnalysis;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using System.Runtime.Intrinsics.X86;
using Chronotype.Content.Segments;

namespace Chronotype.Content.Ingest;

/// <summary>
/// SHA-256 (FIPS 180-4, section 6.2) of eight messages at a time, one in each lane of a vector of 256 bits. A processor without
/// instructions for SHA-256 hashes many small messages three to five times as fast as one after another.
/// </summary>
internal sealed class DigestLanes
{
    private const int Lanes = 8,
        Words = 8,
        BlockBytes = 64,
        BlockWords = BlockBytes / 4,
        Rounds = 64,
        LengthBytes = 8;

    // csharpier-ignore
    private static readonly uint[] Constants =
    [
        0x428a2f98, 0x71374491, 0xb5c0fbcf, 0xe9b5dba5, 0x3956c25b, 0x59f111f1, 0x923f82a4, 0xab1c5ed5,
        0xd807aa98, 0x12835b01, 0x243185be, 0x550c7dc3, 0x72be5d74, 0x80deb1fe, 0x9bdc06a7, 0xc19bf174,
        0xe49b69c1, 0xefbe4786, 0x0fc19dc6, 0x240ca1cc, 0x2de92c6f, 0x4a7484aa, 0x5cb0a9dc, 0x76f988da,
        0x983e5152, 0xa831c66d, 0xb00327c8, 0xbf597fc7, 0xc6e00bf3, 0xd5a79147, 0x06ca6351, 0x14292967,
        0x27b70a85, 0x2e1b2138, 0x4d2c6dfc, 0x53380d13, 0x650a7354, 0x766a0abb, 0x81c2c92e, 0x92722c85,
        0xa2bfe8a1, 0xa81a664b, 0xc24b8b70, 0xc76c51a3, 0xd192e819, 0xd6990624, 0xf40e3585, 0x106aa070,
        0x19a4c116, 0x1e376c08, 0x2748774c, 0x34b0bcb5, 0x391c0cb3, 0x4ed8aa4a, 0x5b9cca4f, 0x682e6ff3,
        0x748f82ee, 0x78a5636f, 0x84c87814, 0x8cc70208, 0x90befffa, 0xa4506ceb, 0xbef9a3f7, 0xc67178f2,
    ];

    private static readonly uint[] Initial =
    [
        0x6a09e667,
        0xbb67ae85,
        0x3c6ef372,
        0xa54ff53a,
        0x510e527f,
        0x9b05688c,
        0x1f83d9ab,
        0x5be0cd19,
    ];

    private static readonly Vector256<byte> BigEndian = Vector256.Create(
        Vector128.Create((byte)3, 2, 1, 0, 7, 6, 5, 4, 11, 10, 9, 8, 15, 14, 13, 12),
        Vector128.Create((byte)3, 2, 1, 0, 7, 6, 5, 4, 11, 10, 9, 8, 15, 14, 13, 12)
    );

    private static readonly byte[] Nothing = new byte[BlockBytes];

    // Word by word; of each word, lane by lane.
    private readonly uint[] state = new uint[Words * Lanes];
    private readonly Lane[] lanes = [.. Enumerable.Range(0, Lanes).Select(_ => new Lane())];

    /// <summary>What one lane is at.</summary>
    private sealed class Lane
    {
        // The message's last bytes, a one, zeros, and its length in bits.
        private readonly byte[] tail = new byte[BlockBytes * 2];
        private int tailBlocks;

        /// <summary>The message, by its place in what was asked for; -1 for none.</summary>
        public int Message = -1;
        public byte[] From = Nothing;
        public int At,
            Blocks;

        public void Begin(int message, byte[] bytes, Range range)
        {
            var (at, length) = range.GetOffsetAndLength(bytes.Length);
            var rest = length % BlockBytes;
            (Message, From, At, Blocks) = (message, bytes, at, length / BlockBytes);
            tailBlocks = rest + 1 + LengthBytes > BlockBytes ? 2 : 1;
            Array.Clear(tail);
            bytes.AsSpan(at + length - rest, rest).CopyTo(tail);
            tail[rest] = 0x80;
            BinaryPrimitives.WriteUInt64BigEndian(tail.AsSpan(tailBlocks * BlockBytes - LengthBytes), (ulong)length * 8);
        }

        /// <returns>False at the message's end.</returns>
        public bool GoOnToTail()
        {
            (From, At, Blocks, tailBlocks) = (tail, 0, tailBlocks, 0);
            return Blocks > 0;
        }

        public void Rest() => (Message, From, At, Blocks) = (-1, Nothing, 0, int.MaxValue);
    }

    /// <summary>
    /// Whether this processor can do it, has no instructions of its own that are faster, and does it right: a wrong name would be found
    /// only when the chunk is read.
    /// </summary>
    public static bool IsFaster { get; } = Avx2.IsSupported && !HasInstructionsForIt() && IsRight();

    /// <summary>Hashes each of some stretches of bytes, in whichever way this processor does it sooner.</summary>
    /// <param name="bytes">Where they stand.</param>
    /// <param name="messages">The stretches; they may overlap, and be of any length.</param>
    /// <param name="digests">Gets one hash a stretch.</param>
    public void HashEach(byte[] bytes, ReadOnlySpan<Range> messages, Span<Digest> digests)
    {
        if (IsFaster)
        {
            HashInLanes(bytes, messages, digests);
            return;
        }
        for (var i = 0; i < messages.Length; i++)
            digests[i] = Digest.Of(bytes.AsSpan(messages[i]));
    }

    /// <summary>As <see cref="HashEach"/>, in lanes.</summary>
    /// <exception cref="PlatformNotSupportedException">The processor has no AVX2.</exception>
    public void HashInLanes(byte[] bytes, ReadOnlySpan<Range> messages, Span<Digest> digests)
    {
        var next = 0;
        foreach (var lane in lanes)
            lane.Rest();
        for (var busy = 0; ; )
        {
            for (var i = 0; i < Lanes; i++)
            {
                var lane = lanes[i];
                while (lane.Blocks == 0 || lane.Message < 0 && next < messages.Length)
                {
                    if (lane.Message >= 0 && lane.GoOnToTail())
                        continue;
                    if (lane.Message >= 0)
                    {
                        digests[lane.Message] = DigestOf(i);
                        busy--;
                        lane.Rest();
                    }
                    if (next == messages.Length)
                        break;
                    lane.Begin(next, bytes, messages[next]);
                    Begin(i);
                    (next, busy) = (next + 1, busy + 1);
                }
            }
            if (busy == 0)
                return;
            var blocks = lanes.Min(l => l.Blocks);
            Compress(blocks);
            foreach (var lane in lanes)
            {
                if (lane.Message >= 0)
                    lane.Blocks -= blocks;
            }
        }
    }

    private void Begin(int lane)
    {
        for (var word = 0; word < Words; word++)
            state[word * Lanes + lane] = Initial[word];
    }

    private Digest DigestOf(int lane)
    {
        Span<ulong> pairs = stackalloc ulong[Words / 2];
        for (var i = 0; i < pairs.Length; i++)
            pairs[i] = (ulong)state[i * 2 * Lanes + lane] << 32 | state[(i * 2 + 1) * Lanes + lane];
        return new Digest(pairs[0], pairs[1], pairs[2], pairs[3]);
    }

    private void Compress(int blocks)
    {
        Span<Vector256<uint>> words = stackalloc Vector256<uint>[Rounds];
        var sums = MemoryMarshal.Cast<uint, Vector256<uint>>(state.AsSpan());
        for (; blocks > 0; blocks--)
        {
            Load(words);
            Expand(words);
            var (a, b, c, d) = (sums[0], sums[1], sums[2], sums[3]);
            var (e, f, g, h) = (sums[4], sums[5], sums[6], sums[7]);
            for (var round = 0; round < Rounds; round += Words)
            {
                var now = words.Slice(round, Words);
                var constants = Constants.AsSpan(round, Words);
                Vector256<uint> t;
                t = First(e, f, g, h, now[0], constants[0]);
                (d, h) = (d + t, t + Second(a, b, c));
                t = First(d, e, f, g, now[1], constants[1]);
                (c, g) = (c + t, t + Second(h, a, b));
                t = First(c, d, e, f, now[2], constants[2]);
                (b, f) = (b + t, t + Second(g, h, a));
                t = First(b, c, d, e, now[3], constants[3]);
                (a, e) = (a + t, t + Second(f, g, h));
                t = First(a, b, c, d, now[4], constants[4]);
                (h, d) = (h + t, t + Second(e, f, g));
                t = First(h, a, b, c, now[5], constants[5]);
                (g, c) = (g + t, t + Second(d, e, f));
                t = First(g, h, a, b, now[6], constants[6]);
                (f, b) = (f + t, t + Second(c, d, e));
                t = First(f, g, h, a, now[7], constants[7]);
                (e, a) = (e + t, t + Second(b, c, d));
            }
            (sums[0], sums[1], sums[2], sums[3]) = (sums[0] + a, sums[1] + b, sums[2] + c, sums[3] + d);
            (sums[4], sums[5], sums[6], sums[7]) = (sums[4] + e, sums[5] + f, sums[6] + g, sums[7] + h);
        }
    }

    // The next block of every lane, its words turned to stand lane beside lane.
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private void Load(Span<Vector256<uint>> words)
    {
        Span<Vector256<uint>> rows = stackalloc Vector256<uint>[Lanes];
        for (var half = 0; half < BlockWords; half += Lanes)
        {
            for (var i = 0; i < Lanes; i++)
            {
                var lane = lanes[i];
                var row = Vector256.Create<byte>(lane.From.AsSpan(lane.At + half * 4, Lanes * 4));
                rows[i] = Avx2.Shuffle(row, BigEndian).AsUInt32();
            }
            Turn(rows, words.Slice(half, Lanes));
        }
        foreach (var lane in lanes)
        {
            if (lane.Message >= 0)
                lane.At += BlockBytes;
        }
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static void Turn(ReadOnlySpan<Vector256<uint>> rows, Span<Vector256<uint>> columns)
    {
        var (l0, l1) = Low(rows[..4]);
        var (l2, l3) = High(rows[..4]);
        var (r0, r1) = Low(rows[4..]);
        var (r2, r3) = High(rows[4..]);
        (columns[0], columns[4]) = (Avx2.Permute2x128(l0, r0, 0x20), Avx2.Permute2x128(l0, r0, 0x31));
        (columns[1], columns[5]) = (Avx2.Permute2x128(l1, r1, 0x20), Avx2.Permute2x128(l1, r1, 0x31));
        (columns[2], columns[6]) = (Avx2.Permute2x128(l2, r2, 0x20), Avx2.Permute2x128(l2, r2, 0x31));
        (columns[3], columns[7]) = (Avx2.Permute2x128(l3, r3, 0x20), Avx2.Permute2x128(l3, r3, 0x31));
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static (Vector256<uint> Even, Vector256<uint> Odd) Low(ReadOnlySpan<Vector256<uint>> rows) =>
        Pairs(Avx2.UnpackLow(rows[0], rows[1]), Avx2.UnpackLow(rows[2], rows[3]));

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static (Vector256<uint> Even, Vector256<uint> Odd) High(ReadOnlySpan<Vector256<uint>> rows) =>
        Pairs(Avx2.UnpackHigh(rows[0], rows[1]), Avx2.UnpackHigh(rows[2], rows[3]));

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static (Vector256<uint> Even, Vector256<uint> Odd) Pairs(Vector256<uint> first, Vector256<uint> second) =>
        (Avx2.UnpackLow(first.AsUInt64(), second.AsUInt64()).AsUInt32(), Avx2.UnpackHigh(first.AsUInt64(), second.AsUInt64()).AsUInt32());

    // The message schedule: what follows the sixteen words of a block.
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static void Expand(Span<Vector256<uint>> words)
    {
        for (var i = BlockWords; i < Rounds; i++)
        {
            var last = words.Slice(i - BlockWords, BlockWords + 1);
            var (w1, w14) = (last[1], last[14]);
            last[16] = (Turned(w1, 7) ^ Turned(w1, 18) ^ w1 >> 3) + last[0] + (Turned(w14, 17) ^ Turned(w14, 19) ^ w14 >> 10) + last[9];
        }
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static Vector256<uint> First(
        Vector256<uint> e,
        Vector256<uint> f,
        Vector256<uint> g,
        Vector256<uint> h,
        Vector256<uint> word,
        uint constant
    ) => h + (Turned(e, 6) ^ Turned(e, 11) ^ Turned(e, 25)) + (g ^ e & (f ^ g)) + (word + Vector256.Create(constant));

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static Vector256<uint> Second(Vector256<uint> a, Vector256<uint> b, Vector256<uint> c) =>
        (Turned(a, 2) ^ Turned(a, 13) ^ Turned(a, 22)) + (a & b | c & (a | b));

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static Vector256<uint> Turned(Vector256<uint> x, [ConstantExpected] byte by) =>
        Avx512F.VL.IsSupported ? Avx512F.VL.RotateRight(x, by) : x >> by | x << (32 - by);

    private static bool IsRight()
    {
        byte[] bytes = [.. Enumerable.Range(0, 500).Select(i => (byte)(i * 167))];
        Range[] messages = [.. Enumerable.Range(0, 3 * Lanes).Select(i => i..(bytes.Length - i * 17))];
        var digests = new Digest[messages.Length];
        new DigestLanes().HashInLanes(bytes, messages, digests);
        return messages.Select(m => Digest.Of(bytes.AsSpan(m))).SequenceEqual(digests);
    }

    // CPUID leaf 7, EBX bit 29.
    private static bool HasInstructionsForIt() => X86Base.IsSupported && (X86Base.CpuId(7, 0).Ebx >> 29 & 1) != 0;
}
