namespace Chronotype.Tests;

/// <summary>
/// How thorough the slow harnesses are: a share of their cases, drawn anew each time, or all of them where CHRONOTYPE_THOROUGH is set.
/// </summary>
internal static class Thorough
{
    public static bool IsAsked { get; } = Environment.GetEnvironmentVariable("CHRONOTYPE_THOROUGH") is { Length: > 0 };

    public static int Times(int usually, int thoroughly) => IsAsked ? thoroughly : usually;

    /// <summary>The first and the last case, and of those between so many by chance.</summary>
    public static IReadOnlyList<T> Some<T>(IReadOnlyList<T> all, int usually)
    {
        if (IsAsked || all.Count <= usually)
            return all;
        var chosen = Enumerable
            .Range(1, all.Count - 2)
            .OrderBy(_ => Random.Shared.Next())
            .Take(usually - 2)
            .Append(0)
            .Append(all.Count - 1)
            .Order();
        return [.. chosen.Select(i => all[i])];
    }
}
