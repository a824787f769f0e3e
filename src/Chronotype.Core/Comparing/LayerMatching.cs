using Chronotype.Core.Content;

namespace Chronotype.Core.Comparing;

/// <summary>A layer before and after; one side is null where it was added or removed.</summary>
/// <param name="Before">The earlier one.</param>
/// <param name="After">The later one.</param>
/// <param name="IsReordered">It stands above or below others of its group than before.</param>
/// <param name="IsRegrouped">It lies in another group than before.</param>
public sealed record LayerPair(LayerNode? Before, LayerNode? After, bool IsReordered = false, bool IsRegrouped = false);

/// <summary>
/// Finds which layer of one stack is which of another. Three things speak for a pair: its name with the groups that it lies in, its place,
/// and its pixels. Two of them go before one, so that two layers that changed names are two that were renamed.
/// </summary>
public static class LayerMatching
{
    /// <summary>Of the layers that nothing else speaks for, at most so many pairs are compared pixel for pixel.</summary>
    public const int MostLikened = 24;

    private const double SamePlace = 0.5,
        StillItself = 0.5;

    /// <param name="before">The earlier stack.</param>
    /// <param name="after">The later stack.</param>
    /// <param name="differing">
    /// What share of two layers' painted pixels differs where they stand, from 0 to 1; asked for a few that are left and lie in one place.
    /// </param>
    /// <returns>In the order of <paramref name="after"/>, the removed ones last.</returns>
    public static IReadOnlyList<LayerPair> Match(
        IReadOnlyList<LayerNode> before,
        IReadOnlyList<LayerNode> after,
        Func<LayerFacts, LayerFacts, double>? differing = null
    )
    {
        var search = new Search(before, after);
        // Two of the three, then one.
        search.Take(n => n.Facts.Pixels is null ? null : (n.Group, n.Facts.Name, n.Facts.Pixels, n.Facts.Bounds));
        search.Take(n => n.Facts.Pixels is null ? null : (n.Group, n.Facts.Name, n.Facts.Pixels));
        search.Take(n => n.Facts.Pixels is null ? null : (n.Facts.Pixels, n.Facts.Bounds));
        search.Take(n => n.Facts.Bounds is null ? null : (n.Group, n.Facts.Name, n.Facts.Bounds));
        search.Take(n => n.Facts.Pixels is null ? null : (n.Facts.Name, n.Facts.Pixels));
        search.Take(n => (n.Group, n.Facts.Name));
        // A text that nobody named is called by its words; with others it still stands where it stood.
        search.Take(n => n.Facts.Kind == LayerKind.Text ? (n.Group, n.Facts.X, n.Facts.Y) : null);
        search.Take(n => n.Facts.Pixels is null ? null : (object)n.Facts.Pixels);
        search.Take(n => n.Facts.Kind == LayerKind.Group ? null : n.Facts.Name);
        if (differing is not null)
            search.TakeLikened(differing);
        search.TakeGroups();
        return search.Pairs();
    }

    private sealed class Search(IReadOnlyList<LayerNode> before, IReadOnlyList<LayerNode> after)
    {
        private readonly int[] ofAfter = Enumerable.Repeat(-1, after.Count).ToArray(),
            ofBefore = Enumerable.Repeat(-1, before.Count).ToArray();

        private void Pair(int old, int now) => (ofAfter[now], ofBefore[old]) = (old, now);

        // Where a key stands for several, they are taken in the order of their stacks.
        public void Take(Func<LayerNode, object?> key)
        {
            var left = new Dictionary<(LayerKind, object), Queue<int>>();
            foreach (var node in before)
            {
                if (ofBefore[node.Index] < 0 && key(node) is { } k)
                {
                    if (!left.TryGetValue((node.Facts.Kind, k), out var queue))
                        left.Add((node.Facts.Kind, k), queue = []);
                    queue.Enqueue(node.Index);
                }
            }
            foreach (var node in after)
            {
                if (
                    ofAfter[node.Index] < 0
                    && key(node) is { } k
                    && left.TryGetValue((node.Facts.Kind, k), out var queue)
                    && queue.TryDequeue(out var old)
                )
                    Pair(old, node.Index);
            }
        }

        // A layer that was renamed and touched up is still mostly itself; one that merely stands where another stood is not.
        public void TakeLikened(Func<LayerFacts, LayerFacts, double> differing)
        {
            var asked = 0;
            foreach (var now in after.Where(n => ofAfter[n.Index] < 0 && n.Facts.Bounds is not null))
            {
                foreach (var old in before)
                {
                    if (
                        ofBefore[old.Index] >= 0
                        || old.Facts.Kind != now.Facts.Kind
                        || old.Facts.Bounds is not { } was
                        || Likeness(was, now.Facts.Bounds!.Value) < SamePlace
                    )
                        continue;
                    if (asked++ >= MostLikened)
                        return;
                    if (differing(old.Facts, now.Facts) >= StillItself)
                        continue;
                    Pair(old.Index, now.Index);
                    break;
                }
            }
        }

        private static double Likeness(PixelBox a, PixelBox b) => (double)a.Overlap(b) / (a.Area + b.Area - a.Overlap(b));

        // A group under another name is the one that most of its layers were in; the inner groups first, since they speak for outer ones.
        public void TakeGroups()
        {
            foreach (var now in after.Where(n => n.Facts.Kind == LayerKind.Group && ofAfter[n.Index] < 0).Reverse())
            {
                var votes = new Dictionary<int, int>();
                var children = 0;
                foreach (var child in after.Where(c => c.Parent == now.Index))
                {
                    children++;
                    if (ofAfter[child.Index] is >= 0 and var old && before[old].Parent is >= 0 and var group && ofBefore[group] < 0)
                        votes[group] = votes.GetValueOrDefault(group) + 1;
                }
                if (votes.Count > 0 && votes.MaxBy(v => v.Value) is var best && best.Value * 2 > children)
                    Pair(best.Key, now.Index);
            }
        }

        public IReadOnlyList<LayerPair> Pairs()
        {
            var reordered = Reordered();
            var pairs = new List<LayerPair>(after.Count);
            foreach (var node in after)
            {
                pairs.Add(
                    ofAfter[node.Index] is >= 0 and var old
                        ? new LayerPair(before[old], node, reordered.Contains(node.Index), !AreOneGroup(before[old].Parent, node.Parent))
                        : new LayerPair(null, node)
                );
            }
            pairs.AddRange(before.Where(n => ofBefore[n.Index] < 0).Select(n => new LayerPair(n, null)));
            return pairs;
        }

        private bool AreOneGroup(int old, int now) => (old < 0 && now < 0) || (old >= 0 && now >= 0 && ofBefore[old] == now);

        // Of those that stayed in their group, the fewest that have to be put elsewhere to get the new order from the old.
        private HashSet<int> Reordered()
        {
            var reordered = new HashSet<int>();
            var stayed = after.Where(n => ofAfter[n.Index] >= 0 && AreOneGroup(before[ofAfter[n.Index]].Parent, n.Parent));
            foreach (var group in stayed.GroupBy(n => n.Parent))
            {
                var nodes = group.Select(n => n.Index).ToList();
                var kept = LongestRising(nodes.ConvertAll(n => ofAfter[n]));
                reordered.UnionWith(nodes.Where((_, i) => !kept.Contains(i)));
            }
            return reordered;
        }

        // Schensted 1961, by piles: the places of a longest rising run within a series.
        private static HashSet<int> LongestRising(List<int> series)
        {
            var piles = new List<int>();
            var below = new int[series.Count];
            for (var i = 0; i < series.Count; i++)
            {
                var (low, high) = (0, piles.Count);
                while (low < high)
                {
                    var middle = (low + high) / 2;
                    (low, high) = series[piles[middle]] < series[i] ? (middle + 1, high) : (low, middle);
                }
                below[i] = low > 0 ? piles[low - 1] : -1;
                if (low == piles.Count)
                    piles.Add(i);
                else
                    piles[low] = i;
            }
            var kept = new HashSet<int>();
            for (var i = piles.Count > 0 ? piles[^1] : -1; i >= 0; i = below[i])
                kept.Add(i);
            return kept;
        }
    }
}
