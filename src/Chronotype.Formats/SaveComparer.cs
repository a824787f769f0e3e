using Chronotype.Core.Comparing;
using Chronotype.Core.Content;


namespace Chronotype.Formats;

/// <summary>Measures what changed between two contents, by what their format lets be seen.</summary>
public static class SaveComparer
{
    private static readonly HashSet<string> Packed = [".zip", ".gz", ".7z", ".xz", ".zst", ".mp3", ".ogg", ".opus", ".m4a", ".mp4", ".mov", ".flac", ".pdf", ".heic", ".avif", ".jxl"];

    /// <param name="before">The earlier content, seekable.</param>
    /// <param name="beforeReading">What was read in it.</param>
    /// <param name="after">The later content, seekable.</param>
    /// <param name="afterReading">What was read in it.</param>
    /// <param name="extension">Of the piece's main file, with its dot; it tells formats that are compressed as a whole.</param>
    /// <param name="cancel">Comparing large files may be stopped.</param>
    public static Comparison Compare(Stream before, Reading beforeReading, Stream after, Reading afterReading, string extension, CancellationToken cancel = default)
    {
        if (beforeReading.Problem is not null || afterReading.Problem is not null)
            return Comparison.NotMeasurable("One of the two cannot be read, so what changed cannot be measured.");
        try
        {
            return (beforeReading.Format, afterReading.Format) switch
            {
                (FileFormat.OpenRaster, FileFormat.OpenRaster) => Layers(before, beforeReading, after, afterReading, cancel),
                (FileFormat.Wave, FileFormat.Wave) => Sound(before, after, cancel),
                (FileFormat.Svg, FileFormat.Svg) => Drawn(before, after),
                (FileFormat.Other, FileFormat.Other) when Packed.Contains(extension) =>
                    Comparison.NotMeasurable("Files of this kind are compressed as a whole, so what changed cannot be measured."),
                (FileFormat.Other, FileFormat.Other) => Bytes(before, after, cancel),
                (FileFormat.Other, _) or (_, FileFormat.Other) or (FileFormat.Wave, _) or (_, FileFormat.Wave) =>
                    Comparison.NotMeasurable("The two are of different kinds, so what changed cannot be measured."),
                _ => Flat(before, beforeReading, after, afterReading),
            };
        }
        catch (UnreadableFileException e)
        {
            return Comparison.NotMeasurable(e.Message);
        }
    }

    private static Comparison Layers(Stream before, Reading beforeReading, Stream after, Reading afterReading, CancellationToken cancel)
    {
        using var first = new OpenRasterFile(before);
        using var second = new OpenRasterFile(after);
        var parts = new List<PartChange>();
        double changed = 0, total = 0;
        foreach (var (old, now) in LayerMatching.Match(beforeReading.Layers, afterReading.Layers))
        {
            cancel.ThrowIfCancellationRequested();
            var (part, share, area) = Layer(first, old, second, now);
            parts.Add(part);
            changed += share * area;
            total += area;
        }
        var differ = parts.Count(p => p.Kind != PartChangeKind.Same);
        var canvas = beforeReading.Picture == afterReading.Picture
            ? $"Canvas {afterReading.Picture!.Width} × {afterReading.Picture.Height} px, unchanged."
            : $"Canvas was {beforeReading.Picture!.Width} × {beforeReading.Picture.Height} px, now {afterReading.Picture!.Width} × {afterReading.Picture.Height} px.";
        return new Comparison(total == 0 ? 0 : changed / total, $"{differ} of {parts.Count} layers differ. {canvas}", parts);
    }

    private static (PartChange Part, double Share, long Area) Layer(OpenRasterFile first, LayerFacts? old, OpenRasterFile second, LayerFacts? now)
    {
        if (old is null || now is null)
        {
            var (there, file) = old is null ? (now!, second) : (old, first);
            using var pixels = PreviewMaker.Buffered(file.Open(there.Source)!);
            var (width, height, _) = Pictures.Measure(pixels);
            return (new PartChange(there.Name, old is null ? PartChangeKind.Added : PartChangeKind.Removed), 1, (long)width * height);
        }
        var moved = (X: now.X - old.X, Y: now.Y - old.Y);
        var samePixels = old.Pixels == now.Pixels;
        var looks = Looks(old, now);
        using var a = PreviewMaker.Buffered(first.Open(old.Source)!);
        if (samePixels && moved == (0, 0))
        {
            var (width, height, _) = Pictures.Measure(a);
            return (new PartChange(now.Name, looks.Length > 0 ? PartChangeKind.Changed : PartChangeKind.Same, null, looks), 0, (long)width * height);
        }
        using var b = PreviewMaker.Buffered(second.Open(now.Source)!);
        var (share, area) = Pictures.Difference(a, (old.X, old.Y), b, (now.X, now.Y));
        var part = samePixels ? new PartChange(now.Name, PartChangeKind.Moved, null, $"{Math.Sqrt((double)moved.X * moved.X + (double)moved.Y * moved.Y):0} px")
            : share == 0 ? new PartChange(now.Name, looks.Length > 0 ? PartChangeKind.Changed : PartChangeKind.Same, null, looks)
            : new PartChange(now.Name, PartChangeKind.Repainted, share, looks);
        return (part, share, area);
    }

    private static string Looks(LayerFacts old, LayerFacts now) => string.Join(", ", new[]
    {
        old.Name != now.Name ? $"was “{old.Name}”" : null,
        old.Visible != now.Visible ? (now.Visible ? "shown" : "hidden") : null,
        Math.Abs(old.Opacity - now.Opacity) > 0.001 ? $"{old.Opacity:P0} → {now.Opacity:P0}" : null,
        old.Group != now.Group ? "regrouped" : null,
    }.OfType<string>());

    private static Comparison Flat(Stream before, Reading beforeReading, Stream after, Reading afterReading)
    {
        if (beforeReading.Picture is { } a && afterReading.Picture is { } b && (a.Width, a.Height) != (b.Width, b.Height))
            return new Comparison(1, $"The picture was {a.Width} × {a.Height} px, now {b.Width} × {b.Height} px.", []);
        var (share, _) = Pictures.Difference(before, (0, 0), after, (0, 0));
        return new Comparison(share, $"{Percent(share)} of the picture's area differs.", []);
    }

    // Both at one size: what a person sees change, not how the text that describes it is written.
    private static Comparison Drawn(Stream before, Stream after) => Pictures.Guard(() =>
    {
        using var first = Pictures.Svg(SvgFile.Read(before).Safe, 1024);
        using var second = Pictures.Svg(SvgFile.Read(after).Safe, 1024);
        using var a = Pictures.Rgba(first);
        using var b = Pictures.Rgba(second);
        var (share, _) = Pictures.Difference(a, (0, 0), b, (0, 0));
        return new Comparison(share, $"{Percent(share)} of the drawing's area looks different.", []);
    });

    private static Comparison Sound(Stream before, Stream after, CancellationToken cancel)
    {
        var first = WaveFile.Open(before);
        var second = WaveFile.Open(after);
        if (first.FrameBytes != second.FrameBytes || first.Facts.SampleRate != second.Facts.SampleRate || first.Facts.IsFloat != second.Facts.IsFloat)
            return new Comparison(1, "Rate, depth or channels differ, so every sample does.", []);
        var result = ByteComparison.Compare(
            new SliceStream(before, first.DataOffset, first.DataLength),
            new SliceStream(after, second.DataOffset, second.DataLength),
            Math.Max(first.DataLength, second.DataLength), cancel);
        var bytesPerSecond = (double)second.FrameBytes * second.Facts.SampleRate;
        var parts = Stretches(result.New, bytesPerSecond)
            .Select(s => new PartChange($"{Clock(s.From)} to {Clock(s.To)}", PartChangeKind.Changed, null, $"{s.To - s.From:0.0} s")).ToList();
        var removed = result.RemovedBytes / bytesPerSecond;
        return new Comparison(result.Change, $"{Percent(result.Change)} of the time differs. {(removed >= 0.05 ? $"{removed:0.0} s of the earlier one are gone or replaced." : "Nothing of the earlier one is gone.")}", parts);
    }

    // Gaps under half a second are heard as one change; forty stretches are as many as anyone reads.
    private static IEnumerable<(double From, double To)> Stretches(IReadOnlyList<ByteRange> ranges, double bytesPerSecond)
    {
        var joined = new List<(double From, double To)>();
        foreach (var range in ranges)
        {
            var (from, to) = (range.Offset / bytesPerSecond, range.End / bytesPerSecond);
            if (joined.Count > 0 && from - joined[^1].To < 0.5) joined[^1] = (joined[^1].From, to);
            else joined.Add((from, to));
        }
        return joined.OrderByDescending(s => s.To - s.From).Take(40).OrderBy(s => s.From);
    }

    private static Comparison Bytes(Stream before, Stream after, CancellationToken cancel)
    {
        var result = ByteComparison.Compare(Rewound(before), Rewound(after), Math.Max(before.Length, after.Length), cancel);
        return new Comparison(result.Change, $"{Percent(result.Change)} of the bytes are not held in common.", []);
    }

    private static Stream Rewound(Stream stream)
    {
        stream.Position = 0;
        return stream;
    }

    private static string Clock(double seconds) => $"{(int)seconds / 60}:{seconds % 60:00.0}";

    private static string Percent(double share) => share switch
    {
        0 => "0 %",
        < 0.001 => "Less than 0.1 %",
        < 0.1 => $"{share * 100:0.0} %",
        _ => $"{share * 100:0} %",
    };
}

/// <summary>A stretch of a seekable stream, read from its beginning to its end.</summary>
internal sealed class SliceStream : ForwardStream
{
    private readonly Stream inner;
    private long left;

    public SliceStream(Stream inner, long offset, long length)
    {
        (this.inner, left) = (inner, length);
        inner.Position = offset;
    }

    public override int Read(byte[] buffer, int offset, int count)
    {
        var read = inner.Read(buffer, offset, (int)Math.Min(count, left));
        left -= read;
        return read;
    }
}
