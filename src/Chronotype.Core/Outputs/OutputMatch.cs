namespace Chronotype.Core.Outputs;

/// <summary>What the name of a file that came says of a version.</summary>
public enum NameEvidence
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>It begins as the piece is called.</summary>
    Piece,

    /// <summary>It says the very version, by its number or its exact name.</summary>
    Version,

    /// <summary>It says another version, or another piece.</summary>
    Other,
}

/// <summary>Why a copy may be of a version.</summary>
/// <param name="Name">What its name says.</param>
/// <param name="WasNewest">The version was the newest of its piece when the copy came.</param>
/// <param name="Hours">From when the version was kept to when the copy came; below 0 where it came before.</param>
/// <param name="Alike">From 0 to 1; null where they cannot be compared.</param>
/// <param name="At">Of a sound, at which second of the version it begins.</param>
public sealed record MatchReasons(NameEvidence Name, bool WasNewest, double Hours, double? Alike, double At = 0);

/// <summary>A version that a copy may be of.</summary>
/// <param name="Piece">The piece.</param>
/// <param name="Save">The version.</param>
/// <param name="Reasons">What speaks for it, and against.</param>
public sealed record OutputMatch(Guid Piece, Guid Save, MatchReasons Reasons)
{
    // From here on two pictures, or two sounds, are the same thing seen or heard; below the other they are not.
    private const double Same = 0.9,
        Unlike = 0.55;

    // Two versions of one piece that differ by less cannot be told apart by their looks.
    private const double Margin = 0.01;

    /// <summary>How much speaks for it; it is compared with others of one copy.</summary>
    public double Weight =>
        (
            Reasons.Name switch
            {
                NameEvidence.Version => 3,
                NameEvidence.Piece => 1.5,
                NameEvidence.Other => -1.5,
                _ => 0,
            }
        )
        + (
            Reasons.Alike switch
            {
                null => 0,
                < Unlike => -3,
                var alike => 4 * (alike.Value - Unlike) / (1 - Unlike),
            }
        )
        + (Reasons.WasNewest ? 0.3 : 0)
        // Nobody made it of what was kept after it.
        - (Reasons.Hours < -0.1 ? 1 : 0);

    /// <summary>The likeliest first.</summary>
    public static IReadOnlyList<OutputMatch> Rank(IEnumerable<OutputMatch> candidates) =>
        [.. candidates.Where(c => c.Weight > 0.5).OrderByDescending(c => c.Weight).ThenBy(c => Math.Abs(c.Reasons.Hours))];

    /// <summary>The one that it is without a doubt.</summary>
    /// <param name="ranked">As <see cref="Rank"/> gives them.</param>
    /// <returns>Null where a person is to be asked.</returns>
    public static OutputMatch? Certain(IReadOnlyList<OutputMatch> ranked)
    {
        if (ranked is not [var first, ..])
            return null;
        var (name, alike) = (first.Reasons.Name, first.Reasons.Alike);
        // Its name says the very version, and nothing that is seen or heard speaks against it.
        if (name == NameEvidence.Version && alike is null or >= Unlike)
            return ranked.Skip(1).All(o => o.Reasons.Name != NameEvidence.Version) ? first : null;
        if (alike is not >= Same)
            return null;
        // Another piece that looks the same is a doubt, unless the name decides; another version is, unless looks or time decide.
        foreach (var other in ranked.Skip(1))
        {
            var isAsAlike = other.Reasons.Alike >= alike - Margin;
            if (other.Piece != first.Piece ? isAsAlike && name == NameEvidence.None : isAsAlike && !first.Reasons.WasNewest)
                return null;
        }
        return first;
    }
}
