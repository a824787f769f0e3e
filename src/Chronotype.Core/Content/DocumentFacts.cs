using System.Text.Json.Serialization;

namespace Chronotype.Core.Content;

/// <summary>A document of pages.</summary>
/// <param name="Pages">How many.</param>
/// <param name="Words">How many, as spaces part them.</param>
public sealed record DocumentFacts(int Pages, int Words)
{
    /// <summary>The sizes of its pages, the first page's first; each once.</summary>
    public IReadOnlyList<PageSize> Sizes { get; init; } = [];

    /// <summary>What its text is set in, by name.</summary>
    public IReadOnlyList<TypefaceFacts> Typefaces { get; init; } = [];
}

/// <summary>A size of pages.</summary>
/// <param name="Width">Millimetres, as the page is turned.</param>
/// <param name="Height">As <paramref name="Width"/>.</param>
/// <param name="Pages">How many pages have it.</param>
public sealed record PageSize(double Width, double Height, int Pages);

/// <summary>A typeface that a document uses.</summary>
/// <param name="Name">As the document calls it, without the mark of a subset. Not trusted.</param>
/// <param name="IsEmbedded">It lies in the document, so that it looks the same wherever it is opened.</param>
public sealed record TypefaceFacts(string Name, [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] bool IsEmbedded);
