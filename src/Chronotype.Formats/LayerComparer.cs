using Chronotype.Core.Comparing;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>Finds what became of each layer between two files.</summary>
internal static class LayerComparer
{
    /// <summary>Of layers that hold pixels: decodes those that are others, and no more.</summary>
    public static Comparison Painted(Stream before, FileFacts beforeFacts, Stream after, FileFacts afterFacts, CancellationToken cancel)
    {
        using var first = FormatList.Of(beforeFacts.Format)!.OpenLayers(before)!;
        using var second = FormatList.Of(afterFacts.Format)!.OpenLayers(after)!;
        var pairs = LayerMatching.Match(
            LayerNode.Of(beforeFacts.Layers),
            LayerNode.Of(afterFacts.Layers),
            (old, now) => Difference(first, old, second, now, default, cancel).Share
        );
        var told = new List<(PartChange Part, double Changed)>();
        double total = 0;
        foreach (var pair in pairs)
        {
            cancel.ThrowIfCancellationRequested();
            var (part, share, area) = Layer(first, second, pair, cancel);
            told.Add((part, share * area));
            total += area;
        }
        return new Comparison(total == 0 ? 0 : told.Sum(t => t.Changed) / total, ComparisonBasis.Layers)
        {
            Parts = Told(told.Select(t => t.Part with { Weight = total == 0 ? 0 : Math.Round(t.Changed / total, 6) })),
            Before = beforeFacts.Picture,
            After = afterFacts.Picture,
        };
    }

    /// <summary>Of layers that are described and not painted: by what is written of them.</summary>
    public static IReadOnlyList<PartChange> Described(IReadOnlyList<LayerFacts> before, IReadOnlyList<LayerFacts> after)
    {
        var pairs = LayerMatching.Match(LayerNode.Of(before), LayerNode.Of(after));
        return Told(
            pairs.Select(pair =>
            {
                var (old, now) = (pair.Before?.Facts, pair.After?.Facts);
                var isRedrawn = old is not null && now is not null && old.Pixels != now.Pixels;
                var moved = old is not null && now is not null ? new PixelOffset(now.X - old.X, now.Y - old.Y) : default;
                return LayerChanges.Of(pair, isRedrawn, null, moved);
            })
        );
    }

    // A group to which nothing happened says nothing.
    private static IReadOnlyList<PartChange> Told(IEnumerable<PartChange> parts) =>
        [.. parts.Where(p => !p.IsGroup || p.Kind != PartChangeKind.Same)];

    private static (PartChange Part, double Share, long Area) Layer(
        ILayeredFile first,
        ILayeredFile second,
        LayerPair pair,
        CancellationToken cancel
    )
    {
        if (pair is not { Before: { Facts: var old } before, After: { Facts: var now } after })
            return (LayerChanges.Of(pair), 1, (pair.Before ?? pair.After)!.Facts.Area);
        if (now.Kind == LayerKind.Group)
            return (LayerChanges.Of(pair), 0, 0);
        var seen = LayerChanges.SeenOtherwise(before, after);
        var moved =
            old.Bounds is { } was && now.Bounds is { } box && (was.Width, was.Height) == (box.Width, box.Height)
                ? new PixelOffset(box.X - was.X, box.Y - was.Y)
                : default;
        if (old.Pixels == now.Pixels)
            return (LayerChanges.Of(pair, movedBy: moved), Math.Max(seen, Uncovered(old.Bounds, now.Bounds)), now.Area);
        var difference = Difference(first, old, second, now, default, cancel);
        if (moved != default && difference.Share > 0)
        {
            // It may have been moved and touched up: then it differs less where it would lie had it stayed.
            var aligned = Difference(first, old, second, now, moved, cancel);
            if (aligned.Share < difference.Share / 2)
                return (
                    LayerChanges.Of(pair, aligned.Differing > 0, aligned.Share, moved),
                    Math.Max(seen, difference.Share),
                    difference.Painted
                );
        }
        return (
            LayerChanges.Of(pair, difference.Differing > 0, difference.Share),
            Math.Max(seen, difference.Share),
            Math.Max(1, difference.Painted)
        );
    }

    // Of a layer that only moved: the share of what it covers, before or now, that it does not cover in both.
    private static double Uncovered(PixelBox? old, PixelBox? now) =>
        old is not { } was || now is not { } box || was == box
            ? 0
            : 1 - (double)was.Overlap(box) / (was.Area + box.Area - was.Overlap(box));

    private static PixelDifference Difference(
        ILayeredFile first,
        LayerFacts old,
        ILayeredFile second,
        LayerFacts now,
        PixelOffset moved,
        CancellationToken cancel
    ) =>
        Pictures.Guard(() =>
        {
            var (isDeepA, isDeepB) = (IsDeep(first, old), IsDeep(second, now));
            using var a = new PixelRows(first.OpenLayer(old), isDeepA || isDeepB);
            using var b = new PixelRows(second.OpenLayer(now), isDeepA || isDeepB);
            return PixelDifference.Of(a, new PixelOffset(old.X + moved.X, old.Y + moved.Y), b, new PixelOffset(now.X, now.Y), cancel);
        });

    private static bool IsDeep(ILayeredFile file, LayerFacts layer)
    {
        using var image = file.OpenLayer(layer);
        return image.Format != NetVips.Enums.BandFormat.Uchar;
    }
}
