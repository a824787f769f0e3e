using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>FLAC, by <see cref="FlacStream"/>.</summary>
internal sealed class FlacFormat : IFormat
{
    public FileFormat Format => FileFormat.Flac;

    public bool Begins(ReadOnlySpan<byte> head) => head.StartsWith("fLaC"u8);

    public FileFacts Read(Stream content, CancellationToken cancel)
    {
        var (sound, tags) = FlacStream.Open(content);
        return CodedSound.Read(Format, sound, tags, cancel);
    }

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel) => Waveform.Draw(OpenSound(content)!, cancel);

    public SoundStream? OpenSound(Stream content) => FlacStream.Open(content).Sound;
}
