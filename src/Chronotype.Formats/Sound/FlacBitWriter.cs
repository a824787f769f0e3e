namespace Chronotype.Formats.Sound;

/// <summary>Writes bits, the highest of each byte first, as FLAC has them (RFC 9639, 5).</summary>
internal sealed class FlacBitWriter
{
    private byte[] bytes = new byte[1 << 16];
    private int length;
    private ulong waiting;
    private int held;

    /// <summary>The whole bytes so far.</summary>
    public ReadOnlySpan<byte> Bytes => bytes.AsSpan(0, length);

    public void Clear() => (length, waiting, held) = (0, 0, 0);

    /// <param name="count">1 to 32.</param>
    public void Put(uint value, int count)
    {
        waiting = (waiting << count) | (value & (uint)((1UL << count) - 1));
        held += count;
        while (held >= 8)
        {
            held -= 8;
            Add((byte)(waiting >> held));
        }
    }

    public void PutSigned(int value, int count) => Put((uint)value, count);

    /// <summary>A Rice code: how often 2^code goes in, in ones' complement of a run, and what is left.</summary>
    public void PutRice(long value, int code)
    {
        var folded = FlacWriter.Folded(value);
        for (var run = folded >> code; run > 0; )
        {
            var zeros = (int)Math.Min(run, 32);
            Put(0, zeros);
            run -= (ulong)zeros;
        }
        Put(1, 1);
        if (code > 0)
            Put((uint)(folded & ((1UL << code) - 1)), code);
    }

    /// <summary>A number as UTF-8 writes letters (9.1.5).</summary>
    public void PutNumber(uint number)
    {
        if (number < 0x80)
        {
            Put(number, 8);
            return;
        }
        var more =
            number < 0x800 ? 1
            : number < 0x1_0000 ? 2
            : number < 0x20_0000 ? 3
            : number < 0x400_0000 ? 4
            : 5;
        Put((uint)(0xFF << (7 - more)) | (number >> (6 * more)), 8);
        for (var i = more - 1; i >= 0; i--)
            Put(0x80 | ((number >> (6 * i)) & 0x3F), 8);
    }

    public void Align()
    {
        if (held > 0)
            Put(0, 8 - held);
    }

    private void Add(byte value)
    {
        if (length == bytes.Length)
            Array.Resize(ref bytes, length * 2);
        bytes[length++] = value;
    }
}
