using Chronotype.Core.Versions;

namespace Chronotype.Core.Timeline;

/// <summary>A version as the strip needs it.</summary>
/// <param name="Number">The version's.</param>
/// <param name="Label">Its number as it stands in names.</param>
/// <param name="At">When it was kept, in the reader's time zone.</param>
/// <param name="Change">0 to 1; null where it was not measured.</param>
/// <param name="StandIn">0 to 1: from size and time, drawn where <paramref name="Change"/> is null.</param>
/// <param name="Milestone">The flag's words; null for a version that is none.</param>
public sealed record StripVersion(VersionNumber Number, string Label, DateTimeOffset At, double? Change, double StandIn, string? Milestone);

/// <summary>A loose save as the strip needs it.</summary>
public sealed record StripLoose(Guid Id, DateTimeOffset At);

/// <summary>What a strip is drawn from.</summary>
/// <param name="Versions">By number.</param>
/// <param name="Loose">By time.</param>
/// <param name="Now">In the reader's time zone; null in a view of the past, which has no "now" and no ghost.</param>
/// <param name="NextLabel">The number that the next keep gives.</param>
/// <param name="Width">Pixels that bands may take in all.</param>
public sealed record StripInput(
    IReadOnlyList<StripVersion> Versions,
    IReadOnlyList<StripLoose> Loose,
    DateTimeOffset? Now,
    string NextLabel,
    double Width
)
{
    /// <summary>How days are written.</summary>
    public DatePatterns Dates { get; init; } = DatePatterns.DayFirst;

    /// <summary>The piece's other lines, which lanes below are drawn for.</summary>
    public IReadOnlyList<StripBranch> Branches { get; init; } = [];
}

/// <summary>The sizes of a strip's marks, in pixels from its top left corner.</summary>
public static class StripMeasure
{
    /// <summary>Where the strip lies in its drawing, in its units.</summary>
    public const double Left = 150,
        Top = 14,
        Base = 140,
        Height = 196;

    /// <summary>How wide and how far apart its parts are, in its units.</summary>
    public const double BarWidth = 18,
        BlockWidth = 30,
        Pitch = 28,
        BlockPitch = 62,
        RingPitch = 16,
        FoldWidth = 44,
        FlagRow = 19,
        FlagHeight = 17;

    /// <summary>A bar without any change is still a bar.</summary>
    public const double MinBar = 6;
}

/// <summary>A stretch of time that is drawn: a day, a week or a month.</summary>
public sealed record StripBand(double X, double Width, string Label);

/// <summary>A stretch in which nothing happened, drawn as a mark with its length.</summary>
public sealed record StripFold(double X, string Label);

/// <summary>One version, or several that lie close together.</summary>
/// <param name="X">The left edge.</param>
/// <param name="Width">Of the bar.</param>
/// <param name="Height">Upwards from <see cref="StripMeasure.Base"/>.</param>
/// <param name="Label">Under it; empty where there is no room.</param>
/// <param name="Versions">One or several, in order.</param>
/// <param name="Measured">False where the height stands in for a change that cannot be measured.</param>
public sealed record StripBar(double X, double Width, double Height, string Label, IReadOnlyList<StripVersion> Versions, bool Measured)
{
    /// <summary>The last of its versions.</summary>
    public StripVersion Version => Versions[^1];

    /// <summary>Whether it stands for several versions.</summary>
    public bool IsBlock => Versions.Count > 1;

    /// <summary>Whether one of its versions is marked.</summary>
    public bool IsMilestone => Versions.Any(v => v.Milestone is not null);

    /// <summary>The middle of it, in the drawing’s units.</summary>
    public double Centre => X + Width / 2;
}

/// <summary>One loose save, or several that lie close together.</summary>
public sealed record StripRing(double X, IReadOnlyList<StripLoose> Saves);

/// <summary>A milestone's flag on its staff.</summary>
/// <param name="X">The staff.</param>
/// <param name="Row">0 at the top.</param>
/// <param name="Width">Of the flag.</param>
/// <param name="Text">As much of the words as there is room for.</param>
/// <param name="Full">The words of every milestone that the flag stands for.</param>
public sealed record StripFlag(double X, int Row, double Width, string Text, IReadOnlyList<string> Full)
{
    /// <summary>Its upper edge, in the drawing’s units.</summary>
    public double Y => StripMeasure.Top + 2 + Row * StripMeasure.FlagRow;
}

/// <summary>A strip laid out: everything that is drawn, with its place.</summary>
/// <param name="Width">Of the whole drawing, in its units.</param>
/// <param name="Bands">The days, or longer stretches, from left to right.</param>
/// <param name="Folds">Stretches in which nothing happened.</param>
/// <param name="Bars">The versions.</param>
/// <param name="Rings">The loose saves.</param>
/// <param name="Flags">The milestones.</param>
/// <param name="NowX">Where now is; null for a past that ended.</param>
/// <param name="NowY">The foot of the word "now", below any flag that reaches over it.</param>
/// <param name="Ghost">The version that a keep would make; null for none.</param>
public sealed record Strip(
    double Width,
    IReadOnlyList<StripBand> Bands,
    IReadOnlyList<StripFold> Folds,
    IReadOnlyList<StripBar> Bars,
    IReadOnlyList<StripRing> Rings,
    IReadOnlyList<StripFlag> Flags,
    double? NowX,
    double NowY,
    StripBar? Ghost
)
{
    /// <summary>The piece's other lines, below.</summary>
    public IReadOnlyList<StripLane> Lanes { get; init; } = [];

    /// <summary>The height of the whole drawing.</summary>
    public double Height => StripMeasure.Height + (Lanes.Count == 0 ? 0 : Lanes.Count * StripLanes.Height + 4);
}
