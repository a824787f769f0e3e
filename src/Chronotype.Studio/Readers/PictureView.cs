using System.Globalization;
using Chronotype.Core.Content;

namespace Chronotype.Studio.Readers;

/// <summary>One picture of a content: the whole of it or of one page, or one of its layers alone.</summary>
/// <param name="Content">Which content.</param>
/// <param name="Page">Which page, from 0.</param>
/// <param name="Layer">Which of its layers, as <see cref="FileFacts.Layers"/> counts them; null for the whole.</param>
public sealed record PictureView(ContentHash Content, int Page = 0, int? Layer = null)
{
    /// <summary>A short key, the same for the same picture, of letters that a file's name may hold.</summary>
    public override string ToString() =>
        string.Create(CultureInfo.InvariantCulture, $"{Content}-{Page}{(Layer is { } layer ? $"-{layer}" : "")}");

    /// <summary>Reads what <see cref="ToString"/> wrote.</summary>
    /// <exception cref="FormatException">It is no such key.</exception>
    public static PictureView Parse(string text) =>
        text.Split('-') switch
        {
            [var hash, var page] => new(ContentHash.Parse(hash), Number(page)),
            [var hash, var page, var layer] => new(ContentHash.Parse(hash), Number(page), Number(layer)),
            _ => throw new FormatException(text),
        };

    private static int Number(string text) => int.Parse(text, NumberStyles.None, CultureInfo.InvariantCulture);
}
