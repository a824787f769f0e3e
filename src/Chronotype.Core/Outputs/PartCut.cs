namespace Chronotype.Core.Outputs;

/// <summary>A region of a picture's plane, in pixels of the picture.</summary>
/// <param name="X">From the left edge.</param>
/// <param name="Y">From the upper edge.</param>
/// <param name="Width">At least 1.</param>
/// <param name="Height">At least 1.</param>
public sealed record PictureRegion(int X, int Y, int Width, int Height)
{
    /// <summary>What of it lies in a picture.</summary>
    /// <param name="width">Of the picture.</param>
    /// <param name="height">Of the picture.</param>
    /// <returns>Null where nothing does.</returns>
    public PictureRegion? Within(int width, int height)
    {
        var (left, top) = (Math.Max(0, X), Math.Max(0, Y));
        var (right, bottom) = (Math.Min(width, (long)X + Width), Math.Min(height, (long)Y + Height));
        return Width >= 1 && Height >= 1 && right > left && bottom > top
            ? new PictureRegion(left, top, (int)(right - left), (int)(bottom - top))
            : null;
    }
}

/// <summary>A stretch of a sound.</summary>
/// <param name="From">Seconds from the beginning.</param>
/// <param name="Seconds">How long; more than 0.</param>
public sealed record SoundStretch(double From, double Seconds);

/// <summary>What is cut out of a file, so that it can become a piece of its own. One of the two is there.</summary>
/// <param name="Region">Of a picture or a drawing; null for a sound.</param>
/// <param name="Stretch">Of a sound; null for a picture.</param>
public sealed record PartCut(PictureRegion? Region, SoundStretch? Stretch);

/// <summary>What was taken of a file.</summary>
/// <param name="Names">Layers, tracks or nodes, by name; empty for a cut. Not trusted.</param>
/// <param name="Cut">A region or a stretch; null for parts by name.</param>
public sealed record PartTaken(IReadOnlyList<string> Names, PartCut? Cut);
