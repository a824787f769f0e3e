using System.Text;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;

namespace Chronotype.Core.Tests.Comparing;

public class LayerTests
{
    private static LayerFacts Layer(string name, string pixels, int x = 0, int y = 0, int depth = 0, int side = 100) =>
        new(LayerKind.Pixels, name, depth)
        {
            Bounds = new PixelBox(x, y, side, side),
            Area = (long)side * side,
            Pixels = ContentHash.Of(Encoding.UTF8.GetBytes(pixels)),
        };

    private static LayerFacts Group(string name, int depth = 0) => new(LayerKind.Group, name, depth);

    private static IReadOnlyList<LayerPair> Match(
        LayerFacts[] before,
        LayerFacts[] after,
        Func<LayerFacts, LayerFacts, double>? differing = null
    ) => LayerMatching.Match(LayerNode.Of(before), LayerNode.Of(after), differing);

    private static IEnumerable<(string? Before, string? After)> Names(IReadOnlyList<LayerPair> pairs) =>
        pairs.Select(p => (p.Before?.Facts.Name, p.After?.Facts.Name));

    [Fact]
    public void A_stack_is_read_as_the_tree_that_it_is()
    {
        var nodes = LayerNode.Of([
            Group("Title"),
            Layer("Letters", "a", depth: 1) with
            {
                Opacity = 0.5,
            },
            Group("Shade", 1) with
            {
                Opacity = 0.5,
            },
            Layer("Soft", "b", depth: 2) with
            {
                Opacity = 0.5,
            },
            Group("Off") with
            {
                Visible = false,
            },
            Layer("Sketch", "c", depth: 1),
            Layer("Sky", "d"),
        ]);
        Assert.Equal(
            [
                ("", -1, 1.0),
                ("Title", 0, 0.5),
                ("Title", 0, 0.5),
                ("Title / Shade", 2, 0.25),
                ("", -1, 0.0),
                ("Off", 4, 0.0),
                ("", -1, 1.0),
            ],
            nodes.Select(n => (n.Group, n.Parent, n.Shown))
        );
    }

    [Fact]
    public void Renamed_repainted_added_and_removed_layers_are_told_apart()
    {
        var pairs = Match(
            [Layer("Sky", "sky"), Layer("Moon", "moon", 10), Layer("Gone", "gone", 300)],
            [Layer("New", "new", 900), Layer("Full moon", "moon", 10), Layer("Sky", "sky, repainted")]
        );
        Assert.Equal([(null, "New"), ("Moon", "Full moon"), ("Sky", "Sky"), ("Gone", null)], Names(pairs));
    }

    [Fact]
    public void Two_layers_that_changed_names_were_renamed_and_not_repainted()
    {
        var pairs = Match([Layer("A", "one", 0), Layer("B", "two", 500)], [Layer("B", "one", 0), Layer("A", "two", 500)]);
        Assert.Equal([("A", "B"), ("B", "A")], Names(pairs));
        Assert.Equal(["A", "B"], pairs.Select(p => LayerChanges.Of(p).FormerName));
    }

    [Fact]
    public void A_layer_that_was_renamed_and_touched_up_is_found_by_where_it_lies_and_how_little_of_it_differs()
    {
        LayerFacts[] before = [Layer("Layer 7", "gulls")],
            after = [Layer("Gulls", "gulls, one more")];
        Assert.Equal([("Layer 7", "Gulls")], Names(Match(before, after, (_, _) => 0.1)));
        // What merely stands in its place is another.
        Assert.Equal([(null, "Gulls"), ("Layer 7", null)], Names(Match(before, after, (_, _) => 0.9)));
    }

    [Fact]
    public void Only_the_layer_that_was_put_elsewhere_is_reordered()
    {
        LayerFacts[] before = [Layer("A", "a"), Layer("B", "b"), Layer("C", "c"), Layer("D", "d")];
        var pairs = Match(before, [before[3], before[0], before[1], before[2]]);
        Assert.Equal(["D"], pairs.Where(p => p.IsReordered).Select(p => p.After!.Facts.Name));
        Assert.Equal(PartChangeKind.Changed, LayerChanges.Of(pairs[0]).Kind);
        Assert.Equal(PartChangeKind.Same, LayerChanges.Of(pairs[1]).Kind);
    }

    [Fact]
    public void A_layer_put_in_a_group_is_regrouped_and_one_in_a_renamed_group_is_not()
    {
        var pairs = Match(
            [Group("Front"), Layer("Title", "title", depth: 1), Layer("Date", "date", depth: 1), Layer("Sky", "sky")],
            [
                Group("Foreground"),
                Layer("Title", "title", depth: 1),
                Layer("Date", "date", depth: 1),
                Group("Back"),
                Layer("Sky", "sky", depth: 1),
            ]
        );
        var parts = pairs.Select(p => LayerChanges.Of(p)).ToDictionary(p => p.Name);
        Assert.Equal("Front", parts["Foreground"].FormerName);
        Assert.Equal(PartChangeKind.Same, parts["Title"].Kind);
        Assert.Equal(PartChangeKind.Added, parts["Back"].Kind);
        Assert.Equal("", parts["Sky"].GroupBefore);
        Assert.Equal(PartChangeKind.Changed, parts["Sky"].Kind);
    }

    [Fact]
    public void Hidden_faded_and_blended_layers_are_told_by_what_is_otherwise()
    {
        LayerFacts[] before = [Layer("Ink", "ink"), Layer("Glow", "glow"), Layer("Grain", "grain")];
        var parts = Match(
                before,
                [before[0] with { Visible = false }, before[1] with { Opacity = 0.4 }, before[2] with { Blend = "multiply" }]
            )
            .Select(p => LayerChanges.Of(p))
            .ToList();
        Assert.Equal((false, PartChangeKind.Changed), (parts[0].IsShown!.Value, parts[0].Kind));
        Assert.Equal((1.0, 0.4), (parts[1].OpacityBefore!.Value, parts[1].OpacityNow!.Value));
        Assert.Equal(("normal", "multiply"), (parts[2].BlendBefore, parts[2].BlendNow));
    }

    [Fact]
    public void Layers_of_one_name_are_told_apart_by_their_pixels()
    {
        var pairs = Match(
            [Layer("Copy", "a", 0), Layer("Copy", "b", 200), Layer("Copy", "c", 400)],
            [Layer("Copy", "c", 400), Layer("Copy", "b", 200)]
        );
        Assert.Equal([(2, 0), (1, 1)], pairs.Where(p => p.After is not null).Select(p => (p.Before!.Index, p.After!.Index)));
        Assert.Equal(0, Assert.Single(pairs, p => p.After is null).Before!.Index);
    }

    [Fact]
    public void Thousands_of_layers_are_matched_at_once()
    {
        var before = Enumerable.Range(0, 10_000).Select(i => Layer($"Layer {i}", $"{i}", i)).ToArray();
        var after = before.Select((l, i) => i % 100 == 0 ? l with { Name = $"Renamed {i}" } : l).Reverse().ToArray();
        var pairs = Match(before, after);
        Assert.All(pairs, p => Assert.Equal(p.Before!.Facts.Pixels, p.After!.Facts.Pixels));
        // Of a stack that was turned over, all but one stand elsewhere.
        Assert.Equal(9_999, pairs.Count(p => p.IsReordered));
    }
}
