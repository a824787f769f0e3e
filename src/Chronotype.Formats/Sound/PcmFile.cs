using Chronotype.Core.Content;

namespace Chronotype.Formats.Sound;

/// <summary>A file of linear samples, as its header tells it.</summary>
/// <param name="Shape">Where the samples are, and how they lie there.</param>
/// <param name="IsTruncated">The header promises more samples than the file has.</param>
/// <param name="Markers">In order.</param>
internal sealed record PcmFile(PcmShape Shape, bool IsTruncated, IReadOnlyList<MarkerFacts> Markers)
{
    /// <summary>What its maker wrote about it.</summary>
    public IReadOnlyList<TagFacts> Tags { get; init; } = [];

    /// <summary>Reads every sample.</summary>
    public FileFacts Facts(FileFormat format, Stream content, CancellationToken cancel)
    {
        using var sound = new PcmStream(Shape, content);
        return new FileFacts
        {
            Format = format,
            Sound = Shape.Facts,
            Markers = Markers,
            Tags = Tags,
            Level = SoundLevel.Measure(sound, cancel),
            Fault = IsTruncated ? new FileFault(FileFaultCode.SoundCutShort, "", Shape.Facts.Duration.TotalSeconds) : null,
        };
    }

    /// <summary>Reads so many bytes of a header.</summary>
    /// <exception cref="UnreadableFileException">The file ends before.</exception>
    public static void Fill(Stream content, Span<byte> bytes)
    {
        if (content.ReadAtLeast(bytes, bytes.Length, throwOnEndOfStream: false) < bytes.Length)
            throw new UnreadableFileException(FileFaultCode.HeaderCutShort);
    }
}
