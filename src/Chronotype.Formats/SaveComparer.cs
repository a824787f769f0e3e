using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Formats.Documents;
using Chronotype.Formats.Sound;
using Chronotype.Formats.Texts;

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
                (FileFormat.OpenRaster, FileFormat.OpenRaster) => LayerComparer.Painted(before, beforeFacts, after, afterFacts, cancel),
                _ when beforeFacts.Sound is { } was && afterFacts.Sound is { } now => SoundComparer.Compare(
                    (FormatList.Of(beforeFacts.Format)!, before, was),
                    (FormatList.Of(afterFacts.Format)!, after, now),
                    cancel
                ),
                (FileFormat.Pdf, FileFormat.Pdf) => PdfComparer.Compare(before, after, cancel),
                (FileFormat.Film, FileFormat.Film) => Comparison.NotMeasurable(ComparisonBasis.Film) with
                {
                    FilmBefore = beforeFacts.Film,
                    FilmAfter = afterFacts.Film,
                },
                (FileFormat.Text, FileFormat.Text) => TextComparer.Compare(before, after) ?? Bytes(before, after, cancel),
                _ when beforeFacts.Timeline is { } was && afterFacts.Timeline is { } now => TimelineComparison.Compare(was, now),
                _ when beforeFacts.Scene is { } was && afterFacts.Scene is { } now => SceneComparison.Compare(was, now),
                (FileFormat.Svg, FileFormat.Svg) => Drawn(before, after) with
                {
                    Parts = DrawnParts(before, beforeFacts, after, afterFacts),
                    Before = beforeFacts.Picture,
                    After = afterFacts.Picture,
                },
                (FileFormat.Other or FileFormat.Text, FileFormat.Other or FileFormat.Text)
                    when beforeFacts.IsPacked || afterFacts.IsPacked => Comparison.NotMeasurable(ComparisonBasis.Packed),
                (FileFormat.Other or FileFormat.Text, FileFormat.Other or FileFormat.Text) => Bytes(before, after, cancel),
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

    private static Comparison Flat(Stream before, FileFacts beforeFacts, Stream after, FileFacts afterFacts)
    {
        var (a, b) = (beforeFacts.Picture, afterFacts.Picture);
        if (a is { Pages: > 1 } || b is { Pages: > 1 })
            return Pages(before, beforeFacts, after, afterFacts);
        var (share, _) = Difference(before, beforeFacts, after, afterFacts, 0);
        var isResized = (a?.Width, a?.Height) != (b?.Width, b?.Height);
        return new Comparison(share, isResized ? ComparisonBasis.PictureSize : ComparisonBasis.PictureArea) { Before = a, After = b };
    }

    // Page for page, each weighed by its area.
    private static Comparison Pages(Stream before, FileFacts beforeFacts, Stream after, FileFacts afterFacts)
    {
        var (old, now) = (beforeFacts.Picture?.Pages ?? 1, afterFacts.Picture?.Pages ?? 1);
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
            var (share, area) = Difference(before, beforeFacts, after, afterFacts, page);
            parts.Add(share == 0 ? new PartChange(name, PartChangeKind.Same) : new PartChange(name, PartChangeKind.Repainted, share));
            (changed, total) = (changed + share * area, total + area);
        }
        return new Comparison(total == 0 ? 0 : changed / total, ComparisonBasis.Pages) { Parts = parts };
    }

    // Each as its own format opens it, so that a layered one is seen by all its layers, and a drawing at the size of the other.
    private static (double Share, long Area) Difference(
        Stream before,
        FileFacts beforeFacts,
        Stream after,
        FileFacts afterFacts,
        int page
    ) =>
        Pictures.Guard(() =>
            Pictures.Difference(Opened(before, beforeFacts, afterFacts, page), Opened(after, afterFacts, beforeFacts, page))
        );

    private static NetVips.Image Opened(Stream content, FileFacts facts, FileFacts other, int page) =>
        FormatList
            .Of(facts.Format)!
            .OpenPicture(content, page, Math.Max(1, Math.Max(other.Picture?.Width ?? 1, other.Picture?.Height ?? 1)))
        ?? throw new UnreadableFileException(FileFaultCode.PictureUnreadable);

    // Both at one size: what a person sees change, not how the text that describes it is written.
    private static Comparison Drawn(Stream before, Stream after) =>
        Pictures.Guard(() =>
        {
            var (share, _) = Pictures.Difference(
                Pictures.Svg(SvgFile.Read(before).Safe, 1024),
                Pictures.Svg(SvgFile.Read(after).Safe, 1024)
            );
            return new Comparison(share, ComparisonBasis.DrawnArea);
        });

    // Where its shapes say what happened, that the layer that they are in was redrawn says nothing more.
    private static IReadOnlyList<PartChange> DrawnParts(Stream before, FileFacts beforeFacts, Stream after, FileFacts afterFacts)
    {
        var layers = LayerComparer.Described(beforeFacts.Layers, afterFacts.Layers);
        var shapes = SvgElements.Compare(SvgFile.Tree(before), SvgFile.Tree(after));
        if (shapes.Count == 0)
            return layers;
        return [.. layers.Where(l => l is not { Kind: PartChangeKind.Repainted, Share: null, MovedBy: null }), .. shapes];
    }

    private static Comparison Bytes(Stream before, Stream after, CancellationToken cancel)
    {
        var result = ByteComparison.Compare(Rewound(before), Rewound(after), Math.Max(before.Length, after.Length), cancel);
        return new Comparison(result.Change, ComparisonBasis.Bytes)
        {
            Bytes = new ByteStretches(before.Length, after.Length, ByteStretches.Few(result.Gone), ByteStretches.Few(result.New)),
        };
    }

    private static Stream Rewound(Stream stream)
    {
        stream.Position = 0;
        return stream;
    }
}
