using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Formats.Rewriting;

namespace Chronotype.Formats.Outputs;

/// <summary>Makes outputs by recipes.</summary>
public static class OutputMaker
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="recipe">Without faults; not one that packs, for which <see cref="FilePacker"/> is.</param>
    /// <param name="output">Seekable and empty; left open. What it holds after an exception is nothing that anybody should have.</param>
    /// <param name="from">What it is made of, for what the output says of itself; null for nothing.</param>
    /// <param name="beside">The recipe's colour profile where it has one; of a drawing, files of typefaces that are at hand.</param>
    /// <exception cref="UnreadableFileException">The recipe makes nothing of such a file, or the file cannot be read.</exception>
    public static MadeOutput Make(
        Stream content,
        Recipe recipe,
        Stream output,
        MadeFrom? from = null,
        IReadOnlyList<Stream>? beside = null,
        CancellationToken cancel = default
    )
    {
        if (RecipeRules.Check(recipe) is [var fault, ..])
            throw new ArgumentException(fault.ToString(), nameof(recipe));
        if (recipe.Layers.Count > 0)
        {
            using var kept = WithLayers(content, recipe, cancel);
            return Make(kept, recipe with { Layers = [] }, output, from, beside, cancel);
        }
        return recipe switch
        {
            { Picture: { } picture } => PictureMaker.Make(content, picture, beside?.FirstOrDefault(), output, cancel),
            { Sound: { } sound } => SoundMaker.Make(content, sound, from, output, cancel),
            { Drawing: { } drawing } => DrawingMaker.Make(content, drawing, beside ?? [], output, cancel),
            _ => throw new ArgumentException("What is packed is made of several contents.", nameof(recipe)),
        };
    }

    /// <summary>About how many bytes an output would have, from samples of it that are made as it would be.</summary>
    /// <inheritdoc cref="Make"/>
    /// <returns>And what became of the texts of a drawing; null for anything else.</returns>
    public static (long Bytes, OutlinedTexts? Texts) Estimate(
        Stream content,
        Recipe recipe,
        IReadOnlyList<Stream>? beside = null,
        CancellationToken cancel = default
    )
    {
        if (recipe.Layers.Count > 0)
        {
            using var kept = WithLayers(content, recipe, cancel);
            return Estimate(kept, recipe with { Layers = [] }, beside, cancel);
        }
        if (recipe is { Picture: { } picture })
            return (PictureMaker.Estimate(content, picture, beside?.FirstOrDefault(), cancel), null);
        if (recipe is { Sound: { } sound })
            return (SoundMaker.Estimate(content, sound, cancel), null);
        using var made = TemporaryFile.Open();
        var texts = Make(content, recipe, made, null, beside, cancel).Texts;
        return (made.Length, texts);
    }

    private static FileStream WithLayers(Stream content, Recipe recipe, CancellationToken cancel)
    {
        var places = FileParts.Find(FormatReader.ReadSound(content, cancel), recipe.Layers);
        var kept = TemporaryFile.Open();
        try
        {
            content.Position = 0;
            CarriedParts.Keep(content, (places ?? throw new UnreadableFileException(FileFaultCode.NoLayers)).ToHashSet(), kept, cancel);
            kept.Position = 0;
            return kept;
        }
        catch
        {
            kept.Dispose();
            throw;
        }
    }
}
