using Chronotype.Core.Content;
using NetVips;

namespace Chronotype.Formats;

/// <summary>What is asked of the picture library, in one place: measure, draw small, compare.</summary>
internal static class Pictures
{
    static Pictures()
    {
        // Hostile files come here: every loader stays shut but those of the formats that are read. Nothing is cached.
        Operation.Block("VipsForeignLoad", true);
        foreach (var loader in new[] { "Png", "Jpeg", "Tiff", "Webp", "Nsgif", "Svg" })
            Operation.Block($"VipsForeignLoad{loader}", false);
        Cache.Max = 0;
    }

    /// <summary>Reads the header only.</summary>
    /// <exception cref="UnreadableFileException">It is no picture that can be read.</exception>
    public static (int Width, int Height, int Pages) Measure(Stream content) =>
        Guard(() =>
        {
            content.Position = 0;
            using var image = Image.NewFromStream(content, access: Enums.Access.Sequential);
            return (image.Width, image.Height, image.Contains("n-pages") ? (int)image.Get("n-pages") : 1);
        });

    /// <summary>What the header says of a flat picture.</summary>
    /// <exception cref="UnreadableFileException">It is no picture that can be read.</exception>
    public static PictureFacts Describe(Stream content, FileFormat format) =>
        Guard(() =>
        {
            content.Position = 0;
            using var image = Image.NewFromStream(content, access: Enums.Access.Sequential);
            var pages = Number(image, "n-pages") ?? 1;
            return new PictureFacts(image.Width, image.Height, pages)
            {
                // The library tells pixels a millimetre, and 1 where it knows nothing.
                Resolution =
                    image.Xres is > 0 and not 1 and var dense && double.IsFinite(dense) && WrittenResolution.Is(content, format, image)
                        ? Math.Round(dense * 25.4, 2)
                        : null,
                Colour = image.Interpretation switch
                {
                    Enums.Interpretation.Bw or Enums.Interpretation.Grey16 => ColourModel.Grey,
                    Enums.Interpretation.Srgb or Enums.Interpretation.Rgb or Enums.Interpretation.Rgb16 or Enums.Interpretation.Scrgb =>
                        ColourModel.Rgb,
                    Enums.Interpretation.Cmyk => ColourModel.Cmyk,
                    Enums.Interpretation.Lab or Enums.Interpretation.Labs or Enums.Interpretation.Labq => ColourModel.Lab,
                    _ => ColourModel.Other,
                },
                Depth = Number(image, "bits-per-sample") ?? Number(image, "palette-bit-depth") ?? Bits(image.Format),
                Profile = image.Contains("icc-profile-data") ? ColourProfile.Name((byte[])image.Get("icc-profile-data")) : null,
                HasAlpha = image.HasAlpha(),
                Seconds = pages > 1 && image.Contains("delay") ? ((int[])image.Get("delay")).Sum(d => Math.Max(0L, d)) / 1000.0 : null,
            };
        });

    private static int? Number(Image image, string field) => image.Contains(field) ? (int)image.Get(field) : null;

    private static int Bits(Enums.BandFormat format) =>
        format switch
        {
            Enums.BandFormat.Uchar or Enums.BandFormat.Char => 8,
            Enums.BandFormat.Ushort or Enums.BandFormat.Short => 16,
            Enums.BandFormat.Double => 64,
            _ => 32,
        };

    public static (int Width, int Height) Measure(byte[] content) =>
        Guard(() =>
        {
            using var image = Image.NewFromBuffer(content, access: Enums.Access.Sequential);
            return (image.Width, image.Height);
        });

    /// <summary>Reads every pixel and throws them away, so that damage anywhere is found.</summary>
    public static void Check(Stream content) =>
        Guard(() =>
        {
            content.Position = 0;
            using var image = Image.NewFromStream(content, access: Enums.Access.Sequential, failOn: Enums.FailOn.Truncated);
            return image.Avg();
        });

    /// <summary>
    /// Draws a flat picture into a WebP whose longer side has at most <paramref name="side"/> pixels, in sRGB, never enlarged.
    /// </summary>
    public static byte[] Shrink(Stream content, int side) =>
        Guard(() =>
        {
            content.Position = 0;
            using var small = Image.ThumbnailStream(content, side, height: side, size: Enums.Size.Down);
            return Encode(small);
        });

    public static byte[] ShrinkSvg(byte[] svg, int side) =>
        Guard(() =>
        {
            using var drawn = Svg(svg, side);
            return Encode(drawn);
        });

    /// <summary>An SVG drawn to fill a square of <paramref name="side"/> pixels.</summary>
    public static Image Svg(byte[] svg, int side)
    {
        double width,
            height;
        using (var header = Image.SvgloadBuffer(svg))
        {
            (width, height) = (header.Width, header.Height);
        }
        var scale = Math.Min(Math.Clamp(side / Math.Max(width, height), 0.0001, 100), 100);
        return Image.SvgloadBuffer(svg, scale: scale);
    }

    /// <summary>The share of the joint area of two pictures, laid over one another from their left upper corners, that differs.</summary>
    /// <param name="first">Goes with this.</param>
    /// <param name="second">Goes with this.</param>
    /// <returns>The share from 0 to 1, and the joint area in pixels.</returns>
    public static (double Share, long Area) Difference(Image first, Image second)
    {
        var isDeep = first.Format != Enums.BandFormat.Uchar || second.Format != Enums.BandFormat.Uchar;
        using var a = new PixelRows(first, isDeep);
        using var b = new PixelRows(second, isDeep);
        var area = (long)Math.Max(a.Width, b.Width) * Math.Max(a.Height, b.Height);
        return ((double)PixelDifference.Of(a, default, b, default).Differing / area, area);
    }

    /// <summary>In pixels.</summary>
    /// <param name="page">From 0.</param>
    public static long PageArea(Stream content, int page) =>
        Guard(() =>
        {
            using var image = Page(content, page);
            return (long)image.Width * image.Height;
        });

    /// <summary>One page as <see cref="Shrink(Stream, int)"/> draws a picture.</summary>
    /// <param name="page">From 0.</param>
    public static byte[] ShrinkPage(Stream content, int page, int side) =>
        Guard(() =>
        {
            using var whole = Page(content, page);
            if (Limits.TooLarge(whole.Width, whole.Height) is { } fault)
                throw new UnreadableFileException(fault);
            using var small = whole.ThumbnailImage(side, height: side, size: Enums.Size.Down);
            return Encode(small);
        });

    /// <summary>Opens one page, for reading from its first row to its last.</summary>
    public static Image Page(Stream content, int page)
    {
        content.Position = 0;
        // Only what has pages is asked for one.
        return page == 0
            ? Image.NewFromStream(content, access: Enums.Access.Sequential)
            : Image.NewFromStream(content, access: Enums.Access.Sequential, kwargs: new VOption { { "page", page } });
    }

    public static T Guard<T>(Func<T> read)
    {
        try
        {
            return read();
        }
        catch (VipsException e) when (MemoryEnded(e))
        {
            // That is no fault of the file, and whoever set the limit says what it means.
            throw new InsufficientMemoryException("The picture library ran out of memory.", e);
        }
        catch (VipsException e)
        {
            throw new UnreadableFileException(FileFaultCode.PictureUnreadable, e);
        }
    }

    private static bool MemoryEnded(VipsException e) =>
        new[] { "out of memory", "insufficient memory", "cannot allocate", "could not allocate", "unable to allocate" }.Any(w =>
            e.Message.Contains(w, StringComparison.OrdinalIgnoreCase)
        );

    private static byte[] Encode(Image image)
    {
        using var srgb = image.Interpretation is Enums.Interpretation.Srgb or Enums.Interpretation.Bw
            ? image.Copy()
            : image.Colourspace(Enums.Interpretation.Srgb);
        return srgb.WebpsaveBuffer(q: 86, effort: 2, keep: Enums.ForeignKeep.None);
    }
}
