using System.Buffers.Binary;
using Chronotype.Core.Content;
using Chronotype.Core.Sound;
using Concentus;

namespace Chronotype.Formats.Sound;

/// <summary>Opus in Ogg (RFC 7845), decoded by Concentus. Opus is always at 48 kHz, whatever it was made from.</summary>
internal sealed class OpusStream : SoundStream
{
    private const int Rate = 48_000,
        // 120 ms, the longest packet (RFC 6716, section 2.1.4).
        MostFrames = 5760;

    private readonly OggPages pages;
    private readonly IOpusMultiStreamDecoder decoder;
    private readonly float[] decoded;
    private int at,
        end,
        skip;
    private long left;

    private OpusStream(SoundFacts facts, OggPages pages, IOpusMultiStreamDecoder decoder, int skip, IReadOnlyList<TagFacts> tags)
        : base(facts)
    {
        (this.pages, this.decoder, this.skip, Tags, left) = (pages, decoder, skip, tags, facts.Frames);
        decoded = new float[MostFrames * facts.Channels];
    }

    public IReadOnlyList<TagFacts> Tags { get; }

    /// <exception cref="UnreadableFileException">It does not begin as Opus in Ogg does.</exception>
    public static OpusStream Open(Stream content)
    {
        var pages = new OggPages(content);
        var last = pages.LastGranule();
        // Section 5.1: "OpusHead", version, channels, samples to skip, the rate it was made from, gain, mapping family and its table.
        if (pages.Next() is not { Length: >= 19 } head || !head.AsSpan().StartsWith("OpusHead"u8))
            throw new UnreadableFileException(FileFaultCode.WrongBeginning);
        var (channels, skip, family) = (head[9], BinaryPrimitives.ReadUInt16LittleEndian(head.AsSpan(10)), head[18]);
        var (streams, coupled, mapping) =
            family == 0 && channels is 1 or 2 ? (1, channels - 1, (byte[])[0, 1])
            : channels > 0 && head.Length >= 21 + channels ? (head[19], head[20], head[21..(21 + channels)])
            : throw new UnreadableFileException(new FileFault(FileFaultCode.UnknownCoding, $"{family}", 0, channels));
        IReadOnlyList<TagFacts> tags =
            pages.Next() is { Length: > 8 } comment && comment.AsSpan().StartsWith("OpusTags"u8)
                ? VorbisComment.Read(comment.AsSpan(8))
                : [];
        OpusCodecFactory.AttemptToUseNativeLibrary = false;
        return new OpusStream(
            new SoundFacts(Rate, 0, channels, Math.Max(0, last - skip), false),
            pages,
            OpusCodecFactory.CreateMultiStreamDecoder(Rate, channels, streams, coupled, mapping[..channels]),
            skip,
            tags
        );
    }

    public override int Read(Span<float> samples)
    {
        var (count, room) = (0, (int)Math.Min(samples.Length / Facts.Channels, left));
        while (count < room)
        {
            if (at == end)
            {
                if (pages.Next() is not { } packet)
                    break;
                (at, end) = (0, decoder.DecodeMultistream(packet, decoded, MostFrames, false));
                var dropped = Math.Min(skip, end);
                (at, skip) = (dropped, skip - dropped);
                continue;
            }
            var frames = Math.Min(room - count, end - at);
            decoded.AsSpan(at * Facts.Channels, frames * Facts.Channels).CopyTo(samples[(count * Facts.Channels)..]);
            (count, at) = (count + frames, at + frames);
        }
        left -= count;
        return count * Facts.Channels;
    }
}
