using Chronotype.Core.Content;

namespace Chronotype.Core.Outputs;

/// <summary>Where a picture comes to lie in an output, in pixels.</summary>
/// <param name="Width">Of the output, with its bleed and without the margin around it.</param>
/// <param name="Height">As <paramref name="Width"/>.</param>
/// <param name="ScaledWidth">Of the picture, scaled.</param>
/// <param name="ScaledHeight">Of the picture, scaled.</param>
/// <param name="X">Where its left edge lies in the output; below 0 where that is cut off.</param>
/// <param name="Y">As <paramref name="X"/>, its upper edge.</param>
/// <param name="Scale">Of the picture, 1 for its own size.</param>
/// <param name="Resolution">Pixels an inch that the file says; null for nothing.</param>
/// <param name="IsTurned">Whether the size lies on its other side.</param>
public sealed record PictureFrame(
    int Width,
    int Height,
    int ScaledWidth,
    int ScaledHeight,
    int X,
    int Y,
    double Scale,
    double? Resolution,
    bool IsTurned
)
{
    /// <summary>Millimetres of a mark's length, and of the margin that marks stand in.</summary>
    public const double MarkLength = 5,
        MarkMargin = 7;

    /// <summary>Pixels that a scene is drawn at where nothing else is said.</summary>
    public const int SceneWidth = 1_600,
        SceneHeight = 1_200;

    /// <summary>The picture of what was read, as outputs are made of it; null where it has none.</summary>
    public static PictureFacts? Seen(FileFacts facts) =>
        facts.Format == FileFormat.Film ? null
        : facts.Scene is null ? facts.Picture
        : new PictureFacts(SceneWidth, SceneHeight);

    /// <summary>Pixels that are cut off at each side.</summary>
    public int Bleed { get; init; }

    /// <summary>Pixels around all, in which the marks stand.</summary>
    public int Margin { get; init; }

    /// <summary>Pixels of the file.</summary>
    public int WholeWidth => Width + 2 * Margin;

    /// <summary>As <see cref="WholeWidth"/>.</summary>
    public int WholeHeight => Height + 2 * Margin;

    /// <summary>Pixels that a side of an output has at most.</summary>
    public const int MostSide = 60_000;

    /// <summary>Millimetres, centimetres and inches of one inch.</summary>
    private static readonly Dictionary<string, double> PerInch = new()
    {
        ["mm"] = 25.4,
        ["cm"] = 2.54,
        ["in"] = 1,
    };

    /// <summary>The pixels of one side of a size, rounded to the nearest, halves away from 0.</summary>
    /// <returns>A number below 1 or past <see cref="MostSide"/> for a size that cannot be made.</returns>
    public static double Pixels(double side, string unit, double? resolution) =>
        Math.Round(unit == "px" ? side : Inches(side, unit) * (resolution ?? 0), MidpointRounding.AwayFromZero);

    /// <summary>A length of a print in inches.</summary>
    /// <param name="length">In the unit.</param>
    /// <param name="unit"><c>mm</c>, <c>cm</c> or <c>in</c>.</param>
    public static double Inches(double length, string unit) => length / PerInch[unit];

    /// <summary>Lays a picture of some pixels into the size of a recipe, with its bleed.</summary>
    /// <param name="width">Of the picture, at least 1.</param>
    /// <param name="height">Of the picture, at least 1.</param>
    /// <param name="resolution">What the picture says of itself; null for nothing.</param>
    /// <param name="recipe">Without faults.</param>
    public static PictureFrame Of(int width, int height, double? resolution, PictureRecipe recipe)
    {
        if (recipe.Region?.Within(width, height) is { } region && (region.Width != width || region.Height != height))
            return Of(region.Width, region.Height, resolution, recipe with { Region = null });
        if (recipe.Size is not { } size)
            return new(width, height, width, height, 0, 0, 1, resolution, false);
        var beyond = size.Unit == "px" ? 0 : 2 * recipe.Bleed;
        int Side(double side) => (int)Pixels(side, size.Unit, size.Resolution);
        var (across, down) = (Side(size.Width + beyond), Side(size.Height + beyond));
        var isTurned = size.Turns && across != down && width != height && across > down != width > height;
        if (isTurned)
            (across, down) = (down, across);
        var (byWidth, byHeight) = ((double)across / width, (double)down / height);
        var scale = recipe.Fit == PictureFit.Fill ? Math.Max(byWidth, byHeight) : Math.Min(byWidth, byHeight);
        // The side that decides is met to the pixel.
        var isWide = scale == byWidth;
        var scaledWidth = isWide ? across : Math.Max(1, Rounded(width * scale));
        var scaledHeight = isWide ? Math.Max(1, Rounded(height * scale)) : down;
        if (byWidth == byHeight)
            (scaledWidth, scaledHeight) = (across, down);
        var dense = size.Unit == "px" ? size.Resolution ?? resolution : size.Resolution;
        var frame =
            recipe.Fit == PictureFit.Inside
                ? new PictureFrame(scaledWidth, scaledHeight, scaledWidth, scaledHeight, 0, 0, scale, dense, isTurned)
                : new(
                    across,
                    down,
                    scaledWidth,
                    scaledHeight,
                    (across - scaledWidth) / 2,
                    (down - scaledHeight) / 2,
                    scale,
                    dense,
                    isTurned
                );
        return size.Unit == "px"
            ? frame
            : frame with
            {
                Bleed = (Side(size.Width + beyond) - Side(size.Width)) / 2,
                Margin = recipe.Marks ? (int)Pixels(MarkMargin, "mm", size.Resolution) : 0,
            };
    }

    /// <summary>The marks as lines, in pixels from the upper left corner of the file, each from nearer to the picture outwards.</summary>
    public IEnumerable<(int X, int Y, int Width, int Height)> Marks()
    {
        if (Margin == 0)
            yield break;
        var (length, thick) = (Margin * 5 / 7, Math.Max(1, (int)Math.Round((Resolution ?? 72) / 288)));
        foreach (var x in new[] { Margin + Bleed, Margin + Width - Bleed })
        {
            yield return (x - thick / 2, Margin - length, thick, length);
            yield return (x - thick / 2, Margin + Height, thick, length);
        }
        foreach (var y in new[] { Margin + Bleed, Margin + Height - Bleed })
        {
            yield return (Margin - length, y - thick / 2, length, thick);
            yield return (Margin + Width, y - thick / 2, length, thick);
        }
    }

    private static int Rounded(double value) => (int)Math.Round(value, MidpointRounding.AwayFromZero);
}
