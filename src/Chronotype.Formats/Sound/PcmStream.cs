using System.Buffers.Binary;
using System.Runtime.InteropServices;
using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>How the bytes of linear samples lie in a file.</summary>
/// <param name="Facts">Rate, depth, channels and the frames that are there.</param>
/// <param name="Offset">Where the samples begin, in bytes.</param>
/// <param name="IsBigEndian">The highest byte of a sample comes first.</param>
/// <param name="IsUnsigned">Samples of 8 bits stand around 128.</param>
internal sealed record PcmShape(SoundFacts Facts, long Offset, bool IsBigEndian, bool IsUnsigned)
{
    /// <summary>A sample stands in whole bytes, its bits at the upper end.</summary>
    public int SampleBytes => (Facts.Bits + 7) / 8;

    public int FrameBytes => SampleBytes * Facts.Channels;
}

/// <summary>Linear samples as they stand in a file.</summary>
internal sealed class PcmStream : SoundStream
{
    // No sample of a sound is further from silence, whatever its bytes say; what is not a number is silence.
    private const float Most = 1000;

    private readonly PcmShape shape;
    private readonly Stream content;
    private byte[] bytes = [];
    private long left;

    public PcmStream(PcmShape shape, Stream content)
        : base(shape.Facts)
    {
        (this.shape, this.content, left) = (shape, content, shape.Facts.Frames);
        content.Position = shape.Offset;
    }

    public override int Read(Span<float> samples)
    {
        var frames = (int)Math.Min(samples.Length / Facts.Channels, left);
        var want = frames * shape.FrameBytes;
        if (bytes.Length < want)
            bytes = new byte[want];
        var got = content.ReadAtLeast(bytes.AsSpan(0, want), want, throwOnEndOfStream: false) / shape.FrameBytes;
        left = got < frames ? 0 : left - frames;
        var count = got * Facts.Channels;
        Decode(bytes.AsSpan(0, got * shape.FrameBytes), samples[..count]);
        return count;
    }

    private void Decode(ReadOnlySpan<byte> from, Span<float> to)
    {
        switch (shape.SampleBytes, Facts.IsFloat)
        {
            case (1, _):
                for (var i = 0; i < to.Length; i++)
                    to[i] = (shape.IsUnsigned ? from[i] - 128 : (sbyte)from[i]) / 128f;
                break;
            case (2, _):
                var shorts = MemoryMarshal.Cast<byte, short>(from);
                if (shape.IsBigEndian)
                {
                    for (var i = 0; i < to.Length; i++)
                        to[i] = BinaryPrimitives.ReverseEndianness(shorts[i]) * (1 / 32768f);
                }
                else
                {
                    for (var i = 0; i < to.Length; i++)
                        to[i] = shorts[i] * (1 / 32768f);
                }
                break;
            case (3, _):
                var (low, high) = shape.IsBigEndian ? (2, 0) : (0, 2);
                for (int i = 0, at = 0; i < to.Length; i++, at += 3)
                    to[i] = ((from[at + low] << 8 | from[at + 1] << 16 | from[at + high] << 24) >> 8) / 8388608f;
                break;
            case (4, false):
                var ints = MemoryMarshal.Cast<byte, int>(from);
                for (var i = 0; i < to.Length; i++)
                    to[i] = (shape.IsBigEndian ? BinaryPrimitives.ReverseEndianness(ints[i]) : ints[i]) / 2147483648f;
                break;
            case (4, true):
                for (var i = 0; i < to.Length; i++)
                    to[i] = Bounded(
                        shape.IsBigEndian
                            ? BinaryPrimitives.ReadSingleBigEndian(from[(i * 4)..])
                            : BinaryPrimitives.ReadSingleLittleEndian(from[(i * 4)..])
                    );
                break;
            default:
                for (var i = 0; i < to.Length; i++)
                    to[i] = Bounded(
                        (float)(
                            shape.IsBigEndian
                                ? BinaryPrimitives.ReadDoubleBigEndian(from[(i * 8)..])
                                : BinaryPrimitives.ReadDoubleLittleEndian(from[(i * 8)..])
                        )
                    );
                break;
        }
    }

    private static float Bounded(float sample) => float.IsNaN(sample) ? 0 : Math.Clamp(sample, -Most, Most);
}
