namespace Chronotype.Cli;

/// <summary>What a command ends with.</summary>
internal static class ExitCodes
{
    /// <summary>Done, and nothing was found wanting.</summary>
    public const int Done = 0;

    /// <summary>Done, and something was found: a name that is not legal, two readings, no safe plan.</summary>
    public const int Found = 1;

    /// <summary>Not done: the call, a file or a folder could not be used.</summary>
    public const int Unusable = 2;
}

/// <summary>What a person must mend before a command can be done.</summary>
/// <param name="lines">Sentences, each with its place.</param>
internal sealed class UnusableInputException(params IReadOnlyList<string> lines) : Exception
{
    public IReadOnlyList<string> Lines { get; } = lines;
}
