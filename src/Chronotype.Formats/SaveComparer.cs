using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Formats.Sound;

namespace Chronotype.Formats;

/// <summary>Measures what changed between two contents, by what their format lets be seen.</summary>
public static class SaveComparer
{
    /// <param name="before">The earlier content, seekable.</param>
    /// <param name="beforeFacts">What was read in it.</param>
    /// <param name="after">The later content, seekable.</param>
    /// <param name="afterFacts">What was read in it.</param>
    /// <param name="cancel">Comparing large files may be stopped.</param>
    public static Comparison Compare(
        Stream before,
        FileFacts beforeFacts,
        Stream after,
        FileFacts afterFacts,
        CancellationToken cancel = default
    )
    {
        if ((afterFacts.Fault ?? beforeFacts.Fault) is { } fault)
            return Comparison.NotMeasurable(ComparisonBasis.Unreadable, fault);
        try
        {
            return (beforeFacts.Format, afterFacts.Format) switch
            {
                (FileFormat.OpenRaster, FileFormat.OpenRaster) => Layers(before, beforeFacts, after, afterFacts, cancel),
                _ when beforeFacts.Sound is { } was && afterFacts.Sound is { } now => SoundComparer.Compare(
                    (FormatList.Of(beforeFacts.Format)!, before, was),
                    (FormatList.Of(afterFacts.Format)!, after, now),
                    cancel
                ),
                (FileFormat.Svg, FileFormat.Svg) => Drawn(before, after),
                (FileFormat.Other, FileFormat.Other) when beforeFacts.IsPacked || afterFacts.IsPacked => Comparison.NotMeasurable(
                    ComparisonBasis.Packed
                ),
                (FileFormat.Other, FileFormat.Other) => Bytes(before, after, cancel),
                _ when beforeFacts.Picture is null || afterFacts.Picture is null => Comparison.NotMeasurable(
                    ComparisonBasis.DifferentKinds
                ),
                _ => Flat(before, beforeFacts, after, afterFacts),
            };
        }
        catch (UnreadableFileException e)
        {
            return Comparison.NotMeasurable(ComparisonBasis.Unreadable, e.Fault);
        }
    }

    private static Comparison Layers(Stream before, FileFacts beforeFacts, Stream after, FileFacts afterFacts, CancellationToken cancel)
    {
        using var first = new OpenRasterFile(before);
        using var second = new OpenRasterFile(after);
        var parts = new List<PartChange>();
        double changed = 0,
            total = 0;
        foreach (var (old, now) in LayerMatching.Match(beforeFacts.Layers, afterFacts.Layers))
        {
            cancel.ThrowIfCancellationRequested();
            var (part, share, area) = Layer(first, old, second, now);
            parts.Add(part);
            changed += share * area;
            total += area;
        }
        return new Comparison(total == 0 ? 0 : changed / total, ComparisonBasis.Layers)
        {
            Parts = parts,
            Before = beforeFacts.Picture,
            After = afterFacts.Picture,
        };
    }

    private static (PartChange Part, double Share, long Area) Layer(
        OpenRasterFile first,
        LayerFacts? old,
        OpenRasterFile second,
        LayerFacts? now
    )
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
        PartChange Part(PartChangeKind kind, double? share = null) => Looks(new PartChange(now.Name, kind, share), old, now);
        var looksAlike = Part(PartChangeKind.Same) == new PartChange(now.Name, PartChangeKind.Same);
        var unpainted = Part(looksAlike ? PartChangeKind.Same : PartChangeKind.Changed);
        using var a = PreviewMaker.Buffered(first.Open(old.Source)!);
        if (samePixels && moved == (0, 0))
        {
            var (width, height, _) = Pictures.Measure(a);
            return (unpainted, Seen(old, now), (long)width * height);
        }
        using var b = PreviewMaker.Buffered(second.Open(now.Source)!);
        var (share, area) = Pictures.Difference(a, (old.X, old.Y), b, (now.X, now.Y));
        var part =
            samePixels ? Part(PartChangeKind.Moved) with { MovedBy = Math.Sqrt((double)moved.X * moved.X + (double)moved.Y * moved.Y) }
            : share == 0 ? unpainted
            : Part(PartChangeKind.Repainted, share);
        return (part, Math.Max(share, Seen(old, now)), area);
    }

    // What is hidden or faded is seen otherwise, though no pixel of it was touched.
    private static double Seen(LayerFacts old, LayerFacts now) =>
        old.Visible != now.Visible ? 1
        : now.Visible ? Math.Abs(old.Opacity - now.Opacity)
        : 0;

    private static PartChange Looks(PartChange part, LayerFacts old, LayerFacts now)
    {
        var isFaded = Math.Abs(old.Opacity - now.Opacity) > 0.001;
        return part with
        {
            FormerName = old.Name != now.Name ? old.Name : null,
            IsShown = old.Visible != now.Visible ? now.Visible : null,
            OpacityBefore = isFaded ? old.Opacity : null,
            OpacityNow = isFaded ? now.Opacity : null,
            IsRegrouped = old.Group != now.Group,
        };
    }

    private static Comparison Flat(Stream before, FileFacts beforeFacts, Stream after, FileFacts afterFacts)
    {
        var (a, b) = (beforeFacts.Picture, afterFacts.Picture);
        if (a is { Pages: > 1 } || b is { Pages: > 1 })
            return Pages(before, a?.Pages ?? 1, after, b?.Pages ?? 1);
        if (a is not null && b is not null && (a.Width, a.Height) != (b.Width, b.Height))
            return new Comparison(1, ComparisonBasis.PictureSize) { Before = a, After = b };
        var (share, _) = Pictures.Difference(before, (0, 0), after, (0, 0));
        return new Comparison(share, ComparisonBasis.PictureArea);
    }

    // Page for page, each weighed by its area.
    private static Comparison Pages(Stream before, int old, Stream after, int now)
    {
        var parts = new List<PartChange>();
        double changed = 0,
            total = 0;
        for (var page = 0; page < Math.Min(Math.Max(old, now), Limits.Pages); page++)
        {
            var name = $"{page + 1}";
            if (page >= old || page >= now)
            {
                parts.Add(new PartChange(name, page >= old ? PartChangeKind.Added : PartChangeKind.Removed));
                var only = Pictures.PageArea(page >= old ? after : before, page);
                (changed, total) = (changed + only, total + only);
                continue;
            }
            var (share, area) = Pictures.Difference(before, after, page);
            parts.Add(share == 0 ? new PartChange(name, PartChangeKind.Same) : new PartChange(name, PartChangeKind.Repainted, share));
            (changed, total) = (changed + share * area, total + area);
        }
        return new Comparison(total == 0 ? 0 : changed / total, ComparisonBasis.Pages) { Parts = parts };
    }

    // Both at one size: what a person sees change, not how the text that describes it is written.
    private static Comparison Drawn(Stream before, Stream after) =>
        Pictures.Guard(() =>
        {
            using var first = Pictures.Svg(SvgFile.Read(before).Safe, 1024);
            using var second = Pictures.Svg(SvgFile.Read(after).Safe, 1024);
            using var a = Pictures.Rgba(first);
            using var b = Pictures.Rgba(second);
            var (share, _) = Pictures.Difference(a, (0, 0), b, (0, 0));
            return new Comparison(share, ComparisonBasis.DrawnArea);
        });

    private static Comparison Bytes(Stream before, Stream after, CancellationToken cancel)
    {
        var result = ByteComparison.Compare(Rewound(before), Rewound(after), Math.Max(before.Length, after.Length), cancel);
        return new Comparison(result.Change, ComparisonBasis.Bytes);
    }

    private static Stream Rewound(Stream stream)
    {
        stream.Position = 0;
        return stream;
    }
}
