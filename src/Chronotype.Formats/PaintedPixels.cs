using System.Buffers.Binary;
using System.IO.Hashing;
using System.Security.Cryptography;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>What of a picture is painted.</summary>
/// <param name="Bounds">The smallest box that holds it, within the picture; null where all is transparent.</param>
/// <param name="Area">Pixels that are not wholly transparent.</param>
/// <param name="Hash">Equal for the same painted pixels wherever in the picture they stand; null where there are none.</param>
internal sealed record PaintedPixels(PixelBox? Bounds, long Area, ContentHash? Hash)
{
    public static PaintedPixels Of(PixelRows rows, CancellationToken cancel)
    {
        var size = rows.PixelBytes;
        var told = new List<(int Y, int From, int To, UInt128 Hash)>();
        long area = 0;
        for (var y = 0; y < rows.Height; y++)
        {
            if ((y & 255) == 0)
                cancel.ThrowIfCancellationRequested();
            var row = rows.Row(y);
            // Wholly transparent pixels are zero, so the first and the last byte that are not stand in painted ones.
            var from = row.IndexOfAnyExcept((byte)0) / size;
            if (row.IndexOfAnyExcept((byte)0) < 0)
                continue;
            var to = row.LastIndexOfAnyExcept((byte)0) / size + 1;
            var painted = row[(from * size)..(to * size)];
            area += Painted(painted, rows.IsDeep);
            told.Add((y, from, to, XxHash128.HashToUInt128(painted)));
        }
        if (told.Count == 0)
            return new PaintedPixels(null, 0, null);
        var (left, right) = (told.Min(r => r.From), told.Max(r => r.To));
        var bounds = new PixelBox(left, told[0].Y, right - left, told[^1].Y + 1 - told[0].Y);
        using var sha = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        Span<byte> line = stackalloc byte[12 + 16];
        foreach (var (y, from, to, hash) in told)
        {
            BinaryPrimitives.WriteInt32LittleEndian(line, y - bounds.Y);
            BinaryPrimitives.WriteInt32LittleEndian(line[4..], from - left);
            BinaryPrimitives.WriteInt32LittleEndian(line[8..], to - from);
            BinaryPrimitives.WriteUInt128LittleEndian(line[12..], hash);
            sha.AppendData(line);
        }
        return new PaintedPixels(bounds, area, ContentHash.FromDigest(sha.GetHashAndReset()));
    }

    /// <summary>How many pixels of a run are not wholly transparent.</summary>
    public static int Painted(ReadOnlySpan<byte> pixels, bool isDeep)
    {
        var count = 0;
        if (isDeep)
        {
            foreach (var pixel in System.Runtime.InteropServices.MemoryMarshal.Cast<byte, ulong>(pixels))
                count += pixel >> 48 != 0 ? 1 : 0;
        }
        else
        {
            foreach (var pixel in System.Runtime.InteropServices.MemoryMarshal.Cast<byte, uint>(pixels))
                count += pixel >> 24 != 0 ? 1 : 0;
        }
        return count;
    }
}
