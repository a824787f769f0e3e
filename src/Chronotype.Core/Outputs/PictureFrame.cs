namespace Chronotype.Core.Outputs;

/// <summary>Where a picture comes to lie in an output, in pixels.</summary>
/// <param name="Width">Of the output.</param>
/// <param name="Height">Of the output.</param>
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
        Math.Round(unit == "px" ? side : side / PerInch[unit] * (resolution ?? 0), MidpointRounding.AwayFromZero);

    /// <summary>Lays a picture of some pixels into the size of a recipe.</summary>
    /// <param name="width">Of the picture, at least 1.</param>
    /// <param name="height">Of the picture, at least 1.</param>
    /// <param name="resolution">What the picture says of itself; null for nothing.</param>
    /// <param name="recipe">Without faults.</param>
    public static PictureFrame Of(int width, int height, double? resolution, PictureRecipe recipe)
    {
        if (recipe.Size is not { } size)
            return new(width, height, width, height, 0, 0, 1, resolution, false);
        var (across, down) = ((int)Pixels(size.Width, size.Unit, size.Resolution), (int)Pixels(size.Height, size.Unit, size.Resolution));
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
        return recipe.Fit == PictureFit.Inside
            ? new(scaledWidth, scaledHeight, scaledWidth, scaledHeight, 0, 0, scale, dense, isTurned)
            : new(across, down, scaledWidth, scaledHeight, (across - scaledWidth) / 2, (down - scaledHeight) / 2, scale, dense, isTurned);
    }

    private static int Rounded(double value) => (int)Math.Round(value, MidpointRounding.AwayFromZero);
}
