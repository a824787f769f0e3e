using Chronotype.Core.Comparing;

namespace Chronotype.Core.Readers;

/// <summary>A picture cut into tiles at every scale from 1:1 down to one pixel, each half the one before.</summary>
/// <param name="Width">Pixels at 1:1.</param>
/// <param name="Height">As <paramref name="Width"/>.</param>
/// <param name="TileSide">Pixels of a tile's side; those at the right and the lower edge are smaller.</param>
/// <param name="Extension">Of a tile's file, with its dot.</param>
public sealed record TiledPicture(int Width, int Height, int TileSide, string Extension)
{
    /// <summary>The number of the scale 1:1; 0 is one pixel.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public int TopLevel => Math.Max(Width, Height) <= 1 ? 0 : System.Numerics.BitOperations.Log2((uint)(Math.Max(Width, Height) - 1)) + 1;

    /// <summary>Of a difference, where its pixels are others, the largest place first; empty for any other picture.</summary>
    public IReadOnlyList<ChangedPlace> Places { get; init; } = [];

    /// <summary>Of a difference, how many pixels are others.</summary>
    public long Differing { get; init; }

    /// <summary>Whether it is a difference.</summary>
    public bool IsDifference { get; init; }
}
