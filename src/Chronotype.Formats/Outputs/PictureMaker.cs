using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Scenes;
using Chronotype.Formats.Scenes;
using NetVips;

namespace Chronotype.Formats.Outputs;

/// <summary>Makes pictures by recipes: read from the first row to the last, so that a large print takes no more room than some rows.</summary>
internal static class PictureMaker
{
    // What an output's size is told from: so many bands of it, of so many rows each.
    private const int SampleBands = 4,
        SampleRows = 96;

    // A scene is drawn at twice its size, for smooth edges, as far as that fits into memory.
    private const long MostScenePixels = 40_000_000;

    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="profile">The colour profile of the recipe; null where it has none.</param>
    /// <param name="output">Left open.</param>
    /// <exception cref="UnreadableFileException">There is no picture in it, it cannot be read, or the profile cannot.</exception>
    public static MadeOutput Make(Stream content, PictureRecipe recipe, Stream? profile, Stream output, CancellationToken cancel)
    {
        var format = FormatList.Of(content) ?? throw new UnreadableFileException(FileFaultCode.PictureUnreadable);
        using var icc = Profile(recipe, profile);
        if (recipe.File == PictureFile.Pdf)
            return PdfPages.Make(
                Pages(content, format),
                (page, into) => Page(content, format, recipe, page, icc?.Name, into, cancel),
                recipe,
                output
            );
        var frame = Page(content, format, recipe, 0, icc?.Name, (image, frame) => Save(image, frame, recipe, output), cancel);
        return new MadeOutput(frame);
    }

    /// <summary>As <see cref="Make(Stream, PictureRecipe, Stream, Stream, CancellationToken)"/>, for about how many bytes it would have.</summary>
    public static long Estimate(Stream content, PictureRecipe recipe, Stream? profile, CancellationToken cancel)
    {
        var format = FormatList.Of(content) ?? throw new UnreadableFileException(FileFaultCode.PictureUnreadable);
        using var icc = Profile(recipe, profile);
        // A document holds its rows as PNG or as JPEG.
        var isJpeg = recipe.Quality is not null || recipe.Profile?.Space == "CMYK";
        var written = recipe.File != PictureFile.Pdf ? recipe : recipe with { File = isJpeg ? PictureFile.Jpeg : PictureFile.Png };
        long bytes = 0;
        Page(
            content,
            format,
            recipe,
            0,
            icc?.Name,
            (image, frame) =>
            {
                using var set = TemporaryFile.Open();
                if (image.Height <= 2 * SampleBands * SampleRows)
                {
                    Save(image, frame, written, set);
                    bytes = set.Length;
                    return;
                }
                // Bands of it from top to bottom.
                var bands = Enumerable
                    .Range(0, SampleBands)
                    .Select(i => image.Crop(0, (2 * i + 1) * image.Height / (2 * SampleBands) - SampleRows / 2, image.Width, SampleRows))
                    .ToArray();
                using var joined = Image.Arrayjoin(bands, across: 1);
                // Its rows can be read once only, in their order; the library's threads run ahead from one band into another.
                using var inOrder = joined.Sequential();
                Save(inOrder, frame, written, set);
                bytes = (long)((double)set.Length * image.Height / joined.Height);
                foreach (var band in bands)
                    band.Dispose();
            },
            cancel
        );
        return recipe.File == PictureFile.Pdf ? bytes * Pages(content, format) : bytes;
    }

    /// <summary>Renders one page, and gives it out while its source is open.</summary>
    private static PictureFrame Page(
        Stream content,
        IFormat format,
        PictureRecipe recipe,
        int page,
        string? icc,
        Action<Image, PictureFrame> into,
        CancellationToken cancel
    ) =>
        Pictures.Guard(() =>
        {
            var steps = new List<Image>();
            try
            {
                Image Step(Image image)
                {
                    steps.Add(image);
                    return image;
                }
                var (picture, frame) = Open(content, format, recipe, page, Step);
                using var stop = cancel.Register(() => picture.SetKill(true));
                var made = Make(picture, frame, recipe, icc, Step);
                stop.Dispose();
                using var stopped = cancel.Register(() => made.SetKill(true));
                into(made, frame);
                cancel.ThrowIfCancellationRequested();
                return frame;
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

    // The library takes profiles from files.
    private static FileStream? Profile(PictureRecipe recipe, Stream? profile)
    {
        if (recipe.Profile is null)
            return null;
        var bytes = new byte[Math.Min(profile?.Length ?? 0, ColourProfile.MaxBytes + 1)];
        if (profile is not null)
        {
            profile.Position = 0;
            profile.ReadExactly(bytes);
        }
        if (ColourProfile.Space(bytes) != recipe.Profile.Space)
            throw new UnreadableFileException(FileFaultCode.ProfileUnreadable);
        var file = TemporaryFile.Open();
        file.Write(bytes);
        file.Flush();
        return file;
    }

    private static int Pages(Stream content, IFormat format) =>
        format.Format == FileFormat.Tiff ? Math.Min(Pictures.Measure(content).Pages, Limits.Pages) : 1;

    private static (Image Picture, PictureFrame Frame) Open(
        Stream content,
        IFormat format,
        PictureRecipe recipe,
        int page,
        Func<Image, Image> step
    )
    {
        content.Position = 0;
        // What is drawn has no pixels that a region could be of but those of its own size.
        if (recipe.Region is not null && format.Format is FileFormat.Svg or FileFormat.Gltf)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
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
        if (format.Format == FileFormat.Gltf)
        {
            var told = PictureFrame.Of(PictureFrame.SceneWidth, PictureFrame.SceneHeight, null, recipe);
            return (Scene(content, told.ScaledWidth, told.ScaledHeight, step), told);
        }
        // Of what is cut short nothing is made, rather than half of it.
        var picture = step(
            format is FlatFormat
                ? Image.NewFromStream(
                    content,
                    access: Enums.Access.Sequential,
                    failOn: Enums.FailOn.Truncated,
                    kwargs: page == 0 ? null : new VOption { { "page", page } }
                )
                : format.OpenPicture(content, page, 1) ?? throw new UnreadableFileException(FileFaultCode.PictureUnreadable)
        );
        if (Limits.TooLarge(picture.Width, picture.Height) is { } fault)
            throw new UnreadableFileException(fault);
        if (recipe.Region is { } region)
        {
            var inside = region.Within(picture.Width, picture.Height) ?? throw new UnreadableFileException(FileFaultCode.OutsideOfIt);
            picture = step(picture.Crop(inside.X, inside.Y, inside.Width, inside.Height));
        }
        var dense = picture.Xres is > 0 and not 1 and var x && double.IsFinite(x) ? Math.Round(x * 25.4, 2) : (double?)null;
        return (picture, PictureFrame.Of(picture.Width, picture.Height, dense, recipe with { Region = null }));
    }

    private static Image Scene(Stream content, int width, int height, Func<Image, Image> step)
    {
        using var file = GltfFile.Open(content);
        var surfaces = GltfSurfaces.Of(file, CancellationToken.None);
        var finer = (long)width * height * 4 <= MostScenePixels ? 2 : 1;
        if (SceneRaster.Box(surfaces) is not { } box || (long)width * height > MostScenePixels)
            throw new UnreadableFileException(new FileFault(FileFaultCode.PictureTooLarge, "", width, height));
        var pixels = SceneRaster.Draw(surfaces, width * finer, height * finer, box);
        var drawn = step(Image.NewFromMemory(pixels, width * finer, height * finer, 4, Enums.BandFormat.Uchar));
        return step(drawn.Copy(interpretation: Enums.Interpretation.Srgb));
    }

    private static Image Make(Image image, PictureFrame frame, PictureRecipe recipe, string? icc, Func<Image, Image> step)
    {
        image = Coloured(image, recipe.Colour, step);
        // Paper, and JPEG, have no holes.
        var background = recipe.Background ?? (recipe.File is PictureFile.Jpeg or PictureFile.Pdf ? "#ffffff" : null);
        // What is laid beside it is transparent where nothing else is said.
        if (!image.HasAlpha() && recipe.Fit == PictureFit.Pad && background is null)
            image = step(image.AddAlpha());
        if (background is not null && image.HasAlpha())
            image = step(image.Flatten(background: Colour(background, image)[..^1]));
        image = Scaled(image, frame, step);
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
        if (icc is not null)
            image = step(
                image.IccTransform(
                    icc,
                    embedded: true,
                    inputProfile: image.Interpretation == Enums.Interpretation.Cmyk ? "cmyk" : "srgb",
                    intent: recipe.Intent switch
                    {
                        ColourIntent.Perceptual => Enums.Intent.Perceptual,
                        ColourIntent.Saturation => Enums.Intent.Saturation,
                        ColourIntent.Absolute => Enums.Intent.Absolute,
                        _ => Enums.Intent.Relative,
                    },
                    depth: recipe.Depth
                )
            );
        image = Deep(image, recipe.Depth, step);
        // A document draws its marks itself, as lines.
        return frame.Margin > 0 && recipe.File != PictureFile.Pdf ? Marked(image, frame, step) : image;
    }

    private static Image Scaled(Image image, PictureFrame frame, Func<Image, Image> step)
    {
        if (image.Width == frame.ScaledWidth && image.Height == frame.ScaledHeight)
            return image;
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
        return image.Format == bands ? image : step(image.Cast(bands));
    }

    private static Image Marked(Image image, PictureFrame frame, Func<Image, Image> step)
    {
        var full = image.Format == Enums.BandFormat.Ushort ? 65_535.0 : 255;
        var isCmyk = image.Interpretation == Enums.Interpretation.Cmyk;
        // Paper is no ink; a mark is in every ink, so that each plate has it.
        double[] Ink(double value)
        {
            var bands = Enumerable.Repeat(value, image.Bands).ToArray();
            if (image.HasAlpha())
                bands[^1] = full;
            return bands;
        }
        var (paper, mark) = (Ink(isCmyk ? 0 : full), Ink(isCmyk ? full : 0));
        image = step(
            image.Embed(frame.Margin, frame.Margin, frame.WholeWidth, frame.WholeHeight, extend: Enums.Extend.Background, background: paper)
        );
        foreach (var (x, y, width, height) in frame.Marks())
        {
            using var ink = image.NewFromImage(mark);
            var line = step(ink.Crop(0, 0, width, height));
            image = step(image.Insert(line, x, y));
        }
        return image;
    }

    private static Image Coloured(Image image, PictureColour colour, Func<Image, Image> step)
    {
        var isDeep = image.Format == Enums.BandFormat.Ushort;
        if (colour is PictureColour.Kept or PictureColour.Profile)
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
