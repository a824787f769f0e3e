using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using NetVips;

namespace Chronotype.Formats;

/// <summary>One picture of a content: the whole of it or of one page, or one of its layers by itself.</summary>
/// <param name="Content">Seekable.</param>
/// <param name="Facts">What was read in it.</param>
/// <param name="Page">Which page, from 0.</param>
/// <param name="Layer">Which of its layers; null for the whole.</param>
public sealed record PictureSource(Stream Content, FileFacts Facts, int Page = 0, int? Layer = null);

/// <summary>
/// Cuts pictures, and the difference of two, into tiles at every scale, so that a picture of any size is looked at to its last pixel by a
/// browser. Row by row: the memory that is needed grows with a picture's width, not with its area.
/// </summary>
public static class TileCutter
{
    private const int TileSide = 512,
        MostPlaces = 40,
        DrawnAt = 4096;

    // Up to here tiles are without loss; a larger picture's are JPEG of high quality, which take a quarter of the room and time.
    private const long LosslessPixels = 6_000_000;

    // The easel's grey, so that what is transparent looks as it does beside the picture.
    private static readonly double[] Easel = [0x76, 0x76, 0x74];

    /// <param name="file">Where the archive of tiles is written; it ends in <c>.zip</c>.</param>
    /// <exception cref="UnreadableFileException">There is no picture, or it is more than is drawn.</exception>
    public static TiledPicture Cut(PictureSource source, string file) =>
        Pictures.Guard(() =>
        {
            using var picture = Pixels(source, DrawnAt);
            using var flat = Flat(picture);
            return Write(flat, file);
        });

    /// <summary>The difference of two: where they are equal the later one, dimmed; where not, the brighter the more they differ.</summary>
    /// <param name="file">Where the archive of tiles is written; it ends in <c>.zip</c>.</param>
    /// <exception cref="UnreadableFileException">There is no picture, or it is more than is drawn.</exception>
    public static TiledPicture CutDifference(PictureSource before, PictureSource after, string file) =>
        Pictures.Guard(() =>
        {
            var (longA, longB) = DrawnSides(before.Facts, after.Facts);
            var places = Places(before, longA, after, longB, out var difference);
            using var a = Pixels(before, longA);
            using var b = Pixels(after, longB);
            using var heat = HeatMap.Draw(a, b);
            return Write(heat, file) with { Places = places, Differing = difference.Differing, IsDifference = true };
        });

    /// <summary>The absolute difference of every channel of two pictures, as a PNG.</summary>
    /// <exception cref="UnreadableFileException">There is no picture, or it is more than is drawn.</exception>
    public static void WriteDifference(PictureSource before, PictureSource after, string file) =>
        WriteBoth(before, after, HeatMap.Absolute, file);

    /// <summary>What <see cref="CutDifference"/> draws, as a PNG.</summary>
    /// <exception cref="UnreadableFileException">There is no picture, or it is more than is drawn.</exception>
    public static void WriteHeat(PictureSource before, PictureSource after, string file) => WriteBoth(before, after, HeatMap.Draw, file);

    private static void WriteBoth(PictureSource before, PictureSource after, Func<Image, Image, Image> draw, string file) =>
        Pictures.Guard(() =>
        {
            var (longA, longB) = DrawnSides(before.Facts, after.Facts);
            using var a = Pixels(before, longA);
            using var b = Pixels(after, longB);
            using var drawn = draw(a, b);
            drawn.WriteToFile(file);
            return true;
        });

    // Drawings have no pixels of their own: both are drawn at one scale.
    private static (int A, int B) DrawnSides(FileFacts before, FileFacts after)
    {
        static int Longest(FileFacts facts) => Math.Max(1, Math.Max(facts.Picture?.Width ?? 1, facts.Picture?.Height ?? 1));
        var (a, b) = (Longest(before), Longest(after));
        var longest = Math.Max(a, b);
        return (Math.Max(1, (int)((long)DrawnAt * a / longest)), Math.Max(1, (int)((long)DrawnAt * b / longest)));
    }

    private static IReadOnlyList<ChangedPlace> Places(
        PictureSource before,
        int longA,
        PictureSource after,
        int longB,
        out PixelDifference difference
    )
    {
        var (left, right) = (Pixels(before, longA), Pixels(after, longB));
        var isDeep = left.Format != Enums.BandFormat.Uchar || right.Format != Enums.BandFormat.Uchar;
        using var a = new PixelRows(left, isDeep);
        using var b = new PixelRows(right, isDeep);
        var places = new ChangedPlaces(Math.Max(a.Width, b.Width), Math.Max(a.Height, b.Height));
        difference = PixelDifference.Of(a, default, b, default, mark: places.Mark);
        return places.Find(MostPlaces);
    }

    private static Image Pixels(PictureSource source, int longest)
    {
        var format = FormatList.Of(source.Facts.Format);
        Image? image;
        if (source.Layer is { } index)
        {
            if (index < 0 || index >= source.Facts.Layers.Count)
                throw new UnreadableFileException(FileFaultCode.NoLayers);
            image = format?.OpenLayers(source.Content)?.OpenOnCanvas(source.Facts.Layers[index], source.Facts.Picture!, longest);
        }
        else
            image = format?.OpenPicture(source.Content, source.Page, longest);
        if (image is null)
            throw new UnreadableFileException(FileFaultCode.PictureUnreadable);
        if (Limits.TooLarge(image.Width, image.Height) is not { } fault)
            return image;
        image.Dispose();
        throw new UnreadableFileException(fault);
    }

    private static Image Flat(Image picture)
    {
        using var colour =
            picture.Interpretation == Enums.Interpretation.Srgb ? picture.Copy() : picture.Colourspace(Enums.Interpretation.Srgb);
        return colour.HasAlpha() ? colour.Flatten(background: Easel) : colour.Copy();
    }

    private static TiledPicture Write(Image picture, string file)
    {
        var isSmall = (long)picture.Width * picture.Height <= LosslessPixels;
        var extension = isSmall ? ".png" : ".jpg";
        try
        {
            picture.Dzsave(
                file,
                layout: Enums.ForeignDzLayout.Dz,
                suffix: isSmall ? ".png[compression=3]" : ".jpg[Q=92,subsample_mode=off]",
                tileSize: TileSide,
                overlap: 0,
                depth: Enums.ForeignDzDepth.Onepixel,
                container: Enums.ForeignDzContainer.Zip,
                keep: Enums.ForeignKeep.None
            );
        }
        catch
        {
            File.Delete(file);
            throw;
        }
        return new TiledPicture(picture.Width, picture.Height, TileSide, extension);
    }
}
