namespace Chronotype.Core.Naming;

/// <summary>A code and what it means.</summary>
public sealed record CodeMeaning(string Code, string Meaning = "");

/// <summary>The codes of one list that the studio keeps, in its order.</summary>
public sealed class CodeList(IReadOnlyList<CodeMeaning> codes)
{
    private readonly HashSet<string> known = [.. codes.Select(c => c.Code)];

    /// <summary>Codes without meanings.</summary>
    public static CodeList Of(params IEnumerable<string> codes) => new([.. codes.Select(c => new CodeMeaning(c))]);

    /// <summary>The codes in their order.</summary>
    public IReadOnlyList<CodeMeaning> Codes { get; } = codes;

    /// <summary>Whether a code is on the list, in its own case.</summary>
    public bool Has(string code) => known.Contains(code);
}
