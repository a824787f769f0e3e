using System.Diagnostics.CodeAnalysis;

namespace Chronotype.Studio.Deeds;

/// <summary>What a deed came to: its result, or why it was not done. Nothing of a refused deed stands.</summary>
/// <param name="Result">Null when it was refused.</param>
/// <param name="Refusal">Null when it was done.</param>
public sealed record Outcome<T>(T? Result, Refusal? Refusal)
    where T : class
{
    [MemberNotNullWhen(true, nameof(Result))]
    [MemberNotNullWhen(false, nameof(Refusal))]
    public bool Done => Result is not null;

    public static implicit operator Outcome<T>(T result) => new(result, null);

    public static implicit operator Outcome<T>(Refusal refusal) => new(null, refusal);

    /// <summary>The result of a deed that a job ends with.</summary>
    /// <exception cref="DeedRefusedException">It was refused, which the job has to say.</exception>
    public T OrFail() => Result ?? throw new DeedRefusedException(Refusal!);

    /// <summary>The result, where a refusal would be a programmer's mistake.</summary>
    /// <exception cref="InvalidOperationException">It was refused.</exception>
    public T Expect() => Result ?? throw new InvalidOperationException(Refusal!.ToString());
}

/// <summary>The studio refused the result of a job, so that the job is not done.</summary>
public sealed class DeedRefusedException(Refusal refusal) : Exception(refusal.ToString());

/// <summary>A deed that has nothing to tell but that it was done.</summary>
public sealed record Done
{
    public static readonly Done It = new();
}
