using Chronotype.Core.Content;

namespace Chronotype.Core.Comparing;

/// <summary>A place of a picture where pixels differ.</summary>
/// <param name="Box">The smallest box of cells that holds it.</param>
/// <param name="Pixels">How many pixels of it differ.</param>
public sealed record ChangedPlace(PixelBox Box, long Pixels);

/// <summary>
/// Finds the places where two pictures differ: pixels are counted in cells of a grid as they come, and cells that touch, or nearly do,
/// are one place. So a brush stroke is one place and not a thousand specks, on a picture of any size, in little memory.
/// </summary>
public sealed class ChangedPlaces
{
    // So many cells along the longer side; a cell is small beside what a person sees of a whole picture.
    private const int CellsAlong = 384,
        LeastCell = 4,
        Near = 3;

    private readonly int width,
        height,
        side,
        across,
        down;

    private readonly int[] counts;

    /// <param name="width">Pixels, at least 1.</param>
    /// <param name="height">As <paramref name="width"/>.</param>
    public ChangedPlaces(int width, int height)
    {
        (this.width, this.height) = (width, height);
        side = Math.Max(LeastCell, (Math.Max(width, height) + CellsAlong - 1) / CellsAlong);
        (across, down) = ((width + side - 1) / side, (height + side - 1) / side);
        counts = new int[across * down];
    }

    /// <summary>Counts a pixel that differs.</summary>
    /// <param name="x">From 0 to below the width.</param>
    /// <param name="y">From 0 to below the height.</param>
    public void Mark(int x, int y) => counts[y / side * across + x / side]++;

    /// <param name="most">Where there are more places than this, nearer ones are taken together until there are not.</param>
    /// <returns>The largest first, by the pixels that differ.</returns>
    public IReadOnlyList<ChangedPlace> Find(int most)
    {
        for (var reach = Near; ; reach *= 2)
        {
            var places = Joined(reach);
            if (places.Count <= most || reach >= Math.Max(across, down))
                return [.. places.OrderByDescending(p => p.Pixels).ThenBy(p => p.Box.Y).ThenBy(p => p.Box.X)];
        }
    }

    // Cells at most so many steps apart belong together: they meet in one coarse cell, or in two that touch.
    private List<ChangedPlace> Joined(int reach)
    {
        var (wide, high) = ((across + reach - 1) / reach, (down + reach - 1) / reach);
        var coarse = new Dictionary<int, (int Left, int Top, int Right, int Bottom, long Pixels)>();
        for (var i = 0; i < counts.Length; i++)
        {
            if (counts[i] == 0)
                continue;
            var (x, y) = (i % across, i / across);
            var key = y / reach * wide + x / reach;
            coarse[key] = coarse.TryGetValue(key, out var c)
                ? (Math.Min(c.Left, x), Math.Min(c.Top, y), Math.Max(c.Right, x), Math.Max(c.Bottom, y), c.Pixels + counts[i])
                : (x, y, x, y, counts[i]);
        }
        var places = new List<ChangedPlace>();
        var open = new Stack<int>();
        while (coarse.Count > 0)
        {
            var (left, top, right, bottom, pixels) = (int.MaxValue, int.MaxValue, 0, 0, 0L);
            open.Push(coarse.Keys.First());
            while (open.TryPop(out var key))
            {
                if (!coarse.Remove(key, out var cell))
                    continue;
                (left, top, right, bottom) = (
                    Math.Min(left, cell.Left),
                    Math.Min(top, cell.Top),
                    Math.Max(right, cell.Right),
                    Math.Max(bottom, cell.Bottom)
                );
                pixels += cell.Pixels;
                var (x, y) = (key % wide, key / wide);
                for (var v = Math.Max(0, y - 1); v <= Math.Min(high - 1, y + 1); v++)
                {
                    for (var u = Math.Max(0, x - 1); u <= Math.Min(wide - 1, x + 1); u++)
                        open.Push(v * wide + u);
                }
            }
            places.Add(new ChangedPlace(Box(left, top, right, bottom), pixels));
        }
        return places;
    }

    private PixelBox Box(int left, int top, int right, int bottom) =>
        new(left * side, top * side, Math.Min(width, (right + 1) * side) - left * side, Math.Min(height, (bottom + 1) * side) - top * side);
}
