using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using NetVips;

namespace Chronotype.Formats.Outputs;

/// <summary>Makes pictures by recipes: read from the first row to the last, so that a large print takes no more room than some rows.</summary>
internal static class PictureMaker
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="output">Left open.</param>
    /// <exception cref="UnreadableFileException">There is no picture in it, or it cannot be read.</exception>
    public static MadeOutput Make(Stream content, PictureRecipe recipe, Stream output, CancellationToken cancel)
    {
        var format = FormatList.Of(content) ?? throw new UnreadableFileException(FileFaultCode.PictureUnreadable);
        return Pictures.Guard(() =>
        {
            var steps = new List<Image>();
            try
            {
                Image Step(Image image)
                {
                    steps.Add(image);
                    return image;
                }
                var (picture, frame) = Open(content, format, recipe, Step);
                using var stop = cancel.Register(() => picture.SetKill(true));
                var made = Make(picture, frame, recipe, Step);
                stop.Dispose();
                using var stopped = cancel.Register(() => made.SetKill(true));
                Save(made, frame, recipe, output);
                cancel.ThrowIfCancellationRequested();
                return new MadeOutput(frame);
            }
            catch (VipsException) when (cancel.IsCancellationRequested)
            {
                throw new OperationCanceledException(cancel);
            }
            finally
            {
                for (var i = steps.Count - 1; i >= 0; i--)
                    steps[i].Dispose();
            }
        });
    }

    private static (Image Picture, PictureFrame Frame) Open(Stream content, IFormat format, PictureRecipe recipe, Func<Image, Image> step)
    {
        content.Position = 0;
        if (format.Format == FileFormat.Svg)
        {
            // What has no pixels of its own is drawn at the size that is made.
            var svg = SvgFile.Read(content).Safe;
            int width,
                height;
            using (var header = Image.SvgloadBuffer(svg))
                (width, height) = (header.Width, header.Height);
            var told = PictureFrame.Of(width, height, null, recipe);
            var scale = Math.Max((double)told.ScaledWidth / width, (double)told.ScaledHeight / height);
            return (step(Image.SvgloadBuffer(svg, scale: scale, access: Enums.Access.Sequential)), told);
        }
        // Of what is cut short nothing is made, rather than half of it.
        var picture = step(
            format is FlatFormat
                ? Image.NewFromStream(content, access: Enums.Access.Sequential, failOn: Enums.FailOn.Truncated)
                : format.OpenPicture(content, 0, 1) ?? throw new UnreadableFileException(FileFaultCode.PictureUnreadable)
        );
        if (Limits.TooLarge(picture.Width, picture.Height) is { } fault)
            throw new UnreadableFileException(fault);
        var dense = picture.Xres is > 0 and not 1 and var x && double.IsFinite(x) ? Math.Round(x * 25.4, 2) : (double?)null;
        return (picture, PictureFrame.Of(picture.Width, picture.Height, dense, recipe));
    }

    private static Image Make(Image image, PictureFrame frame, PictureRecipe recipe, Func<Image, Image> step)
    {
        image = Coloured(image, recipe.Colour, step);
        var background = recipe.Background ?? (recipe.File == PictureFile.Jpeg ? "#ffffff" : null);
        // What is laid beside it is transparent where nothing else is said.
        if (!image.HasAlpha() && recipe.Fit == PictureFit.Pad && background is null)
            image = step(image.AddAlpha());
        if (background is not null && image.HasAlpha())
            image = step(image.Flatten(background: Colour(background, image)[..^1]));
        if (image.Width != frame.ScaledWidth || image.Height != frame.ScaledHeight)
        {
            var bands = image.Format;
            var hasAlpha = image.HasAlpha();
            // Colours count by how much is seen of them.
            if (hasAlpha)
                image = step(image.Premultiply());
            image = step(
                image.Resize(
                    (double)frame.ScaledWidth / image.Width,
                    kernel: Enums.Kernel.Lanczos3,
                    vscale: (double)frame.ScaledHeight / image.Height
                )
            );
            if (hasAlpha)
                image = step(image.Unpremultiply());
            if (image.Format != bands)
                image = step(image.Cast(bands));
        }
        if (recipe.Sharpen > 0 && frame.Scale < 1)
        {
            var (space, bands) = (image.Interpretation, image.Format);
            image = step(image.Sharpen(sigma: 0.5, m2: recipe.Sharpen));
            if (image.Interpretation != space)
                image = step(image.Colourspace(space));
            if (image.Format != bands)
                image = step(image.Cast(bands));
        }
        if (frame.X < 0 || frame.Y < 0)
            image = step(image.Crop(Math.Max(0, -frame.X), Math.Max(0, -frame.Y), frame.Width, frame.Height));
        else if (image.Width != frame.Width || image.Height != frame.Height)
            image = step(
                background is null
                    ? image.Embed(frame.X, frame.Y, frame.Width, frame.Height)
                    : image.Embed(
                        frame.X,
                        frame.Y,
                        frame.Width,
                        frame.Height,
                        extend: Enums.Extend.Background,
                        background: Colour(background, image)
                    )
            );
        return Deep(image, recipe.Depth, step);
    }

    private static Image Coloured(Image image, PictureColour colour, Func<Image, Image> step)
    {
        var isDeep = image.Format == Enums.BandFormat.Ushort;
        if (colour == PictureColour.Kept)
            return image.Interpretation is Enums.Interpretation.Lab or Enums.Interpretation.Labs or Enums.Interpretation.Scrgb
                ? step(image.Colourspace(isDeep ? Enums.Interpretation.Rgb16 : Enums.Interpretation.Srgb))
                : image;
        if (image.Contains("icc-profile-data") || image.Interpretation == Enums.Interpretation.Cmyk)
            image = step(image.IccTransform("srgb", embedded: true, intent: Enums.Intent.Relative, depth: isDeep ? 16 : 8));
        var space = (colour, isDeep) switch
        {
            (PictureColour.Srgb, false) => Enums.Interpretation.Srgb,
            (PictureColour.Srgb, true) => Enums.Interpretation.Rgb16,
            (_, false) => Enums.Interpretation.Bw,
            _ => Enums.Interpretation.Grey16,
        };
        return image.Interpretation == space ? image : step(image.Colourspace(space));
    }

    private static Image Deep(Image image, int depth, Func<Image, Image> step)
    {
        var isGrey = image.Interpretation is Enums.Interpretation.Bw or Enums.Interpretation.Grey16;
        if (image.Interpretation == Enums.Interpretation.Cmyk)
            return image;
        var space = (depth, isGrey) switch
        {
            (16, true) => Enums.Interpretation.Grey16,
            (16, false) => Enums.Interpretation.Rgb16,
            (_, true) => Enums.Interpretation.Bw,
            _ => Enums.Interpretation.Srgb,
        };
        return image.Interpretation == space ? image : step(image.Colourspace(space));
    }

    private static double[] Colour(string text, Image image)
    {
        var scale = image.Format == Enums.BandFormat.Ushort ? 257 : 1;
        double[] rgb = [.. Enumerable.Range(0, 3).Select(i => Convert.ToInt32(text[(1 + 2 * i)..(3 + 2 * i)], 16) * (double)scale)];
        var isGrey = image.Interpretation is Enums.Interpretation.Bw or Enums.Interpretation.Grey16;
        double[] colour = isGrey ? [0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2]] : rgb;
        return image.HasAlpha() ? [.. colour, 255.0 * scale] : colour;
    }

    private static void Save(Image image, PictureFrame frame, PictureRecipe recipe, Stream output)
    {
        // The library counts pixels a millimetre.
        using var dense = image.Copy(xres: Math.Max(frame.Resolution ?? 0, 0) / 25.4, yres: Math.Max(frame.Resolution ?? 0, 0) / 25.4);
        var keep = recipe.KeepsMetadata ? Enums.ForeignKeep.All : Enums.ForeignKeep.Icc;
        switch (recipe.File)
        {
            case PictureFile.Png:
                // A twentieth larger than the usual 6, in a third of the time.
                dense.PngsaveStream(output, compression: 3, keep: keep);
                break;
            case PictureFile.Jpeg:
                dense.JpegsaveStream(output, q: recipe.Quality ?? 92, keep: keep, optimizeCoding: true);
                break;
            case PictureFile.WebP:
                dense.WebpsaveStream(output, q: recipe.Quality ?? 86, keep: keep);
                break;
            case PictureFile.Tiff:
                dense.TiffsaveStream(
                    output,
                    compression: Enums.ForeignTiffCompression.Deflate,
                    predictor: Enums.ForeignTiffPredictor.Horizontal,
                    resunit: Enums.ForeignTiffResunit.Inch,
                    keep: keep
                );
                break;
            default:
                throw new ArgumentOutOfRangeException(nameof(recipe));
        }
    }
}
