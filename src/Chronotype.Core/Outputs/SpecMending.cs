using Chronotype.Core.Content;
using Chronotype.Core.Structure;

namespace Chronotype.Core.Outputs;

/// <summary>What a file that is off its project's spec is converted by, so that it is not any more.</summary>
public static class SpecMending
{
    /// <summary>The key of the recipes that mend.</summary>
    public const string Key = "spec";

    // Two pictures of proportions this near to one another are one another's, rounded to pixels.
    private const double SameProportions = 0.005;

    /// <param name="format">Of the file.</param>
    /// <param name="file">What was read in it.</param>
    /// <param name="spec">What it must be.</param>
    /// <param name="points">What of it is off; at least one.</param>
    /// <returns>
    /// Null where only the program that made it can: it has layers or outlines that would be lost, is coded, or would be bent or cut.
    /// </returns>
    public static Recipe? Of(FileFormat format, FileMeasures file, ProjectSpec spec, IReadOnlyList<SpecPoint> points) =>
        format switch
        {
            _ when SoundRecipe.Same(format) is { } same => Sound(same, file, spec, points),
            FileFormat.Png or FileFormat.Tiff or FileFormat.Jpeg or FileFormat.WebP => Picture(format, file, spec, points),
            _ => null,
        };

    private static Recipe? Sound(SoundFile kind, FileMeasures file, ProjectSpec spec, IReadOnlyList<SpecPoint> points)
    {
        if (points.Any(p => p is not (SpecPoint.SampleRate or SpecPoint.Bits or SpecPoint.Channels)))
            return null;
        // Nothing is taken away that was there: a sample keeps its bits, and gets more where they are asked for.
        var bits = Math.Max(file.Bits ?? 0, points.Contains(SpecPoint.Bits) ? spec.Sound!.Bits ?? 0 : 0);
        return Legal(
            new Recipe(Key, "The project’s spec")
            {
                Sound = new SoundRecipe(kind)
                {
                    SampleRate = points.Contains(SpecPoint.SampleRate) ? spec.Sound!.SampleRate : null,
                    Bits = bits <= 16 ? 16 : 24,
                    Channels = points.Contains(SpecPoint.Channels) ? spec.Sound!.Channels : null,
                },
            },
            // More bits than are made here, and samples that are no whole numbers, would lose something.
            bits <= 24
        );
    }

    private static Recipe? Picture(FileFormat format, FileMeasures file, ProjectSpec spec, IReadOnlyList<SpecPoint> points)
    {
        if (
            points.Any(p => p is not (SpecPoint.PixelSize or SpecPoint.Resolution or SpecPoint.Colour or SpecPoint.Depth))
            || file is not { Width: { } width, Height: { } height }
        )
            return null;
        var wanted = spec.Picture!;
        var (across, down) = points.Contains(SpecPoint.PixelSize) ? (wanted.Width ?? width, wanted.Height ?? height) : (width, height);
        // Of other proportions it would be bent, or cut; and pixels that are made up are none.
        var isSameShape = Math.Abs((double)across / down / ((double)width / height) - 1) <= SameProportions;
        var depth = Math.Max(file.Depth ?? 8, points.Contains(SpecPoint.Depth) ? wanted.Depth ?? 8 : 8);
        var colour = points.Contains(SpecPoint.Colour)
            ? wanted.Colour switch
            {
                ColourModel.Rgb => PictureColour.Srgb,
                ColourModel.Grey => PictureColour.Grey,
                _ => (PictureColour?)null,
            }
            : PictureColour.Kept;
        var kind = format switch
        {
            FileFormat.Png => PictureFile.Png,
            FileFormat.Jpeg => PictureFile.Jpeg,
            FileFormat.WebP => PictureFile.WebP,
            _ => PictureFile.Tiff,
        };
        double? dense = points.Contains(SpecPoint.Resolution) ? wanted.Resolution : file.Resolution;
        var isResized = (across, down) != (width, height);
        return Legal(
            new Recipe(Key, "The project’s spec")
            {
                Picture = new PictureRecipe(kind)
                {
                    Size = isResized || points.Contains(SpecPoint.Resolution) ? new(across, down, "px", dense) : null,
                    Fit = PictureFit.Fill,
                    Colour = colour ?? PictureColour.Kept,
                    Depth = depth <= 8 ? 8 : 16,
                    Quality = kind is PictureFile.Jpeg or PictureFile.WebP ? 95 : null,
                    KeepsMetadata = true,
                },
            },
            isSameShape && across <= width && colour is not null && depth <= 16
        );
    }

    private static Recipe? Legal(Recipe recipe, bool isPossible) => isPossible && RecipeRules.Check(recipe).Count == 0 ? recipe : null;
}
