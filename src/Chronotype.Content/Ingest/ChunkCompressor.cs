using System.Buffers;
using System.Buffers.Binary;
using System.Numerics;
using Chronotype.Content.Segments;
using Chronotype.Core.Content.Cutting;
using ZstdSharp;

namespace Chronotype.Content.Ingest;

/// <summary>
/// Compresses with Zstandard (RFC 8878) what looks as if it paid: a probe of 4 KiB asks how evenly bytes are spread, in the half of it
/// (Shannon's entropy of order 0), and whether runs of bytes come again. The rest is stored as it is, at no cost; where nothing has paid
/// for a while, only some are asked until one does again.
/// </summary>
internal sealed class ChunkCompressor
{
    private const int Level = 3,
        ProbeBytes = 4096,
        SpreadBytes = ProbeBytes / 2,
        LongInVain = 16,
        OneIn = 4,
        TableSize = 1024;

    // Bits a byte; above it, order 0 alone would save less than a tenth.
    private const double EvenBits = 7.2;

    // n log2 n, of every count that there may be.
    private static readonly double[] Weights = [0, .. Enumerable.Range(1, SpreadBytes).Select(n => n * Math.Log2(n))];

    // One byte value in sixteen, from all over.
    private static readonly SearchValues<byte> Marks = SearchValues.Create([
        .. Enumerable.Range(0, 256).Where(b => (byte)(b * 0x9D) < 16).Select(b => (byte)b),
    ]);

    private readonly Compressor compressor = new(Level);
    private readonly byte[] packed = new byte[ContainerCutter.MaxLength];
    private readonly int[] counts = new int[256];
    private readonly uint[] seen = new uint[TableSize];
    private int inVain;

    /// <returns>The bytes to store; valid until the next call.</returns>
    public ReadOnlySpan<byte> Pack(ReadOnlySpan<byte> payload, out Codec codec)
    {
        codec = Codec.Plain;
        if (payload.Length < 64 || inVain++ > LongInVain && inVain % OneIn > 0 || !MayPay(payload))
            return payload;
        if (!compressor.TryWrap(payload, packed, out var length) || length > payload.Length - payload.Length / 16)
            return payload;
        (codec, inVain) = (Codec.Zstd, 0);
        return packed.AsSpan(0, length);
    }

    private bool MayPay(ReadOnlySpan<byte> payload)
    {
        // From the middle, past whatever header there may be.
        var probe = payload.Length <= ProbeBytes ? payload : payload.Slice((payload.Length - ProbeBytes) / 2, ProbeBytes);
        Array.Clear(counts);
        var spread = probe[..Math.Min(SpreadBytes, probe.Length)];
        foreach (var b in spread)
            counts[b]++;
        var bits = Weights[spread.Length];
        foreach (var count in counts)
            bits -= Weights[count];
        return bits < EvenBits * spread.Length || HasRepeats(probe);
    }

    // Words are chosen by what they begin with, so that a run is met at the same words wherever it stands.
    private bool HasRepeats(ReadOnlySpan<byte> probe)
    {
        Array.Clear(seen);
        var (chosen, again) = (0, 0);
        for (int i = 0, next; i + 4 <= probe.Length && (next = probe[i..^3].IndexOfAny(Marks)) >= 0; i += next + 1)
        {
            var word = BinaryPrimitives.ReadUInt32LittleEndian(probe[(i + next)..]);
            ref var slot = ref seen[(word * 0x9E3779B1) >> (32 - BitOperations.Log2(TableSize))];
            chosen++;
            if (slot == word)
                again++;
            slot = word;
        }
        return again * 8 > chosen;
    }
}
