namespace Chronotype.Core.Versions;

/// <summary>Stretches of work: saves less than <see cref="Gap"/> apart belong together.</summary>
public static class Sittings
{
    /// <summary>The pause after which another sitting begins.</summary>
    public static readonly TimeSpan Gap = TimeSpan.FromMinutes(45);

    /// <summary>Whether a save at <paramref name="later"/> goes on with the sitting of one at <paramref name="earlier"/>.</summary>
    public static bool Together(DateTimeOffset earlier, DateTimeOffset later) => later - earlier < Gap;

    /// <summary>Groups items by sitting.</summary>
    /// <param name="items">In the order of their times.</param>
    /// <param name="time">When an item was saved.</param>
    public static IReadOnlyList<IReadOnlyList<T>> Group<T>(IEnumerable<T> items, Func<T, DateTimeOffset> time)
    {
        var sittings = new List<List<T>>();
        foreach (var item in items)
        {
            if (sittings.Count > 0 && Together(time(sittings[^1][^1]), time(item)))
                sittings[^1].Add(item);
            else
                sittings.Add([item]);
        }
        return sittings;
    }
}
