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
        foreach (var loader in new[] { "Png", "Jpeg", "Tiff", "Webp", "Svg" })
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

    /// <summary>
    /// The share of the joint area of two pictures, each at its place on one canvas, whose pixels differ.
    /// Pixels that are wholly transparent in both are equal, whatever colour they hide.
    /// </summary>
    /// <returns>The share from 0 to 1, and the joint area in pixels.</returns>
    public static (double Share, long Area) Difference(Stream first, (int X, int Y) firstAt, Stream second, (int X, int Y) secondAt) =>
        Guard(() =>
        {
            first.Position = second.Position = 0;
            using var a = Rgba(Image.NewFromStream(first, access: Enums.Access.Sequential));
            using var b = Rgba(Image.NewFromStream(second, access: Enums.Access.Sequential));
            return Difference(a, firstAt, b, secondAt);
        });

    /// <summary>The same for one page of each.</summary>
    /// <param name="page">From 0.</param>
    public static (double Share, long Area) Difference(Stream first, Stream second, int page) =>
        Guard(() =>
        {
            using var a = Rgba(Page(first, page));
            using var b = Rgba(Page(second, page));
            return Difference(a, (0, 0), b, (0, 0));
        });

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

    private static Image Page(Stream content, int page)
    {
        content.Position = 0;
        return Image.NewFromStream(content, access: Enums.Access.Sequential, kwargs: new VOption { { "page", page } });
    }

    public static (double Share, long Area) Difference(Image a, (int X, int Y) aAt, Image b, (int X, int Y) bAt)
    {
        var left = Math.Min(aAt.X, bAt.X);
        var top = Math.Min(aAt.Y, bAt.Y);
        var width = Math.Max(aAt.X + a.Width, bAt.X + b.Width) - (long)left;
        var height = Math.Max(aAt.Y + a.Height, bAt.Y + b.Height) - (long)top;
        if (Limits.TooLarge(width, height) is { } fault)
            throw new UnreadableFileException(fault);
        using var onA = a.Embed(aAt.X - left, aAt.Y - top, (int)width, (int)height);
        using var onB = b.Embed(bAt.X - left, bAt.Y - top, (int)width, (int)height);
        using var pixels = onA.NotEqual(onB);
        using var differs = pixels.BandOr();
        return (differs.Avg() / 255, width * height);
    }

    /// <summary>Eight bits a band, sRGB with premultiplied alpha, so that hidden colour does not count.</summary>
    public static Image Rgba(Image image)
    {
        if (Limits.TooLarge(image.Width, image.Height) is { } fault)
            throw new UnreadableFileException(fault);
        using var colour = image.Interpretation == Enums.Interpretation.Srgb ? image.Copy() : image.Colourspace(Enums.Interpretation.Srgb);
        using var alpha = colour.HasAlpha() ? colour.Copy() : colour.Bandjoin(255);
        using var flat = alpha.Premultiply();
        return flat.Cast(Enums.BandFormat.Uchar);
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
