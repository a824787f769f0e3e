namespace Chronotype.Core.Content;

/// <summary>A link from a file to another, or to what it carries inside.</summary>
/// <param name="Written">As it stands in the file, at most <see cref="Most"/> letters; empty for what is embedded. Not trusted.</param>
/// <param name="Place">Where in the file it is written, as its format tells places.</param>
/// <param name="EmbeddedBytes">How large what it leads to is, where that is inside the file itself; null where it leads out.</param>
public sealed record ReferenceFacts(string Written, string Place, long? EmbeddedBytes = null)
{
    /// <summary>
    /// The ending of the files that it holds for, where a pattern of the studio's own found it: what a text says depends on what it is
    /// called. Null for what the format itself says.
    /// </summary>
    public string? Ending { get; init; }

    /// <summary>The most letters of a link that are kept.</summary>
    public const int Most = 1000;
}
