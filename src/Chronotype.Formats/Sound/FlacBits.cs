using System.Numerics;

namespace Chronotype.Formats.Sound;

/// <summary>The bits of FLAC frames, the highest of a byte first, with the check sums over them (RFC 9639, sections 9.1.8 and 9.3).</summary>
internal sealed class FlacBits(Stream content)
{
    private static readonly byte[] Crc8 = [.. Enumerable.Range(0, 256).Select(i => (byte)Table(i, 0x07, 8))];
    private static readonly ushort[] Crc16 = [.. Enumerable.Range(0, 256).Select(i => (ushort)Table(i, 0x8005, 16))];

    private readonly byte[] buffer = new byte[1 << 16];
    private int at,
        end;

    // Bits that were taken from the buffer and not read yet, at the upper end.
    private ulong held;
    private int heldBits;
    private byte crc8;
    private ushort crc16;

    /// <summary>The check of a frame's head.</summary>
    public static byte Check8(ReadOnlySpan<byte> bytes)
    {
        byte check = 0;
        foreach (var value in bytes)
            check = Crc8[check ^ value];
        return check;
    }

    /// <summary>The check of a frame.</summary>
    public static ushort Check16(ReadOnlySpan<byte> bytes)
    {
        ushort check = 0;
        foreach (var value in bytes)
            check = (ushort)((check << 8) ^ Crc16[(check >> 8) ^ value]);
        return check;
    }

    /// <summary>Makes ready for a frame.</summary>
    /// <returns>False where nothing more comes.</returns>
    public bool BeginFrame()
    {
        (held, heldBits, crc8, crc16) = (0, 0, 0, 0);
        return at < end || Fetch();
    }

    /// <summary>Reads the check sum of a frame's head.</summary>
    /// <returns>Whether it is right.</returns>
    public bool EndHeader()
    {
        var sum = crc8;
        return Read(8) == sum;
    }

    /// <summary>Goes on to the next byte and reads the frame's check sum.</summary>
    /// <returns>Whether it is right.</returns>
    public bool EndFrame()
    {
        Drop(heldBits % 8);
        var sum = crc16;
        return Read(16) == sum;
    }

    /// <param name="count">From 0 to 31.</param>
    /// <exception cref="UnreadableFileException">The file ends before.</exception>
    public int Read(int count)
    {
        if (count == 0)
            return 0;
        Fill(count);
        var value = (int)(held >> (64 - count));
        Drop(count);
        return value;
    }

    /// <param name="count">From 1 to 33.</param>
    /// <exception cref="UnreadableFileException">The file ends before.</exception>
    public long Signed(int count)
    {
        Fill(count);
        var value = (long)held >> (64 - count);
        Drop(count);
        return value;
    }

    /// <summary>How many zeros come before the next one.</summary>
    /// <exception cref="UnreadableFileException">The file ends before, or no sound has so many.</exception>
    public int Unary()
    {
        var zeros = 0;
        while (true)
        {
            if (heldBits == 0)
                Fill(1);
            var run = Math.Min(BitOperations.LeadingZeroCount(held), heldBits);
            zeros += run;
            Drop(run);
            if (heldBits > 0)
            {
                Drop(1);
                return zeros;
            }
            if (zeros > 1 << 26)
                throw new UnreadableFileException(Core.Content.FileFaultCode.PartDamaged);
        }
    }

    private void Drop(int count)
    {
        held = count == 64 ? 0 : held << count;
        heldBits -= count;
    }

    // The sums are over whole bytes as they are taken; a frame's own sums are read when nothing after them is held.
    private void Fill(int count)
    {
        while (heldBits < count)
        {
            if (at == end && !Fetch())
                throw new UnreadableFileException(Core.Content.FileFaultCode.PartDamaged);
            var next = buffer[at++];
            crc8 = Crc8[crc8 ^ next];
            crc16 = (ushort)(crc16 << 8 ^ Crc16[crc16 >> 8 ^ next]);
            held |= (ulong)next << (56 - heldBits);
            heldBits += 8;
        }
    }

    private bool Fetch()
    {
        (at, end) = (0, content.Read(buffer));
        return end > 0;
    }

    private static int Table(int index, int polynomial, int width)
    {
        var value = index << (width - 8);
        for (var i = 0; i < 8; i++)
            value = (value & 1 << (width - 1)) != 0 ? value << 1 ^ polynomial : value << 1;
        return value & ((1 << width) - 1);
    }
}
