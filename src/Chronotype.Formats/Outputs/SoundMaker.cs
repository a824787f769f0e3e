using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Sound;
using Chronotype.Formats.Sound;

namespace Chronotype.Formats.Outputs;

/// <summary>Makes sounds by recipes.</summary>
internal static class SoundMaker
{
    /// <summary>The program that codes what is made smaller by leaving something out.</summary>
    internal const string Coder = "ffmpeg";

    // Of a sound whose size is told from a stretch of it.
    private const double SampleSeconds = 10;

    /// <param name="content">Seekable; read from its beginning, left open; twice where the level is set by what is measured.</param>
    /// <param name="output">Seekable; left open.</param>
    /// <exception cref="UnreadableFileException">There is no sound in it, or it cannot be decoded.</exception>
    public static MadeOutput Make(Stream content, SoundRecipe recipe, MadeFrom? from, Stream output, CancellationToken cancel)
    {
        double? gain = null;
        LevelFacts? measuredLevel = null;
        var isHeldBack = false;
        if (recipe.IsCoded && ExternalTool.Find(Coder) is null)
            throw new UnreadableFileException(new FileFault(FileFaultCode.NeedsTool, Coder));
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
            var level = measuredLevel = meter.Result();
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
            throw new UnreadableFileException(recipe.From > 0 ? FileFaultCode.OutsideOfIt : FileFaultCode.NoSamples);
        var facts = Source(content);
        var bits = BitsOf(recipe, facts);
        // Where no sample was changed and none has more bits than are written, each is written as it is.
        var isExact =
            !facts.IsFloat
            && facts.Bits <= bits
            && gain is null
            && facts.SampleRate == sound.Facts.SampleRate
            && (facts.Channels == sound.Facts.Channels || facts.Channels == 1)
            && recipe is { FadeIn: 0, FadeOut: 0 };
        var dither = new Dither(bits, !isExact);
        if (recipe.IsCoded)
            Code(sound, recipe, dither, bits, output, cancel);
        else
        {
            var told = recipe.IsBroadcast ? Told(content, from, recipe, sound.Facts, bits, measuredLevel, gain) : null;
            Write(recipe.File, sound, bits, dither, output, cancel, told);
        }
        return new MadeOutput(null)
        {
            Sound = sound.Facts with { Bits = bits, IsFloat = false },
            Gain = gain,
            IsHeldBack = isHeldBack,
        };
    }

    /// <summary>Writes samples as they are, in a format that keeps each.</summary>
    /// <param name="sound">Read to its end.</param>
    /// <param name="broadcast">What a WAVE says of itself; null for nothing.</param>
    internal static void Write(
        SoundFile file,
        SoundStream sound,
        int bits,
        Dither dither,
        Stream output,
        CancellationToken cancel,
        BroadcastExtension? broadcast = null
    )
    {
        switch (file)
        {
            case SoundFile.Wave:
                WaveWriter.Write(sound, bits, dither, output, cancel, broadcast: broadcast);
                break;
            case SoundFile.Aiff:
                AiffWriter.Write(sound, bits, dither, output, cancel);
                break;
            case SoundFile.Flac:
                FlacWriter.Write(sound, bits, dither, output, cancel);
                break;
            default:
                throw new ArgumentOutOfRangeException(nameof(file));
        }
    }

    private static int BitsOf(SoundRecipe recipe, SoundFacts facts) =>
        recipe.Bits ?? (facts.IsFloat ? 24 : Math.Clamp((facts.Bits + 7) / 8 * 8, 16, 24));

    /// <summary>About how many bytes it would have: exactly where every sample is kept, else from a stretch in its middle.</summary>
    public static long Estimate(Stream content, SoundRecipe recipe, CancellationToken cancel)
    {
        var facts = Source(content);
        var seconds = Math.Clamp(facts.Duration.TotalSeconds - recipe.From, 0, recipe.Seconds ?? double.MaxValue);
        if (recipe.IsCoded)
            return (long)(seconds * recipe.CodedKiloBits * 1000 / 8);
        if (recipe.File != SoundFile.Flac)
        {
            var bits = BitsOf(recipe, facts);
            return (long)(seconds * (recipe.SampleRate ?? facts.SampleRate)) * (recipe.Channels ?? facts.Channels) * bits / 8;
        }
        if (seconds == 0)
            return 0;
        var sample = Math.Min(seconds, SampleSeconds);
        using var made = TemporaryFile.Open();
        var middle = recipe with
        {
            From = recipe.From + (seconds - sample) / 2,
            Seconds = sample,
            Loudness = null,
            FadeIn = 0,
            FadeOut = 0,
        };
        Make(content, middle, null, made, cancel);
        return (long)(made.Length * seconds / sample);
    }

    // The loudness of what is written is that of what was measured, and what was added to it.
    private static BroadcastExtension Told(
        Stream content,
        MadeFrom? from,
        SoundRecipe recipe,
        SoundFacts made,
        int bits,
        LevelFacts? level,
        double? gain
    )
    {
        content.Position = 0;
        var tags = FormatList.Of(content)?.Read(content, CancellationToken.None).Tags ?? [];
        var begins = ulong.TryParse(tags.FirstOrDefault(t => t.Name == "time reference")?.Value, out var samples) ? samples : 0;
        var source = Source(content);
        var sides =
            made.Channels == 1 ? "mono"
            : made.Channels == 2 ? "stereo"
            : "multi";
        return new BroadcastExtension(from?.Name ?? "", from?.Studio ?? "", from?.At ?? default)
        {
            // As samples of the rate that is written.
            TimeReference = (ulong)Math.Round((begins / (double)source.SampleRate + recipe.From) * made.SampleRate),
            Loudness = level?.Loudness + (gain ?? 0),
            TruePeak = level?.TruePeak + (gain ?? 0),
            History = FormattableString.Invariant($"A=PCM,F={made.SampleRate},W={bits},M={sides},T=Chronotype\r\n"),
        };
    }

    private static void Code(SoundStream sound, SoundRecipe recipe, Dither dither, int bits, Stream output, CancellationToken cancel)
    {
        using var wave = TemporaryFile.Open();
        WaveWriter.Write(sound, bits, dither, wave, cancel);
        wave.Flush();
        var (coder, container) = recipe.File switch
        {
            SoundFile.Mp3 => ("libmp3lame", "mp3"),
            SoundFile.Opus => ("libopus", "opus"),
            _ => ("aac", "ipod"),
        };
        var made = Path.Combine(Path.GetTempPath(), $"coded-{Guid.NewGuid():N}");
        try
        {
            // Twice as long as the slowest of coders takes.
            var patience = (int)Math.Min(int.MaxValue, 30_000 + sound.Facts.Duration.TotalMilliseconds / 5);
            string[] how = ["-map_metadata", "-1", "-fflags", "+bitexact", "-flags:a", "+bitexact", "-f", container, "-y", made];
            string[] what = ["-f", "wav", "-i", wave.Name, "-vn", "-c:a", coder, "-b:a", $"{recipe.CodedKiloBits}k"];
            string[] arguments = ["-nostdin", "-v", "error", "-protocol_whitelist", "file", .. what, .. how];
            if (ExternalTool.Run(ExternalTool.Find(Coder)!, patience, arguments, cancel) is null || !File.Exists(made))
                throw new UnreadableFileException(new FileFault(FileFaultCode.NeedsTool, $"{Coder} {coder}"));
            using var coded = File.OpenRead(made);
            coded.CopyTo(output);
        }
        finally
        {
            File.Delete(made);
        }
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
