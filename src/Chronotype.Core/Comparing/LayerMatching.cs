using Chronotype.Core.Content;

namespace Chronotype.Core.Comparing;

/// <summary>A layer before and after; one side is null where it was added or removed.</summary>
public sealed record LayerPair(LayerFacts? Before, LayerFacts? After);

/// <summary>Finds which layer of one stack is which of another.</summary>
public static class LayerMatching
{
    /// <summary>
    /// Pairs by group and name first, in stack order where names repeat; then what is left by equal pixels, which finds
    /// layers that were renamed or regrouped. The result is in the order of <paramref name="after"/>, the removed ones last.
    /// </summary>
    public static IReadOnlyList<LayerPair> Match(IReadOnlyList<LayerFacts> before, IReadOnlyList<LayerFacts> after)
    {
        var found = new LayerFacts?[after.Count];
        var left = before.ToList();
        Take((b, a) => b.Group == a.Group && b.Name == a.Name);
        Take((b, a) => b.Pixels == a.Pixels);
        return [.. after.Select((layer, i) => new LayerPair(found[i], layer)), .. left.Select(layer => new LayerPair(layer, null))];

        void Take(Func<LayerFacts, LayerFacts, bool> same)
        {
            for (var i = 0; i < after.Count; i++)
            {
                if (found[i] is not null)
                    continue;
                found[i] = left.FirstOrDefault(b => same(b, after[i]));
                if (found[i] is { } taken)
                    left.Remove(taken);
            }
        }
    }
}
