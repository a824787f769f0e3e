using System.Runtime.InteropServices;
using Chronotype.Core.Content;
using NetVips;

namespace Chronotype.Formats;

/// <summary>
/// A picture's pixels from its first row to its last, so that one of any size needs the memory of a few rows: red, green, blue and alpha,
/// of one byte or of two. What is wholly transparent is zero, whatever colour it hides.
/// </summary>
internal sealed class PixelRows : IDisposable
{
    // So many bytes of rows are fetched at a time.
    private const int StripBytes = 1 << 20;

    private readonly List<Image> chain = [];
    private readonly Region region;
    private readonly int stripRows;
    private byte[] strip = [];
    private int first,
        end;

    /// <param name="opened">Goes with this.</param>
    /// <param name="deep">Two bytes a channel, whatever the picture has.</param>
    /// <exception cref="UnreadableFileException">It is more than is read.</exception>
    public PixelRows(Image opened, bool deep = false)
    {
        chain.Add(opened);
        try
        {
            if (Limits.TooLarge(opened.Width, opened.Height) is { } fault)
                throw new UnreadableFileException(fault);
            IsDeep = deep || opened.Format != Enums.BandFormat.Uchar;
            var space = IsDeep ? Enums.Interpretation.Rgb16 : Enums.Interpretation.Srgb;
            var image = opened;
            if (image.Interpretation != space || image.Bands < 3)
                image = Then(image.Colourspace(space));
            if (!image.HasAlpha())
                image = Then(image.Bandjoin(IsDeep ? ushort.MaxValue : byte.MaxValue));
            if (image.Bands > 4)
                image = Then(image.ExtractBand(0, n: 4));
            if (image.Format != (IsDeep ? Enums.BandFormat.Ushort : Enums.BandFormat.Uchar))
                image = Then(image.Cast(IsDeep ? Enums.BandFormat.Ushort : Enums.BandFormat.Uchar));
            (Width, Height) = (image.Width, image.Height);
            stripRows = Math.Clamp(StripBytes / (Width * PixelBytes), 1, Height);
            region = Region.New(image);
        }
        catch
        {
            Dispose();
            throw;
        }
    }

    public int Width { get; }

    public int Height { get; }

    /// <summary>Two bytes a channel.</summary>
    public bool IsDeep { get; }

    public int PixelBytes => IsDeep ? 8 : 4;

    /// <summary>One row; each is asked for after the ones above it.</summary>
    public Span<byte> Row(int y)
    {
        if (y < first || y >= end)
        {
            (first, end) = (y, Math.Min(Height, y + stripRows));
            strip = region.Fetch(0, first, Width, end - first);
            if (IsDeep)
                Blank(MemoryMarshal.Cast<byte, ulong>(strip.AsSpan()), 0xFFFF_0000_0000_0000);
            else
                Blank(MemoryMarshal.Cast<byte, uint>(strip.AsSpan()), 0xFF00_0000);
        }
        return strip.AsSpan((y - first) * Width * PixelBytes, Width * PixelBytes);
    }

    public void Dispose()
    {
        region?.Dispose();
        for (var i = chain.Count - 1; i >= 0; i--)
            chain[i].Dispose();
    }

    private Image Then(Image next)
    {
        chain.Add(next);
        return next;
    }

    private static void Blank(Span<uint> pixels, uint alpha)
    {
        for (var i = 0; i < pixels.Length; i++)
            pixels[i] = (pixels[i] & alpha) == 0 ? 0 : pixels[i];
    }

    private static void Blank(Span<ulong> pixels, ulong alpha)
    {
        for (var i = 0; i < pixels.Length; i++)
            pixels[i] = (pixels[i] & alpha) == 0 ? 0 : pixels[i];
    }
}
