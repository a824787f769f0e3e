namespace Chronotype.Core.Timeline;

/// <summary>Another line of the piece, as the strip needs it.</summary>
/// <param name="Words">What stands behind it.</param>
/// <param name="LeftAt">The version of the drawn line at which it left that; null where it left another, or is the main line.</param>
/// <param name="Marks">Its versions, by number.</param>
/// <param name="IsMain">It is the main line, which left none.</param>
public sealed record StripBranch(string Words, int? LeftAt, IReadOnlyList<StripBranchMark> Marks, bool IsMain);

/// <summary>A version of another line.</summary>
/// <param name="Save">The save that it is.</param>
/// <param name="Label">Its number, as short as can be.</param>
public sealed record StripBranchMark(Guid Save, string Label);

/// <summary>A block of a lane.</summary>
/// <param name="X">The left edge.</param>
/// <param name="Mark">What it stands for.</param>
public sealed record StripLaneBlock(double X, StripBranchMark Mark);

/// <summary>A lane below the strip: another line, with where it left the drawn one.</summary>
/// <param name="Branch">What it draws.</param>
/// <param name="Y">Its middle.</param>
/// <param name="FromX">Where it leaves the drawn line; null where that is not to be seen.</param>
/// <param name="X">Where its line begins.</param>
/// <param name="End">Where its line ends, and its words begin.</param>
/// <param name="Blocks">Its newest versions.</param>
/// <param name="Earlier">How many versions before them there is no room for.</param>
/// <param name="Words">As much of them as there is room for.</param>
public sealed record StripLane(
    StripBranch Branch,
    double Y,
    double? FromX,
    double X,
    double End,
    IReadOnlyList<StripLaneBlock> Blocks,
    int Earlier,
    string Words
);

/// <summary>Places the lanes of the other lines, one below another.</summary>
public static class StripLanes
{
    /// <summary>The height of a lane, and of a block in it, in the drawing’s units.</summary>
    public const double Height = 28,
        Block = 24;

    /// <summary>How wide a block is, and how far one is from the next.</summary>
    public const double Width = 26,
        Pitch = 32;

    // The way down from the bar that it leaves, and room for how many there are before.
    private const double Way = 54,
        Few = 34,
        Gap = 10,
        FontSize = 12,
        LeastWords = 90;

    /// <param name="branches">From top to bottom.</param>
    /// <param name="right">Where the drawing ends.</param>
    /// <param name="bars">Of the drawn line.</param>
    public static IReadOnlyList<StripLane> Place(IReadOnlyList<StripBranch> branches, IReadOnlyList<StripBar> bars, double right) =>
        [.. branches.Select((b, row) => Place(b, StripMeasure.Base + 58 + row * Height, bars, right))];

    private static StripLane Place(StripBranch branch, double y, IReadOnlyList<StripBar> bars, double right)
    {
        var from = bars.FirstOrDefault(b => b.Versions.Any(v => v.Number.Value == branch.LeftAt))?.Centre;
        var words = TextWidth.Of(branch.Words, FontSize) + Gap;
        // One that leaves close to the right end has no room there, and begins as far to the left as it must.
        var need = Way + Pitch + Math.Min(words, LeastWords * 2);
        var start = Math.Min(from ?? StripMeasure.Left, Math.Max(StripMeasure.Left, right - need));
        var first = start + (from is null ? Gap : Way);
        var room = right - first - Math.Min(words, LeastWords * 2);
        var fit = Math.Max(1, (int)(room / Pitch));
        var earlier = Math.Max(0, branch.Marks.Count - fit);
        if (earlier > 0)
        {
            fit = Math.Max(1, (int)((room - Few) / Pitch));
            earlier = branch.Marks.Count - fit;
            first += Few;
        }
        var shown = branch.Marks.Skip(earlier).ToList();
        var blocks = shown.Select((m, i) => new StripLaneBlock(first + i * Pitch, m)).ToList();
        var end = first + Math.Max(0, shown.Count - 1) * Pitch + (shown.Count == 0 ? 0 : Width) + Gap;
        return new StripLane(branch, y, from, start, end, blocks, earlier, TextWidth.Fit(branch.Words, Math.Max(0, right - end), FontSize));
    }
}
