using System.Buffers.Binary;
using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>Decodes FLAC (RFC 9639). Every frame is held against its check sums.</summary>
internal sealed class FlacStream : SoundStream
{
    private const int MostBlock = 65_535;

    private readonly FlacBits bits;
    private readonly int[][] channels;
    private readonly long[] residual = new long[MostBlock + 1];
    private int blockFrames,
        blockAt;

    private FlacStream(SoundFacts facts, FlacBits bits)
        : base(facts)
    {
        this.bits = bits;
        channels = [.. Enumerable.Range(0, facts.Channels).Select(_ => new int[MostBlock + 1])];
    }

    /// <exception cref="UnreadableFileException">It does not begin as FLAC does.</exception>
    public static (FlacStream Sound, IReadOnlyList<TagFacts> Tags) Open(Stream content)
    {
        content.Position = 0;
        Span<byte> head = stackalloc byte[4];
        PcmFile.Fill(content, head);
        if (!head.SequenceEqual("fLaC"u8))
            throw new UnreadableFileException(FileFaultCode.WrongBeginning);
        SoundFacts? facts = null;
        IReadOnlyList<TagFacts> tags = [];
        for (var isLast = false; !isLast; )
        {
            PcmFile.Fill(content, head);
            isLast = (head[0] & 0x80) != 0;
            var (type, length) = (head[0] & 0x7F, head[1] << 16 | head[2] << 8 | head[3]);
            var end = content.Position + length;
            if (end > content.Length)
                throw new UnreadableFileException(FileFaultCode.HeaderCutShort);
            if (type == 0 && length >= 34)
                facts = StreamInfo(content);
            else if (type == 4)
                tags = VorbisComment.Read(content, length);
            content.Position = end;
        }
        if (facts is null)
            throw new UnreadableFileException(FileFaultCode.WrongBeginning);
        var start = content.Position;
        if (facts.Frames == 0)
        {
            // A stream whose maker did not know its length is counted.
            using var counted = new FlacStream(facts, new FlacBits(content));
            long frames = 0;
            while (counted.NextBlock())
                frames += counted.blockFrames;
            facts = facts with { Frames = frames };
            content.Position = start;
        }
        return (new FlacStream(facts, new FlacBits(content)), tags);
    }

    public override int Read(Span<float> samples)
    {
        var (count, room) = (0, samples.Length / Facts.Channels);
        var scale = 1f / (1L << (Facts.Bits - 1));
        while (count < room)
        {
            if (blockAt == blockFrames && !NextBlock())
                break;
            var frames = Math.Min(room - count, blockFrames - blockAt);
            for (var c = 0; c < channels.Length; c++)
            {
                var from = channels[c].AsSpan(blockAt, frames);
                var to = samples[(count * channels.Length + c)..];
                for (var i = 0; i < from.Length; i++)
                    to[i * channels.Length] = from[i] * scale;
            }
            (count, blockAt) = (count + frames, blockAt + frames);
        }
        return count * Facts.Channels;
    }

    // Section 8.2: rate in 20 bits, channels less one in 3, bits less one in 5, frames in 36.
    private static SoundFacts StreamInfo(Stream content)
    {
        Span<byte> info = stackalloc byte[34];
        PcmFile.Fill(content, info);
        var packed = BinaryPrimitives.ReadUInt64BigEndian(info[10..]);
        var facts = new SoundFacts(
            (int)(packed >> 44),
            (int)(packed >> 36 & 31) + 1,
            (int)(packed >> 41 & 7) + 1,
            (long)(packed & 0xF_FFFF_FFFF),
            false
        );
        return facts.SampleRate > 0 && facts.Bits >= 4
            ? facts
            : throw new UnreadableFileException(new FileFault(FileFaultCode.UnknownCoding, "", facts.Bits, facts.Channels));
    }

    /// <returns>False at the end.</returns>
    /// <exception cref="UnreadableFileException">A frame is damaged or cut short.</exception>
    private bool NextBlock()
    {
        if (!bits.BeginFrame())
            return false;
        if (bits.Read(15) != 0b111111111111100)
            throw Damaged();
        bits.Read(1);
        var (sizeCode, rateCode, assignment, depthCode) = (bits.Read(4), bits.Read(4), bits.Read(4), bits.Read(3));
        bits.Read(1);
        SkipNumber();
        blockFrames = sizeCode switch
        {
            1 => 192,
            >= 2 and <= 5 => 144 << sizeCode,
            6 => bits.Read(8) + 1,
            7 => bits.Read(16) + 1,
            >= 8 => 1 << sizeCode,
            _ => throw Damaged(),
        };
        if (rateCode is 12)
            bits.Read(8);
        else if (rateCode is 13 or 14)
            bits.Read(16);
        if (!bits.EndHeader() || blockFrames > MostBlock)
            throw Damaged();
        int[] depths = [0, 8, 12, -1, 16, 20, 24, 32];
        var depth = depthCode == 0 ? Facts.Bits : depths[depthCode];
        var count = assignment <= 7 ? assignment + 1 : 2;
        if (depth != Facts.Bits || count != Facts.Channels || assignment > 10)
            throw Damaged();
        for (var c = 0; c < count; c++)
        {
            var isSide = (assignment, c) is (8, 1) or (9, 0) or (10, 1);
            Subframe(channels[c].AsSpan(0, blockFrames), depth + (isSide ? 1 : 0));
        }
        if (!bits.EndFrame())
            throw Damaged();
        Decorrelate(assignment);
        blockAt = 0;
        return true;
    }

    private static UnreadableFileException Damaged() => new(FileFaultCode.PartDamaged);

    // A frame's number in the way of UTF-8 (section 9.1.5); which frame it is, its place says.
    private void SkipNumber()
    {
        var first = bits.Read(8);
        for (var mask = 0x40; (first & 0x80) != 0 && (first & mask) != 0; mask >>= 1)
            bits.Read(8);
    }

    private void Subframe(Span<int> samples, int depth)
    {
        if (bits.Read(1) != 0)
            throw Damaged();
        var type = bits.Read(6);
        var wasted = bits.Read(1) == 0 ? 0 : bits.Unary() + 1;
        depth -= wasted;
        if (depth is < 1 or > 33)
            throw Damaged();
        switch (type)
        {
            case 0:
                samples.Fill((int)bits.Signed(depth));
                break;
            case 1:
                for (var i = 0; i < samples.Length; i++)
                    samples[i] = (int)bits.Signed(depth);
                break;
            case >= 8 and <= 12:
                Predicted(samples, depth, type - 8, Fixed[type - 8], 0);
                break;
            case >= 32:
                Linear(samples, depth, type - 31);
                break;
            default:
                throw Damaged();
        }
        for (var i = 0; wasted > 0 && i < samples.Length; i++)
            samples[i] <<= wasted;
    }

    // Section 9.2.5: predictors with whole coefficients.
    private static readonly int[][] Fixed =
    [
        [],
        [1],
        [2, -1],
        [3, -3, 1],
        [4, -6, 4, -1],
    ];

    private void Linear(Span<int> samples, int depth, int order)
    {
        if (order > samples.Length)
            throw Damaged();
        for (var i = 0; i < order; i++)
            samples[i] = (int)bits.Signed(depth);
        var precision = bits.Read(4) + 1;
        var shift = (int)bits.Signed(5);
        if (precision == 16 || shift < 0)
            throw Damaged();
        var coefficients = new int[order];
        for (var i = 0; i < order; i++)
            coefficients[i] = (int)bits.Signed(precision);
        Residual(samples.Length, order);
        Restore(samples, order, coefficients, shift);
    }

    private void Predicted(Span<int> samples, int depth, int order, int[] coefficients, int shift)
    {
        if (order > samples.Length)
            throw Damaged();
        for (var i = 0; i < order; i++)
            samples[i] = (int)bits.Signed(depth);
        Residual(samples.Length, order);
        Restore(samples, order, coefficients, shift);
    }

    private void Restore(Span<int> samples, int order, int[] coefficients, int shift)
    {
        for (var i = order; i < samples.Length; i++)
        {
            long sum = 0;
            for (var k = 0; k < order; k++)
                sum += (long)coefficients[k] * samples[i - 1 - k];
            samples[i] = (int)((sum >> shift) + residual[i]);
        }
    }

    // Section 9.2.7: Rice codes in partitions, each with its own parameter, or plain numbers where that is shorter.
    private void Residual(int length, int order)
    {
        var method = bits.Read(2);
        if (method > 1)
            throw Damaged();
        var (parameterBits, escape) = method == 0 ? (4, 15) : (5, 31);
        var partitionOrder = bits.Read(4);
        var partition = length >> partitionOrder;
        if (partition < order || partition << partitionOrder != length)
            throw Damaged();
        var at = order;
        for (var p = 0; p < 1 << partitionOrder; p++)
        {
            var end = (p + 1) * partition;
            var parameter = bits.Read(parameterBits);
            if (parameter == escape)
            {
                var width = bits.Read(5);
                for (; at < end; at++)
                    residual[at] = width == 0 ? 0 : bits.Signed(width);
                continue;
            }
            for (; at < end; at++)
            {
                var folded = (long)bits.Unary() << parameter | (uint)bits.Read(parameter);
                residual[at] = (folded >> 1) ^ -(folded & 1);
            }
        }
    }

    private void Decorrelate(int assignment)
    {
        if (assignment < 8)
            return;
        var (a, b) = (channels[0], channels[1]);
        for (var i = 0; i < blockFrames; i++)
        {
            switch (assignment)
            {
                case 8:
                    b[i] = a[i] - b[i];
                    break;
                case 9:
                    a[i] += b[i];
                    break;
                default:
                    var mid = (long)a[i] << 1 | ((long)b[i] & 1);
                    (a[i], b[i]) = ((int)((mid + b[i]) >> 1), (int)((mid - b[i]) >> 1));
                    break;
            }
        }
    }
}
