using Chronotype.Core.Content;
using Chronotype.Core.Outputs;

namespace Chronotype.Formats.Outputs;

/// <summary>Makes outputs by recipes.</summary>
public static class OutputMaker
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="recipe">Without faults.</param>
    /// <param name="output">Seekable and empty; left open. What it holds after an exception is nothing that anybody should have.</param>
    /// <exception cref="UnreadableFileException">The recipe makes nothing of such a file, or the file cannot be read.</exception>
    public static MadeOutput Make(Stream content, Recipe recipe, Stream output, CancellationToken cancel = default)
    {
        if (RecipeRules.Check(recipe) is [var fault, ..])
            throw new ArgumentException(fault.ToString(), nameof(recipe));
        return recipe.Picture is { } picture
            ? PictureMaker.Make(content, picture, output, cancel)
            : SoundMaker.Make(content, recipe.Sound!, output, cancel);
    }
}
