namespace Chronotype.Core.Naming.Checking;

/// <summary>What is known beside a name, for repairs.</summary>
/// <param name="Values">By label: the project's code, the piece's subject, its next number, whose hand it is.</param>
/// <param name="FileDate">When the file was last written; null where that is not known.</param>
public sealed record NameKnowledge(IReadOnlyDictionary<string, string> Values, DateOnly? FileDate = null)
{
    /// <summary>Nothing is known.</summary>
    public static readonly NameKnowledge Nothing = new(new Dictionary<string, string>());
}
