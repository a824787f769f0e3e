using Chronotype.Core.Content;

namespace Chronotype.Core.Comparing;

/// <summary>Says what became of each part of a scene: nodes, meshes, materials, animations, cameras and pictures.</summary>
public static class SceneComparison
{
    private const double SamePlace = 1e-6;

    /// <summary>Parts are found again by name, then by how they are made, which finds those under another name.</summary>
    public static Comparison Compare(SceneFacts before, SceneFacts after)
    {
        var parts = new List<PartChange>();
        foreach (var kind in Enum.GetValues<ScenePartKind>())
            Match([.. before.Parts.Where(p => p.Kind == kind)], [.. after.Parts.Where(p => p.Kind == kind)], parts);
        var all = Math.Max(1, parts.Count);
        return new Comparison((double)parts.Count(p => p.Kind != PartChangeKind.Same) / all, ComparisonBasis.Scene)
        {
            Parts = [.. parts.Select(p => p with { Weight = p.Kind == PartChangeKind.Same ? 0 : Weight(p) })],
        };
    }

    // What came or went is told before what was touched, and what is seen at once before what is not.
    private static double Weight(PartChange part) =>
        (part.Scene, part.Kind) switch
        {
            (ScenePartKind.Node, PartChangeKind.Added or PartChangeKind.Removed) => 1,
            (ScenePartKind.Material, _) => 0.9,
            (ScenePartKind.Animation, _) => 0.8,
            (ScenePartKind.Mesh, PartChangeKind.Changed) => 0.7,
            (ScenePartKind.Node, _) => 0.6,
            _ => 0.5,
        };

    private static void Match(List<ScenePart> before, List<ScenePart> after, List<PartChange> parts)
    {
        var found = new ScenePart?[after.Count];
        var left = before.ToHashSet();
        Take(p => p.Name, (b, a) => b.Under == a.Under);
        Take(p => p.Name, (_, _) => true);
        // What stands in the scene is told from others made alike by where it stands.
        Take(p => p.Made, (b, a) => Places(b, a) <= SamePlace);
        for (var i = 0; i < after.Count; i++)
            parts.Add(Change(found[i], after[i]));
        parts.AddRange(before.Where(left.Contains).Select(gone => Change(gone, null)));

        void Take<TKey>(Func<ScenePart, TKey> key, Func<ScenePart, ScenePart, bool> fits)
        {
            var byKey = before.Where(b => left.Contains(b) && key(b) is not null).ToLookup(key);
            for (var i = 0; i < after.Count; i++)
            {
                if (found[i] is null && key(after[i]) is { } k)
                    found[i] = byKey[k].FirstOrDefault(b => left.Contains(b) && fits(b, after[i]));
                if (found[i] is { } taken)
                    left.Remove(taken);
            }
        }
    }

    private static PartChange Change(ScenePart? old, ScenePart? now)
    {
        var there = (now ?? old)!;
        var part = new PartChange(there.Name, PartChangeKind.Same) { Scene = there.Kind };
        if (old is null || now is null)
            return part with { Kind = old is null ? PartChangeKind.Added : PartChangeKind.Removed };
        part = part with
        {
            FormerName = old.Name != now.Name ? old.Name : null,
            GroupBefore = old.Under != now.Under ? old.Under : null,
            UsesBefore = old.Uses != now.Uses ? old.Uses : null,
            UsesNow = old.Uses != now.Uses ? now.Uses : null,
            SecondsBefore = Math.Abs(old.Seconds - now.Seconds) > 0.0005 ? old.Seconds : null,
            SecondsNow = Math.Abs(old.Seconds - now.Seconds) > 0.0005 ? now.Seconds : null,
        };
        var isMoved = Places(old, now) > SamePlace;
        // What hangs on a node is told for itself.
        var isMade = old.Made != now.Made && now.Kind != ScenePartKind.Node;
        var isTouched = part is { FormerName: not null } or { GroupBefore: not null } or { UsesNow: not null } or { SecondsNow: not null };
        return part with
        {
            Kind =
                part.SecondsNow is not null ? PartChangeKind.Retimed
                : part.UsesNow is not null ? PartChangeKind.Remapped
                : isMade ? PartChangeKind.Changed
                : isMoved ? PartChangeKind.Moved
                : isTouched ? PartChangeKind.Changed
                : PartChangeKind.Same,
        };
    }

    private static double Places(ScenePart old, ScenePart now) =>
        old.Stands is { } a && now.Stands is { } b && a.Count == b.Count ? a.Zip(b, (p, q) => Math.Abs(p - q)).Max() : 0;
}
