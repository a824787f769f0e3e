using Chronotype.Core.Content;

namespace Chronotype.Core.Outputs;

/// <summary>What an output does not have of what its version has.</summary>
public enum Loss
{
    /// <summary>Layers become one. <see cref="GivenUp.Was"/>: how many.</summary>
    Layers,

    /// <summary>All but some layers. <see cref="GivenUp.Now"/>: how many are in it; <see cref="GivenUp.Names"/>: which were asked for.</summary>
    LayersLeftOut,

    /// <summary>Texts can no longer be edited. <see cref="GivenUp.Was"/>: how many; <see cref="GivenUp.Names"/>: which.</summary>
    Texts,

    /// <summary>Texts become outlines where their typeface is at hand, and can no longer be edited then. As <see cref="Texts"/>.</summary>
    TextsOutlined,

    /// <summary>What was drawn becomes pixels.</summary>
    Outlines,

    /// <summary>What is transparent is laid on a background.</summary>
    Transparency,

    /// <summary>Bits a channel, or a sample.</summary>
    Depth,

    /// <summary>Colours become greys.</summary>
    Colour,

    /// <summary>Colours are told by another profile.</summary>
    Profile,

    /// <summary>Pixels: the longer side, in pixels.</summary>
    Pixels,

    /// <summary>It is enlarged, which adds nothing. <see cref="GivenUp.Was"/>: pixels an inch that the picture has at this size.</summary>
    Detail,

    /// <summary>What lies beyond the size. <see cref="GivenUp.Now"/>: the share that is left.</summary>
    Edges,

    /// <summary>Small differences, by how the format is written.</summary>
    Compression,

    /// <summary>Pages other than the first. <see cref="GivenUp.Was"/>: how many.</summary>
    Pages,

    /// <summary>Frames a second.</summary>
    SampleRate,

    /// <summary>Channels.</summary>
    Channels,

    /// <summary>Seconds.</summary>
    Time,

    /// <summary>What is hardly heard is left out. <see cref="GivenUp.Now"/>: thousands of bits a second; 0 for a usual number.</summary>
    Coding,

    /// <summary>Pictures are not drawn at all. <see cref="GivenUp.Was"/>: how many; <see cref="GivenUp.Names"/>: which.</summary>
    PicturesLeftOut,

    /// <summary>Curves become straight pieces, and colours and widths of lines are gone. <see cref="GivenUp.Now"/>: how far off at most, in millimetres.</summary>
    Curves,
}

/// <summary>One thing that an output gives up.</summary>
/// <param name="Loss">What.</param>
/// <param name="Was">In the version.</param>
/// <param name="Now">In the output.</param>
public sealed record GivenUp(Loss Loss, double Was = 0, double Now = 0)
{
    /// <summary>What it is about, by name. Not trusted.</summary>
    public IReadOnlyList<string> Names { get; init; } = [];

    /// <summary>Tells from what was read in a version what an output by a recipe gives up.</summary>
    /// <param name="facts">Of the version.</param>
    /// <param name="recipe">Without faults.</param>
    /// <returns>In the order in which it matters; null where the recipe makes nothing of such a file.</returns>
    public static IReadOnlyList<GivenUp>? Of(FileFacts facts, Recipe recipe)
    {
        if (recipe.Layers.Count == 0)
            return OfAll(facts, recipe);
        if (FileParts.Find(facts, recipe.Layers) is not { } chosen)
            return null;
        var all = FileParts.Of(facts).Count;
        return OfAll(FileParts.With(facts, chosen), recipe) is not { } losses ? null
            : chosen.Count == all ? losses
            : [new(Loss.LayersLeftOut, all, chosen.Count) { Names = recipe.Layers }, .. losses];
    }

    private static List<GivenUp>? OfAll(FileFacts facts, Recipe recipe) =>
        recipe switch
        {
            { Picture: { } picture } when PictureFrame.Seen(facts) is { } seen => Of(facts, seen, picture),
            { Sound: { } sound } when facts.Sound is { } heard => Of(heard, sound),
            { Drawing: { } drawing } when facts.Format == FileFormat.Svg => Of(facts, drawing),
            { IsPacked: true } when facts.Scene is not null || facts.Timeline is not null => [],
            _ => null,
        };

    private static List<GivenUp> Of(FileFacts facts, DrawingRecipe drawing)
    {
        var losses = new List<GivenUp>();
        var texts = facts.Layers.Where(l => l.Kind == LayerKind.Text).Select(l => l.Name).ToList();
        if (texts.Count > 0 && drawing.OutlinesTexts)
            losses.Add(new(Loss.TextsOutlined, texts.Count) { Names = texts });
        if (drawing.File == DrawingFile.Svg)
            return losses;
        var pictures = facts.Layers.Where(l => l.Kind == LayerKind.Picture).Select(l => l.Name).ToList();
        if (pictures.Count > 0)
            losses.Add(new(Loss.PicturesLeftOut, pictures.Count) { Names = pictures });
        losses.Add(new(Loss.Curves, 0, drawing.Tolerance));
        return losses;
    }

    private static List<GivenUp> Of(FileFacts facts, PictureFacts seen, PictureRecipe recipe)
    {
        var losses = new List<GivenUp>();
        var isDrawn = facts.Format == FileFormat.Svg || facts.Scene is not null;
        var frame = PictureFrame.Of(seen.Width, seen.Height, seen.Resolution, recipe);
        if (facts.LayerCount > 1)
            losses.Add(new(Loss.Layers, facts.LayerCount, 1));
        var texts = facts.Layers.Where(l => l.Kind == LayerKind.Text).Select(l => l.Name).ToList();
        if (texts.Count > 0)
            losses.Add(new(Loss.Texts, texts.Count) { Names = texts });
        if (isDrawn)
            losses.Add(new(Loss.Outlines));
        if (seen.Pages > 1 && recipe.File != PictureFile.Pdf)
            losses.Add(new(Loss.Pages, seen.Pages, 1));
        if ((seen.HasAlpha || isDrawn) && (recipe.File is PictureFile.Jpeg or PictureFile.Pdf || recipe.Background is not null))
            losses.Add(new(Loss.Transparency));
        if (seen.Depth is { } depth && depth > recipe.Depth)
            losses.Add(new(Loss.Depth, depth, recipe.Depth));
        if (recipe.Colour == PictureColour.Grey && seen.Colour != ColourModel.Grey)
            losses.Add(new(Loss.Colour));
        else if (recipe.Profile is { } into && into.Name != seen.Profile)
            losses.Add(new(Loss.Profile) { Names = [into.Name] });
        else if (
            recipe.Colour == PictureColour.Srgb
            && seen.Profile is { } profile
            && !profile.Contains("sRGB", StringComparison.OrdinalIgnoreCase)
        )
            losses.Add(new(Loss.Profile) { Names = ["sRGB"] });
        var left = (double)Math.Min(frame.ScaledWidth, frame.Width) * Math.Min(frame.ScaledHeight, frame.Height);
        var whole = (double)frame.ScaledWidth * frame.ScaledHeight;
        if (recipe.Region?.Within(seen.Width, seen.Height) is { } region)
            whole *= (double)seen.Width * seen.Height / ((double)region.Width * region.Height);
        if (left < whole)
            losses.Add(new(Loss.Edges, 1, left / whole));
        if (!isDrawn && frame.Scale < 1)
            losses.Add(new(Loss.Pixels, Math.Max(seen.Width, seen.Height), Math.Max(frame.ScaledWidth, frame.ScaledHeight)));
        else if (!isDrawn && frame.Scale > 1)
            losses.Add(new(Loss.Detail, frame.Resolution is { } dense ? Math.Round(dense / frame.Scale) : 0, frame.Resolution ?? 0));
        if (recipe.File is PictureFile.Jpeg or PictureFile.WebP || (recipe.File == PictureFile.Pdf && recipe.Quality is not null))
            losses.Add(new(Loss.Compression));
        return losses;
    }

    private static List<GivenUp> Of(SoundFacts heard, SoundRecipe recipe)
    {
        var losses = new List<GivenUp>();
        if (recipe.SampleRate < heard.SampleRate)
            losses.Add(new(Loss.SampleRate, heard.SampleRate, recipe.SampleRate.Value));
        var bits = recipe.Bits ?? 24;
        if (heard.Bits > bits || (heard.IsFloat && bits <= 24))
            losses.Add(new(Loss.Depth, heard.Bits, bits));
        if (recipe.Channels < heard.Channels)
            losses.Add(new(Loss.Channels, heard.Channels, recipe.Channels.Value));
        if (recipe.IsCoded)
            losses.Add(new(Loss.Coding, 0, recipe.KiloBits ?? 0));
        var seconds = heard.Duration.TotalSeconds;
        var left = Math.Clamp(seconds - recipe.From, 0, recipe.Seconds ?? double.MaxValue);
        if (left < seconds - 1e-9)
            losses.Add(new(Loss.Time, seconds, left));
        return losses;
    }
}
