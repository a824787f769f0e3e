using Chronotype.Core.Comparing;

namespace Chronotype.Formats;

/// <summary>How two pictures differ, pixel by pixel, each at its place on one plane.</summary>
/// <param name="Differing">Pixels that are others, those that only one of the two has included.</param>
/// <param name="Painted">Pixels that are not wholly transparent in at least one of the two.</param>
internal sealed record PixelDifference(long Differing, long Painted)
{
    /// <summary>From 0 to 1, of what is painted.</summary>
    public double Share => Painted == 0 ? 0 : (double)Differing / Painted;

    /// <param name="mark">Told of every pixel that differs, by its place on the plane.</param>
    public static PixelDifference Of(
        PixelRows a,
        PixelOffset aAt,
        PixelRows b,
        PixelOffset bAt,
        CancellationToken cancel = default,
        Action<int, int>? mark = null
    )
    {
        var (size, isDeep) = (a.PixelBytes, a.IsDeep);
        if (b.IsDeep != isDeep)
            throw new ArgumentException("The pixels of the two have different depths.");
        var (top, bottom) = (Math.Min(aAt.Y, bAt.Y), Math.Max(aAt.Y + a.Height, bAt.Y + b.Height));
        var (from, to) = (Math.Max(aAt.X, bAt.X), Math.Min(aAt.X + a.Width, bAt.X + b.Width));
        long differing = 0,
            painted = 0;
        // Rows between two pictures that lie far apart are in neither.
        var (gap, on) = (Math.Min(aAt.Y + a.Height, bAt.Y + b.Height), Math.Max(aAt.Y, bAt.Y));
        for (var y = top; y < bottom; y++)
        {
            if (y >= gap && y < on)
                y = on;
            if ((y & 255) == 0)
                cancel.ThrowIfCancellationRequested();
            var inA = y >= aAt.Y && y < aAt.Y + a.Height;
            var inB = y >= bAt.Y && y < bAt.Y + b.Height;
            var rowA = inA ? a.Row(y - aAt.Y) : [];
            var rowB = inB ? b.Row(y - bAt.Y) : [];
            if (!inA || !inB || from >= to)
            {
                MarkAlone(rowA, aAt.X, y);
                MarkAlone(rowB, bAt.X, y);
                var alone = PaintedPixels.Painted(rowA, isDeep) + PaintedPixels.Painted(rowB, isDeep);
                differing += alone;
                painted += alone;
                continue;
            }
            // What reaches past the other on either side, then what lies over one another.
            var outside = Outside(rowA, aAt.X, a.Width) + Outside(rowB, bAt.X, b.Width);
            differing += outside;
            painted += outside;
            if (mark is not null && outside > 0)
            {
                MarkOutside(rowA, aAt.X, a.Width, y);
                MarkOutside(rowB, bAt.X, b.Width, y);
            }
            var overA = rowA.Slice((from - aAt.X) * size, (to - from) * size);
            var overB = rowB.Slice((from - bAt.X) * size, (to - from) * size);
            if (overA.SequenceEqual(overB))
                painted += PaintedPixels.Painted(overA, isDeep);
            else
                Count(overA, overB, y);
        }
        return new PixelDifference(differing, painted);

        void MarkAlone(ReadOnlySpan<byte> row, int x, int y)
        {
            for (var i = 0; mark is not null && i < row.Length; i += size)
            {
                if (row.Slice(i, size).ContainsAnyExcept((byte)0))
                    mark(x + i / size, y);
            }
        }

        void MarkOutside(ReadOnlySpan<byte> row, int x, int width, int y)
        {
            var (left, right) = (Math.Clamp(from, x, x + width), Math.Clamp(to, x, x + width));
            MarkAlone(row[..((left - x) * size)], x, y);
            MarkAlone(row[((right - x) * size)..], right, y);
        }

        int Outside(ReadOnlySpan<byte> row, int x, int width) =>
            PaintedPixels.Painted(row[..((Math.Clamp(from, x, x + width) - x) * size)], isDeep)
            + PaintedPixels.Painted(row[((Math.Clamp(to, x, x + width) - x) * size)..], isDeep);

        void Count(ReadOnlySpan<byte> left, ReadOnlySpan<byte> right, int y)
        {
            for (var i = 0; i < left.Length; i += size)
            {
                var (p, q) = isDeep
                    ? (BitConverter.ToUInt64(left[i..]), BitConverter.ToUInt64(right[i..]))
                    : (BitConverter.ToUInt32(left[i..]), BitConverter.ToUInt32(right[i..]));
                painted += (p | q) != 0 ? 1 : 0;
                if (p == q)
                    continue;
                differing++;
                mark?.Invoke(from + i / size, y);
            }
        }
    }
}
