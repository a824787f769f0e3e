using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Formats.Sound;

/// <summary>Reads a sound whose samples have to be decoded to be known.</summary>
internal static class CodedSound
{
    // A coder's own blocks; what is missing at the end of less is no damage.
    private const double Slack = 0.2;

    /// <summary>Decodes it to its end. Where it breaks off, what was read until there is told with the fault.</summary>
    public static FileFacts Read(FileFormat format, SoundStream sound, IReadOnlyList<TagFacts> tags, CancellationToken cancel)
    {
        using var counted = new CountedStream(sound);
        var facts = new FileFacts
        {
            Format = format,
            Sound = sound.Facts,
            Tags = tags,
            IsPacked = true,
        };
        try
        {
            facts = facts with { Level = SoundLevel.Measure(counted, cancel) };
        }
        catch (UnreadableFileException e)
        {
            return facts with { Fault = counted.Frames == 0 ? e.Fault : CutShort(counted) };
        }
        catch (Exception e)
            when (e is EndOfStreamException or (not OperationCanceledException and not IOException and not OutOfMemoryException))
        {
            // The library met what it does not know; until there it is sound.
            return facts with { Fault = CutShort(counted) };
        }
        var missing = (double)(sound.Facts.Frames - counted.Frames) / sound.Facts.SampleRate;
        return missing <= Slack ? facts : facts with { Fault = CutShort(counted) };
    }

    private static FileFault CutShort(CountedStream counted) =>
        new(FileFaultCode.SoundCutShort, "", (double)counted.Frames / counted.Facts.SampleRate);

    private sealed class CountedStream(SoundStream inner) : SoundStream(inner.Facts)
    {
        public long Frames { get; private set; }

        public override int Read(Span<float> samples)
        {
            var read = inner.Read(samples);
            Frames += read / Facts.Channels;
            return read;
        }

        protected override void Dispose(bool disposing)
        {
            if (disposing)
                inner.Dispose();
            base.Dispose(disposing);
        }
    }
}
