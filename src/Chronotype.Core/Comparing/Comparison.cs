namespace Chronotype.Core.Comparing;

/// <summary>What happened to one part of a save: a layer, a stretch of sound, a file.</summary>
public enum PartChangeKind { Added, Removed, Repainted, Moved, Changed, Same }

/// <param name="Name">The part's name, as its maker or this comparison calls it.</param>
/// <param name="Share">How much of the part differs, from 0 to 1; null where that has no meaning.</param>
/// <param name="Detail">A few words more, such as how far it moved; empty when there are none.</param>
public sealed record PartChange(string Name, PartChangeKind Kind, double? Share = null, string Detail = "");

/// <summary>What changed between two saves.</summary>
/// <param name="Change">From 0 (nothing) to 1 (everything); null where it cannot be measured.</param>
/// <param name="Summary">One sentence, with its unit.</param>
/// <param name="Parts">What changed in which part; empty where the format has none.</param>
public sealed record Comparison(double? Change, string Summary, IReadOnlyList<PartChange> Parts)
{
    public static Comparison NotMeasurable(string why) => new(null, why, []);
}
