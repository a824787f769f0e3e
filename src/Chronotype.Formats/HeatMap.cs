using NetVips;

namespace Chronotype.Formats;

/// <summary>Draws where two pictures differ, and how much.</summary>
internal static class HeatMap
{
    // From a little to all: violet, orange, light yellow, each brighter than the one before, so that it reads without its hues, too.
    private static readonly (int At, double R, double G, double B)[] Stops =
    [
        (0, 118, 42, 160),
        (96, 214, 72, 92),
        (176, 250, 150, 40),
        (255, 252, 246, 178),
    ];

    /// <summary>Where the two are equal the later one, dimmed and grey; where not, a colour by the largest difference of a channel.</summary>
    public static Image Draw(Image before, Image after)
    {
        var (width, height) = (Math.Max(before.Width, after.Width), Math.Max(before.Height, after.Height));
        using var a = On(before, width, height);
        using var b = On(after, width, height);
        using var differs = Largest(a, b);
        using var colours = Colours();
        using var heat = differs.Maplut(colours);
        using var seen = b.Flatten(background: [0x50, 0x50, 0x50]);
        using var grey = seen.Colourspace(Enums.Interpretation.Bw);
        using var dim = (grey * 0.28 + 12).Cast(Enums.BandFormat.Uchar);
        using var dimmed = dim.Bandjoin(dim, dim).Copy(interpretation: Enums.Interpretation.Srgb);
        using var any = differs > 0;
        return any.Ifthenelse(heat, dimmed).Copy(interpretation: Enums.Interpretation.Srgb);
    }

    /// <summary>The absolute difference of every channel: red, green, blue, and alpha.</summary>
    public static Image Absolute(Image before, Image after)
    {
        var (width, height) = (Math.Max(before.Width, after.Width), Math.Max(before.Height, after.Height));
        using var a = On(before, width, height);
        using var b = On(after, width, height);
        using var difference = Difference(a, b);
        return difference.Copy(interpretation: Enums.Interpretation.Srgb);
    }

    private static Image Difference(Image a, Image b)
    {
        using var less = a - b;
        using var size = less.Abs();
        return size.Cast(Enums.BandFormat.Uchar);
    }

    private static Image Largest(Image a, Image b)
    {
        using var difference = Difference(a, b);
        var bands = difference.Bandsplit();
        try
        {
            return bands[0].Bandrank(bands[1..], index: bands.Length - 1);
        }
        finally
        {
            foreach (var band in bands)
                band.Dispose();
        }
    }

    // Eight bits of red, green, blue and alpha, at the left upper corner of a plane; what is wholly transparent is black.
    private static Image On(Image image, int width, int height)
    {
        using var colour = image.Interpretation == Enums.Interpretation.Srgb ? image.Copy() : image.Colourspace(Enums.Interpretation.Srgb);
        using var alpha = colour.HasAlpha() ? colour.Copy() : colour.Bandjoin(255);
        using var eight = alpha.Cast(Enums.BandFormat.Uchar);
        using var shown = eight[3] > 0;
        using var seen = shown.Ifthenelse(eight, 0);
        return seen.Embed(0, 0, width, height).Copy(interpretation: Enums.Interpretation.Srgb);
    }

    private static Image Colours()
    {
        var lut = new byte[256 * 3];
        for (var i = 0; i < 256; i++)
        {
            // A small difference is lifted, so that it is seen at all.
            var level = 255 * Math.Sqrt(i / 255.0);
            var n = 1;
            while (Stops[n].At < level)
                n++;
            var (from, to) = (Stops[n - 1], Stops[n]);
            var t = (level - from.At) / (to.At - from.At);
            (lut[i * 3], lut[i * 3 + 1], lut[i * 3 + 2]) = (Mix(from.R, to.R), Mix(from.G, to.G), Mix(from.B, to.B));
            byte Mix(double p, double q) => (byte)Math.Round(p + (q - p) * t);
        }
        return Image.NewFromMemory(lut, 256, 1, 3, Enums.BandFormat.Uchar);
    }
}
