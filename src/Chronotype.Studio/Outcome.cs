namespace Chronotype.Studio;

/// <summary>What a deed came to: its result, or a sentence that says why it was not done, what of it stands, and what to do.</summary>
/// <param name="Result">Null when it was refused.</param>
/// <param name="Refusal">Null when it was done.</param>
/// <param name="Field">The field of a form that the refusal speaks of; null where it is none of them.</param>
public sealed record Outcome<T>(T? Result, string? Refusal, string? Field) where T : class
{
    [System.Diagnostics.CodeAnalysis.MemberNotNullWhen(true, nameof(Result))]
    [System.Diagnostics.CodeAnalysis.MemberNotNullWhen(false, nameof(Refusal))]
    public bool Done => Result is not null;

    public static implicit operator Outcome<T>(T result) => new(result, null, null);

    public static Outcome<T> Refused(string sentence, string? field = null) => new(null, sentence, field);

    /// <summary>The result, where a refusal would be a programmer's mistake.</summary>
    /// <exception cref="InvalidOperationException">It was refused.</exception>
    public T Expect() => Result ?? throw new InvalidOperationException(Refusal);
}
