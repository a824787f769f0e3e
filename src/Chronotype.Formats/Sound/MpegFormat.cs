using Chronotype.Core.Content;
using Chronotype.Core.Sound;
using NLayer;

namespace Chronotype.Formats.Sound;

/// <summary>MPEG audio, layers I to III (ISO/IEC 11172-3, 13818-3), decoded by NLayer: what is called MP3.</summary>
internal sealed class MpegFormat : IFormat
{
    public FileFormat Format => FileFormat.Mpeg;

    // A tag of the maker's, or a frame's sync, with a layer, a rate and a frequency that there are.
    public bool Begins(ReadOnlySpan<byte> head) =>
        head.StartsWith("ID3"u8)
        || (
            head.Length >= 4
            && head[0] == 0xFF
            && (head[1] & 0xE0) == 0xE0
            && (head[1] & 0x18) != 0x08
            // Layers II and III; what would be layer I is the mark of a text in UTF-16.
            && (head[1] & 0x06) is (0x02 or 0x04)
            && (head[2] & 0xF0) is not (0 or 0xF0)
            && (head[2] & 0x0C) != 0x0C
        );

    public FileFacts Read(Stream content, CancellationToken cancel) => CodedSound.Read(Format, new MpegStream(content), [], cancel);

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel) => Waveform.Draw(OpenSound(content)!, cancel);

    public SoundStream? OpenSound(Stream content) => new MpegStream(content);

    private sealed class MpegStream : SoundStream
    {
        private readonly MpegFile file;

        public MpegStream(Stream content)
            : this(Opened(content)) { }

        private MpegStream(MpegFile file)
            : base(new SoundFacts(file.SampleRate, 0, file.Channels, Math.Max(0, file.Length / sizeof(float) / file.Channels), false)) =>
            this.file = file;

        public override int Read(Span<float> samples) => Math.Max(0, file.ReadSamples(samples));

        private static MpegFile Opened(Stream content)
        {
            content.Position = 0;
            var file = new MpegFile(content);
            return file.SampleRate > 0 && file.Channels is 1 or 2
                ? file
                : throw new UnreadableFileException(new FileFault(FileFaultCode.UnknownCoding, "", 0, file.Channels));
        }
    }
}
