using Chronotype.Core.Content;
using Chronotype.Core.Sound;
using NVorbis;

namespace Chronotype.Formats.Sound;

/// <summary>Ogg (RFC 3533) with Vorbis, decoded by NVorbis.</summary>
internal sealed class VorbisFormat : IFormat
{
    public FileFormat Format => FileFormat.Vorbis;

    // The first page holds the first packet alone.
    public bool Begins(ReadOnlySpan<byte> head) => OggPages.FirstPacket(head).StartsWith("\u0001vorbis"u8);

    public FileFacts Read(Stream content, CancellationToken cancel)
    {
        var sound = new VorbisStream(content);
        return CodedSound.Read(Format, sound, sound.Tags, cancel);
    }

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel) => Waveform.Draw(OpenSound(content)!, cancel);

    public SoundStream? OpenSound(Stream content) => new VorbisStream(content);

    private sealed class VorbisStream : SoundStream
    {
        private readonly VorbisReader reader;

        public VorbisStream(Stream content)
            : this(Opened(content)) { }

        private VorbisStream(VorbisReader reader)
            : base(new SoundFacts(reader.SampleRate, 0, reader.Channels, Math.Max(0, reader.TotalSamples), false)) => this.reader = reader;

        public IReadOnlyList<TagFacts> Tags =>
            [.. reader.Tags.All.SelectMany(t => t.Value.Select(v => TagFacts.Of(t.Key.ToLowerInvariant(), v))).Take(TagFacts.Most)];

        public override int Read(Span<float> samples) => reader.ReadSamples(samples[..(samples.Length / Facts.Channels * Facts.Channels)]);

        protected override void Dispose(bool disposing)
        {
            if (disposing)
                reader.Dispose();
            base.Dispose(disposing);
        }

        private static VorbisReader Opened(Stream content)
        {
            content.Position = 0;
            return new VorbisReader(content, closeOnDispose: false);
        }
    }
}

/// <summary>Ogg with Opus (RFC 7845), decoded by Concentus.</summary>
internal sealed class OpusFormat : IFormat
{
    public FileFormat Format => FileFormat.Opus;

    public bool Begins(ReadOnlySpan<byte> head) => OggPages.FirstPacket(head).StartsWith("OpusHead"u8);

    public FileFacts Read(Stream content, CancellationToken cancel)
    {
        var sound = OpusStream.Open(content);
        return CodedSound.Read(Format, sound, sound.Tags, cancel);
    }

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel) => Waveform.Draw(OpenSound(content)!, cancel);

    public SoundStream? OpenSound(Stream content) => OpusStream.Open(content);
}
