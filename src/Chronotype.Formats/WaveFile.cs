using System.Buffers.Binary;
using System.Globalization;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>
/// A WAVE file's shape: RIFF (IBM and Microsoft, "Multimedia Programming Interface", 1991), its WAVE_FORMAT_EXTENSIBLE,
/// and the 64-bit form RF64 (EBU Tech 3306).
/// </summary>
/// <param name="Facts">Rate, bits, channels, frames.</param>
/// <param name="DataOffset">Where the samples begin, in bytes.</param>
/// <param name="DataLength">How many bytes of samples are really there.</param>
/// <param name="Truncated">The header promises more samples than the file has.</param>
public sealed record WaveFile(SoundFacts Facts, long DataOffset, long DataLength, bool Truncated)
{
    private const ushort Pcm = 1,
        IeeeFloat = 3,
        Extensible = 0xFFFE;

    public int FrameBytes => Facts.Channels * Facts.Bits / 8;

    /// <summary>Reads the chunks' headers and none of the samples.</summary>
    /// <exception cref="UnreadableFileException">The file is no WAVE, or one in a coding that is not read.</exception>
    public static WaveFile Open(Stream content)
    {
        content.Position = 0;
        Span<byte> head = stackalloc byte[12];
        Fill(content, head);
        var is64 = head.StartsWith("RF64"u8);
        if (!(is64 || head.StartsWith("RIFF"u8)) || !head[8..].SequenceEqual("WAVE"u8))
            throw new UnreadableFileException(FileFaultCode.WrongBeginning);

        ushort coding = 0;
        int channels = 0,
            rate = 0,
            bits = 0;
        long data64 = -1;
        Span<byte> chunk = stackalloc byte[8];
        Span<byte> body = stackalloc byte[28];
        while (content.Position + 8 <= content.Length)
        {
            Fill(content, chunk);
            long size = BinaryPrimitives.ReadUInt32LittleEndian(chunk[4..]);
            var start = content.Position;
            if (chunk.StartsWith("ds64"u8) && size >= 16)
            {
                Fill(content, body[..16]);
                data64 = BinaryPrimitives.ReadInt64LittleEndian(body[8..]);
            }
            else if (chunk.StartsWith("fmt "u8) && size >= 16)
            {
                var length = (int)Math.Min(size, body.Length);
                Fill(content, body[..length]);
                coding = BinaryPrimitives.ReadUInt16LittleEndian(body);
                channels = BinaryPrimitives.ReadUInt16LittleEndian(body[2..]);
                rate = BinaryPrimitives.ReadInt32LittleEndian(body[4..]);
                bits = BinaryPrimitives.ReadUInt16LittleEndian(body[14..]);
                if (coding == Extensible && length >= 26)
                    coding = BinaryPrimitives.ReadUInt16LittleEndian(body[24..]);
            }
            else if (chunk.StartsWith("data"u8))
            {
                if (is64 && size == uint.MaxValue && data64 >= 0)
                    size = data64;
                return Make(coding, channels, rate, bits, start, size, content.Length - start);
            }
            // Chunks are padded to an even length.
            content.Position = Math.Min(content.Length, start + size + (size & 1));
        }
        throw new UnreadableFileException(FileFaultCode.NoSamples);
    }

    private static WaveFile Make(ushort coding, int channels, int rate, int bits, long start, long promised, long there)
    {
        var legal =
            channels is >= 1 and <= 64
            && rate is >= 1000 and <= 1_536_000
            && (coding == Pcm ? bits is 8 or 16 or 24 or 32 : coding == IeeeFloat && bits is 32 or 64);
        if (!legal)
        {
            throw new UnreadableFileException(
                new FileFault(FileFaultCode.UnknownCoding, coding.ToString(CultureInfo.InvariantCulture), bits, channels)
            );
        }
        var length = Math.Min(promised, there);
        var frame = channels * bits / 8;
        return new WaveFile(
            new SoundFacts(rate, bits, channels, length / frame, coding == IeeeFloat),
            start,
            length - length % frame,
            promised > there
        );
    }

    /// <summary>
    /// The largest distance from silence in each of <paramref name="columns"/> equal stretches of time, from every sample.
    /// </summary>
    /// <returns>Per column the lowest and the highest sample over all channels, each from -1 to 1.</returns>
    public (float Low, float High)[] Peaks(Stream content, int columns, CancellationToken cancel = default)
    {
        var peaks = new (float Low, float High)[columns];
        if (Facts.Frames == 0)
            return peaks;
        content.Position = DataOffset;
        var buffer = new byte[FrameBytes * Math.Max(1, 65536 / FrameBytes)];
        var sampleBytes = Facts.Bits / 8;
        long frame = 0;
        while (frame < Facts.Frames)
        {
            cancel.ThrowIfCancellationRequested();
            var want = (int)Math.Min(buffer.Length, (Facts.Frames - frame) * FrameBytes);
            var got = content.ReadAtLeast(buffer.AsSpan(0, want), want, throwOnEndOfStream: false);
            for (var at = 0; at + FrameBytes <= got; at += FrameBytes, frame++)
            {
                ref var peak = ref peaks[(int)(frame * columns / Facts.Frames)];
                for (var channel = 0; channel < Facts.Channels; channel++)
                {
                    var sample = Sample(buffer.AsSpan(at + channel * sampleBytes, sampleBytes));
                    if (sample < peak.Low)
                        peak.Low = sample;
                    if (sample > peak.High)
                        peak.High = sample;
                }
            }
            if (got < want)
                break;
        }
        return peaks;
    }

    /// <summary>
    /// How much louder the second sound is throughout, by least squares over every sample, where the two are the same but for that:
    /// what remains is no more than rounding to their depth.
    /// </summary>
    /// <returns>In decibels; null where they are not the same but for a gain, or of different shape.</returns>
    public static double? Gain(WaveFile a, Stream first, WaveFile b, Stream second, CancellationToken cancel = default)
    {
        if (a.Facts != b.Facts || a.Facts.Frames == 0)
            return null;
        double xx = 0,
            xy = 0,
            yy = 0;
        long samples = 0;
        var step = a.Facts.Bits / 8;
        byte[] left = new byte[a.FrameBytes * Math.Max(1, 65536 / a.FrameBytes)],
            right = new byte[left.Length];
        (first.Position, second.Position) = (a.DataOffset, b.DataOffset);
        for (var rest = a.DataLength; rest > 0; )
        {
            cancel.ThrowIfCancellationRequested();
            var want = (int)Math.Min(left.Length, rest);
            first.ReadExactly(left.AsSpan(0, want));
            second.ReadExactly(right.AsSpan(0, want));
            rest -= want;
            for (var at = 0; at + step <= want; at += step, samples++)
            {
                double x = a.Sample(left.AsSpan(at, step)),
                    y = b.Sample(right.AsSpan(at, step));
                (xx, xy, yy) = (xx + x * x, xy + x * y, yy + y * y);
            }
        }
        if (xx == 0 || yy == 0 || xy <= 0)
            return null;
        var gain = xy / xx;
        var remains = Math.Sqrt(Math.Max(0, yy - gain * xy) / samples);
        // Dither adds as much as rounding does.
        var rounding = a.Facts.IsFloat ? 1e-5 * Math.Sqrt(yy / samples) : 1 / Math.Pow(2, a.Facts.Bits - 1);
        var decibels = 20 * Math.Log10(gain);
        return remains <= rounding && Math.Abs(decibels) >= 0.01 ? decibels : null;
    }

    private float Sample(ReadOnlySpan<byte> bytes) =>
        (Facts.Bits, Facts.IsFloat) switch
        {
            (8, _) => (bytes[0] - 128) / 128f,
            (16, _) => BinaryPrimitives.ReadInt16LittleEndian(bytes) / 32768f,
            (24, _) => ((bytes[0] << 8 | bytes[1] << 16 | bytes[2] << 24) >> 8) / 8388608f,
            (32, false) => BinaryPrimitives.ReadInt32LittleEndian(bytes) / 2147483648f,
            (32, true) => Bounded(BinaryPrimitives.ReadSingleLittleEndian(bytes)),
            _ => Bounded((float)BinaryPrimitives.ReadDoubleLittleEndian(bytes)),
        };

    private static float Bounded(float sample) => float.IsNaN(sample) ? 0 : Math.Clamp(sample, -1, 1);

    private static void Fill(Stream content, Span<byte> bytes)
    {
        if (content.ReadAtLeast(bytes, bytes.Length, throwOnEndOfStream: false) < bytes.Length)
            throw new UnreadableFileException(FileFaultCode.HeaderCutShort);
    }
}
