namespace Chronotype.Core.Content;

/// <summary>Plain text.</summary>
/// <param name="Encoding">As the IANA registry of character sets calls it.</param>
/// <param name="Lines">How many.</param>
/// <param name="Words">How many, as spaces part them.</param>
/// <param name="Letters">Characters, without the ends of lines.</param>
public sealed record TextFacts(string Encoding, int Lines, int Words, long Letters)
{
    /// <summary>Its first lines, shortened, to be seen. Not trusted.</summary>
    public IReadOnlyList<string> Beginning { get; init; } = [];
}
