using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using NetVips;

namespace Chronotype.Formats.Outputs;

/// <summary>Reads what a picture or a sound is known by.</summary>
public static class LikenessReader
{
    private const int Seen = 480;

    // Beside what is uniform around a picture, such as the paper of a print.
    private const double Plain = 12;
    private const double LeastLevel = -90;

    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <exception cref="UnreadableFileException">It is neither, or cannot be read.</exception>
    public static Likeness Read(Stream content, CancellationToken cancel = default)
    {
        var format = FormatList.Of(content) ?? throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        content.Position = 0;
        if (format.OpenSound(content) is { } sound)
        {
            using (sound)
                return new Likeness { Level = Level(sound, cancel) };
        }
        content.Position = 0;
        var preview = format.Draw(content, Seen, 0, cancel) ?? throw new UnreadableFileException(FileFaultCode.PictureUnreadable);
        return Pictures.Guard(() => Of(preview.Bytes));
    }

    private static Likeness Of(byte[] preview)
    {
        using var read = Image.NewFromBuffer(preview);
        using var opaque = read.HasAlpha() ? read.Flatten(background: [255]) : read.Copy();
        using var picture = opaque.Colourspace(Enums.Interpretation.Srgb);
        var (left, top, width, height) = Trimmed(picture);
        using var inner = picture.Crop(left, top, width, height);
        using var grey = inner.Colourspace(Enums.Interpretation.Bw);
        using var hashed = grey.ThumbnailImage(Likeness.HashSide, height: Likeness.HashSide, size: Enums.Size.Force);
        using var small = inner.ThumbnailImage(Likeness.SmallSide, height: Likeness.SmallSide, size: Enums.Size.Force);
        return new Likeness { Hash = Likeness.HashOf(hashed.WriteToMemory<byte>()), Small = small.WriteToMemory<byte>() };
    }

    private static (int Left, int Top, int Width, int Height) Trimmed(Image picture)
    {
        var found = picture.FindTrim(threshold: Plain, background: picture.Getpoint(0, 0));
        int[] box = [.. found.Select(v => Convert.ToInt32(v, System.Globalization.CultureInfo.InvariantCulture))];
        // What is uniform as a whole, or nearly, is taken as it is.
        return box[2] < picture.Width / 4 || box[3] < picture.Height / 4
            ? (0, 0, picture.Width, picture.Height)
            : (box[0], box[1], box[2], box[3]);
    }

    private static byte[] Level(Core.Sound.SoundStream sound, CancellationToken cancel)
    {
        var channels = sound.Facts.Channels;
        var step = sound.Facts.SampleRate * channels / Likeness.StepsOfSecond;
        step -= step % channels;
        var levels = new List<byte>();
        var samples = new float[8192 * channels];
        var (sum, count) = (0.0, 0);
        for (int read; (read = sound.Read(samples)) > 0; )
        {
            cancel.ThrowIfCancellationRequested();
            foreach (var sample in samples.AsSpan(0, read))
            {
                sum += sample * sample;
                if (++count < step)
                    continue;
                var level = 10 * Math.Log10(sum / count + 1e-12);
                levels.Add((byte)Math.Round(Math.Clamp((level - LeastLevel) / -LeastLevel, 0, 1) * 255));
                (sum, count) = (0, 0);
            }
        }
        return [.. levels];
    }
}
