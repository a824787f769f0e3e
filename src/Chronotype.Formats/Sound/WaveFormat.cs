using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>WAV, RF64 and BW64, by <see cref="WaveFile"/>.</summary>
internal sealed class WaveFormat : IFormat
{
    public FileFormat Format => FileFormat.Wave;

    public bool Begins(ReadOnlySpan<byte> head) =>
        head.Length >= 12
        && (head.StartsWith("RIFF"u8) || head.StartsWith("RF64"u8) || head.StartsWith("BW64"u8))
        && head[8..].StartsWith("WAVE"u8);

    public FileFacts Read(Stream content, CancellationToken cancel) => WaveFile.Open(content).Facts(Format, content, cancel);

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel) => Waveform.Draw(OpenSound(content)!, cancel);

    public SoundStream? OpenSound(Stream content) => new PcmStream(WaveFile.Open(content).Shape, content);
}
