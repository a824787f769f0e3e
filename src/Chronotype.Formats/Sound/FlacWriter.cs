using System.Buffers.Binary;
using System.Security.Cryptography;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>
/// Writes a sound as FLAC (RFC 9639): blocks of 4,096 frames, each channel told by the fixed predictor that leaves least (9.2.5), what
/// is left in Rice codes by partitions (9.2.7), stereo by what both sides have in common where that is shorter (4.2).
/// </summary>
internal static class FlacWriter
{
    private const int BlockFrames = 4096,
        MostOrder = 4,
        MostPartitions = 6,
        StreamInfoBytes = 34;

    /// <param name="sound">Of 1 to 8 channels; read to its end.</param>
    /// <param name="bits">Of a sample: 16 or 24.</param>
    /// <param name="dither">Of as many bits.</param>
    /// <param name="output">Seekable; written from where it stands.</param>
    public static void Write(SoundStream sound, int bits, Dither dither, Stream output, CancellationToken cancel)
    {
        var channels = sound.Facts.Channels;
        var begin = output.Position;
        // "fLaC", and one block that is the last (8.1).
        output.Write([.. "fLaC"u8, 0x80, 0, 0, StreamInfoBytes]);
        output.Write(new byte[StreamInfoBytes]);
        using var all = IncrementalHash.CreateHash(HashAlgorithmName.MD5);
        var (least, most, frames) = (int.MaxValue, 0, 0L);
        var samples = new float[BlockFrames * channels];
        var block = Enumerable.Range(0, channels).Select(_ => new int[BlockFrames]).ToArray();
        var bytes = new byte[samples.Length * bits / 8];
        var written = new FlacBitWriter();
        for (uint number = 0; ; number++)
        {
            cancel.ThrowIfCancellationRequested();
            var count = Fill(sound, samples) / channels;
            if (count == 0)
                break;
            for (var i = 0; i < count * channels; i++)
            {
                var value = dither.Of(samples[i]);
                block[i % channels][i / channels] = value;
                for (var b = 0; b < bits / 8; b++)
                    bytes[i * bits / 8 + b] = (byte)(value >> (8 * b));
            }
            all.AppendData(bytes, 0, count * channels * bits / 8);
            written.Clear();
            Frame(written, block, count, number, bits);
            output.Write(written.Bytes);
            (least, most) = (Math.Min(least, written.Bytes.Length), Math.Max(most, written.Bytes.Length));
            frames += count;
        }
        var end = output.Position;
        output.Position = begin + 8;
        output.Write(StreamInfo(sound.Facts.SampleRate, channels, bits, frames, Math.Min(least, most), most, all.GetHashAndReset()));
        output.Position = end;
    }

    // Blocks are of one size but for the last.
    private static int Fill(SoundStream sound, float[] samples)
    {
        var have = 0;
        for (int read; have < samples.Length && (read = sound.Read(samples.AsSpan(have))) > 0; )
            have += read;
        return have;
    }

    private static byte[] StreamInfo(int rate, int channels, int bits, long frames, int least, int most, byte[] hash)
    {
        var info = new byte[StreamInfoBytes];
        BinaryPrimitives.WriteUInt16BigEndian(info, BlockFrames);
        BinaryPrimitives.WriteUInt16BigEndian(info.AsSpan(2), BlockFrames);
        for (var b = 0; b < 3; b++)
        {
            info[4 + b] = (byte)(least >> (16 - 8 * b));
            info[7 + b] = (byte)(most >> (16 - 8 * b));
        }
        // 20 bits of the rate, 3 of the channels, 5 of the depth, 36 of the length; an unknown length is 0.
        var told = ((ulong)rate << 44) | ((ulong)(channels - 1) << 41) | ((ulong)(bits - 1) << 36) | ((ulong)frames & 0xF_FFFF_FFFF);
        BinaryPrimitives.WriteUInt64BigEndian(info.AsSpan(10), told);
        hash.CopyTo(info.AsSpan(18));
        return info;
    }

    // 9.1: the header, a subframe a channel, and a check of all.
    private static void Frame(FlacBitWriter bits, int[][] block, int count, uint number, int depth)
    {
        var (sides, way, wider) = Sides(block, count);
        bits.Put(0b1111_1111_1111_1000, 16);
        // The length of the block behind the header where it is not 4,096; the rate and the depth as the file says.
        bits.Put(count == BlockFrames ? 0b1100u : 0b0111u, 4);
        bits.Put(0, 4);
        bits.Put((uint)way, 4);
        bits.Put(0, 4);
        bits.PutNumber(number);
        if (count != BlockFrames)
            bits.Put((uint)(count - 1), 16);
        bits.Put(FlacBits.Check8(bits.Bytes), 8);
        for (var c = 0; c < sides.Length; c++)
            Subframe(bits, sides[c].AsSpan(0, count), depth + (c == wider ? 1 : 0));
        bits.Align();
        bits.Put(FlacBits.Check16(bits.Bytes), 16);
    }

    private static (int[][] Sides, int Way, int Wider) Sides(int[][] block, int count)
    {
        if (block.Length != 2)
            return (block, block.Length - 1, -1);
        var (left, right) = (block[0], block[1]);
        int[] middle = new int[count],
            side = new int[count];
        for (var i = 0; i < count; i++)
            (middle[i], side[i]) = ((left[i] + right[i]) >> 1, left[i] - right[i]);
        var (l, r, m, s) = (Roughness(left, count), Roughness(right, count), Roughness(middle, count), Roughness(side, count));
        (long Cost, int[][] Sides, int Way, int Wider)[] ways =
        [
            (l + r, [left, right], 1, -1),
            (l + s, [left, side], 8, 1),
            (s + r, [side, right], 9, 0),
            (m + s, [middle, side], 10, 1),
        ];
        var best = ways.MinBy(w => w.Cost);
        return (best.Sides, best.Way, best.Wider);
    }

    // What the second predictor leaves is near enough to tell which is shorter.
    private static long Roughness(int[] samples, int count)
    {
        long sum = 0;
        for (var i = 2; i < count; i++)
            sum += Math.Abs((long)samples[i] - 2L * samples[i - 1] + samples[i - 2]);
        return sum;
    }

    private static void Subframe(FlacBitWriter bits, ReadOnlySpan<int> samples, int depth)
    {
        if (!samples.ContainsAnyExcept(samples[0]))
        {
            bits.Put(0, 8);
            bits.PutSigned(samples[0], depth);
            return;
        }
        var left = new long[samples.Length];
        var (order, sums) = Order(samples);
        Residual(samples, order, left);
        if (sums >= (long)samples.Length << (depth - 1) || left.AsSpan(order).ContainsAnyExceptInRange(int.MinValue + 1, int.MaxValue))
        {
            // Noise that no predictor tells: the samples themselves.
            bits.Put(0b0000_0010, 8);
            foreach (var sample in samples)
                bits.PutSigned(sample, depth);
            return;
        }
        bits.Put((uint)((0b001000 | order) << 1), 8);
        for (var i = 0; i < order; i++)
            bits.PutSigned(samples[i], depth);
        Rice(bits, left, order);
    }

    private static (int Order, long Sum) Order(ReadOnlySpan<int> samples)
    {
        Span<long> sums = stackalloc long[MostOrder + 1];
        for (var i = MostOrder; i < samples.Length; i++)
        {
            long a = samples[i],
                b = samples[i - 1],
                c = samples[i - 2],
                d = samples[i - 3],
                e = samples[i - 4];
            sums[0] += Math.Abs(a);
            sums[1] += Math.Abs(a - b);
            sums[2] += Math.Abs(a - 2 * b + c);
            sums[3] += Math.Abs(a - 3 * b + 3 * c - d);
            sums[4] += Math.Abs(a - 4 * b + 6 * c - 4 * d + e);
        }
        var best = 0;
        for (var order = 1; order <= MostOrder && order < samples.Length; order++)
        {
            if (sums[order] < sums[best])
                best = order;
        }
        return (best, sums[best]);
    }

    private static void Residual(ReadOnlySpan<int> samples, int order, long[] left)
    {
        for (var i = order; i < samples.Length; i++)
        {
            left[i] = order switch
            {
                0 => samples[i],
                1 => (long)samples[i] - samples[i - 1],
                2 => samples[i] - 2L * samples[i - 1] + samples[i - 2],
                3 => samples[i] - 3L * samples[i - 1] + 3L * samples[i - 2] - samples[i - 3],
                _ => samples[i] - 4L * samples[i - 1] + 6L * samples[i - 2] - 4L * samples[i - 3] + samples[i - 4],
            };
        }
    }

    private static void Rice(FlacBitWriter bits, long[] left, int order)
    {
        var (partitions, best) = (0, long.MaxValue);
        var codes = new List<int>();
        for (var p = 0; p <= MostPartitions && left.Length % (1 << p) == 0 && left.Length >> p > order; p++)
        {
            var (cost, tried) = (0L, new List<int>());
            for (var i = 0; i < 1 << p; i++)
            {
                var (from, to) = Part(left.Length, p, i, order);
                var (code, size) = Code(left.AsSpan(from, to - from));
                tried.Add(code);
                cost += 5 + size;
            }
            if (cost < best)
                (partitions, best, codes) = (p, cost, tried);
        }
        // Codes of 5 bits, so that 24-bit sound has room.
        bits.Put(1, 2);
        bits.Put((uint)partitions, 4);
        for (var i = 0; i < 1 << partitions; i++)
        {
            var (from, to) = Part(left.Length, partitions, i, order);
            bits.Put((uint)codes[i], 5);
            for (var at = from; at < to; at++)
                bits.PutRice(left[at], codes[i]);
        }
    }

    private static (int From, int To) Part(int length, int partitions, int i, int order) =>
        (i == 0 ? order : i * (length >> partitions), (i + 1) * (length >> partitions));

    private static (int Code, long Bits) Code(ReadOnlySpan<long> left)
    {
        if (left.IsEmpty)
            return (0, 0);
        ulong sum = 0;
        foreach (var value in left)
            sum += Folded(value);
        var likely = System.Numerics.BitOperations.Log2(Math.Max(1, sum / (ulong)left.Length));
        var (code, best) = (0, long.MaxValue);
        for (var k = Math.Max(0, likely - 1); k <= Math.Min(30, likely + 1); k++)
        {
            long size = 0;
            foreach (var value in left)
                size += (long)(Folded(value) >> k) + 1 + k;
            if (size < best)
                (code, best) = (k, size);
        }
        return (code, best);
    }

    /// <summary>0, -1, 1, -2, 2 as 0, 1, 2, 3, 4.</summary>
    internal static ulong Folded(long value) => (ulong)((value << 1) ^ (value >> 63));
}
