namespace Chronotype.Core.Versions;

/// <summary>
/// From how much change on a save is a great one: then the version before it is worth a milestone, which people remember only afterwards.
/// </summary>
public static class GreatChange
{
    /// <summary>Where a piece's past says too little.</summary>
    public const double Usual = 0.3;

    private const double Least = 0.15,
        Most = 0.7,
        Above = 1.5;

    private const int Enough = 5;

    /// <summary>
    /// Learned from a piece's own past: half as much again as three quarters of its versions stay under, so that a piece whose versions
    /// always change much is asked about less often.
    /// </summary>
    /// <param name="past">The measured changes of its versions, each from 0 to 1, in any order; the first version is none.</param>
    /// <returns>From 0.15 to 0.7.</returns>
    public static double Threshold(IReadOnlyCollection<double> past)
    {
        if (past.Count < Enough)
            return Usual;
        var sorted = past.Order().ToList();
        return Math.Clamp(sorted[(int)Math.Ceiling(0.75 * sorted.Count) - 1] * Above, Least, Most);
    }
}
