using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Sound;
using Chronotype.Formats.Sound;

namespace Chronotype.Formats.Outputs;

/// <summary>Makes sounds by recipes.</summary>
internal static class SoundMaker
{
    /// <param name="content">Seekable; read from its beginning, left open; twice where the level is set by what is measured.</param>
    /// <param name="output">Seekable; left open.</param>
    /// <exception cref="UnreadableFileException">There is no sound in it, or it cannot be decoded.</exception>
    public static MadeOutput Make(Stream content, SoundRecipe recipe, Stream output, CancellationToken cancel)
    {
        double? gain = null;
        var isHeldBack = false;
        if (recipe.Loudness is { } target)
        {
            using var measured = Open(content, recipe, 1);
            var meter = new LoudnessMeter(measured.Facts.SampleRate, measured.Facts.Channels);
            var samples = new float[8192 * measured.Facts.Channels];
            for (int read; (read = measured.Read(samples)) > 0; )
            {
                cancel.ThrowIfCancellationRequested();
                meter.Add(samples.AsSpan(0, read));
            }
            var level = meter.Result();
            if (level.Loudness is { } loudness)
            {
                gain = target - loudness;
                // A ceiling is kept by being less loud, never by bending the sound.
                if (level.TruePeak is { } peak && peak + gain > recipe.PeakCeiling)
                    (gain, isHeldBack) = (recipe.PeakCeiling - peak, true);
            }
        }
        using var sound = Open(content, recipe, Math.Pow(10, (gain ?? 0) / 20));
        if (sound.Facts.Frames == 0)
            throw new UnreadableFileException(FileFaultCode.NoSamples);
        var facts = Source(content);
        var bits = recipe.Bits ?? (facts.IsFloat ? 24 : Math.Clamp((facts.Bits + 7) / 8 * 8, 16, 24));
        // Where no sample was changed and none has more bits than are written, each is written as it is.
        var isExact =
            !facts.IsFloat
            && facts.Bits <= bits
            && gain is null
            && facts.SampleRate == sound.Facts.SampleRate
            && (facts.Channels == sound.Facts.Channels || facts.Channels == 1)
            && recipe is { FadeIn: 0, FadeOut: 0 };
        WaveWriter.Write(sound, bits, new Dither(bits, !isExact), output, cancel);
        return new MadeOutput(null)
        {
            Sound = sound.Facts with { Bits = bits, IsFloat = false },
            Gain = gain,
            IsHeldBack = isHeldBack,
        };
    }

    private static SoundFacts Source(Stream content)
    {
        content.Position = 0;
        using var sound = Decoded(content);
        return sound.Facts;
    }

    private static SoundStream Decoded(Stream content) =>
        FormatList.Of(content)?.OpenSound(content) ?? throw new UnreadableFileException(FileFaultCode.NoSamples);

    private static ShapedSound Open(Stream content, SoundRecipe recipe, double gain)
    {
        content.Position = 0;
        var sound = Decoded(content);
        if (recipe.SampleRate is { } rate && rate != sound.Facts.SampleRate)
            sound = new RateConverter(sound, rate);
        long Frames(double seconds) => (long)Math.Round(seconds * sound.Facts.SampleRate);
        var skip = Frames(recipe.From);
        return new ShapedSound(
            sound,
            skip,
            recipe.Seconds is { } seconds ? Frames(seconds) : long.MaxValue,
            recipe.Channels ?? sound.Facts.Channels,
            gain,
            Frames(recipe.FadeIn),
            Frames(recipe.FadeOut)
        );
    }
}
