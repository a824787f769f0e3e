namespace Chronotype.Core.Content;

/// <summary>By what numbers a picture's colours are told.</summary>
public enum ColourModel
{
    /// <summary>Any that has no name here.</summary>
    Other,

    /// <summary>Lightness alone.</summary>
    Grey,

    /// <summary>Red, green and blue light.</summary>
    Rgb,

    /// <summary>Cyan, magenta, yellow and black ink.</summary>
    Cmyk,

    /// <summary>CIE 1976 L*a*b*.</summary>
    Lab,
}

/// <param name="Width">Pixels, or for SVG the user units of its drawing.</param>
/// <param name="Height">As <paramref name="Width"/>.</param>
/// <param name="Pages">How many pictures of it the file holds: the pages of a TIFF, the frames of a moving picture.</param>
public sealed record PictureFacts(int Width, int Height, int Pages = 1)
{
    /// <summary>Pixels an inch; null where the file does not say.</summary>
    public double? Resolution { get; init; }

    /// <summary>Null for a drawing, which has colours of every kind.</summary>
    public ColourModel? Colour { get; init; }

    /// <summary>Bits of one channel of a pixel; null for a drawing.</summary>
    public int? Depth { get; init; }

    /// <summary>The name of the colour profile in it (ICC.1); null where it has none. Not trusted.</summary>
    public string? Profile { get; init; }

    /// <summary>Whether it has an alpha channel.</summary>
    public bool HasAlpha { get; init; }

    /// <summary>How long its frames play, in seconds; null for what does not move.</summary>
    public double? Seconds { get; init; }
}

/// <summary>A part of a picture's plane. It may reach past the canvas.</summary>
/// <param name="X">Pixels from the canvas's left edge.</param>
/// <param name="Y">Pixels from the canvas's top edge.</param>
/// <param name="Width">Pixels, at least 1.</param>
/// <param name="Height">As <paramref name="Width"/>.</param>
public readonly record struct PixelBox(int X, int Y, int Width, int Height)
{
    /// <summary>Pixels in it.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public long Area => (long)Width * Height;

    /// <summary>The pixels that lie in both.</summary>
    public long Overlap(PixelBox other)
    {
        var width = Math.Min((long)X + Width, (long)other.X + other.Width) - Math.Max(X, other.X);
        var height = Math.Min((long)Y + Height, (long)other.Y + other.Height) - Math.Max(Y, other.Y);
        return width > 0 && height > 0 ? width * height : 0;
    }
}
