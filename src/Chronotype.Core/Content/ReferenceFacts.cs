namespace Chronotype.Core.Content;

/// <summary>A link from a file to another, or to what it carries inside.</summary>
/// <param name="Written">As it stands in the file, at most <see cref="Most"/> letters; empty for what is embedded. Not trusted.</param>
/// <param name="Place">Where in the file it is written, as its format tells places.</param>
/// <param name="EmbeddedBytes">How large what it leads to is, where that is inside the file itself; null where it leads out.</param>
public sealed record ReferenceFacts(string Written, string Place, long? EmbeddedBytes = null)
{
    /// <summary>The most letters of a link that are kept.</summary>
    public const int Most = 1000;
}
