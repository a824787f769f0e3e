namespace Chronotype.Core.Readers;

/// <summary>
/// The readers by name and version. Whatever changes what one of them finds raises its version, and then everything that an
/// older one found is found anew.
/// </summary>
public static class ReaderVersions
{
    /// <summary>The reader that finds what is inside a file.</summary>
    public const string FileFacts = "file-facts";

    /// <summary>The version of the reader of facts. A higher one reads all contents anew.</summary>
    public const int FileFactsVersion = 8;

    /// <summary>The reader that finds what a picture or a sound is known by.</summary>
    public const string Likeness = "likeness";

    /// <summary>Of that reader.</summary>
    public const int LikenessVersion = 1;

    /// <summary>Of the comparer.</summary>
    public const int ComparisonVersion = 8;

    /// <summary>Of what draws previews. A format that is drawn from now on raises it, since that it was not is kept, too.</summary>
    public const int PreviewVersion = 3;

    /// <summary>Of what makes sounds ready to be shown and played.</summary>
    public const int SoundsVersion = 1;

    /// <summary>Of what cuts pictures into tiles.</summary>
    public const int TilesVersion = 1;
}
