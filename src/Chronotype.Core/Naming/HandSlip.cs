namespace Chronotype.Core.Naming;

/// <summary>Slips of the hand: one letter dropped, added or changed, or two neighbours swapped.</summary>
public static class HandSlip
{
    /// <summary>Whether one such slip, or none, makes one word of the other.</summary>
    public static bool MayBe(string a, string b)
    {
        if (Math.Abs(a.Length - b.Length) > 1)
            return false;
        var start = a.AsSpan().CommonPrefixLength(b);
        var end = a.AsSpan(start).CommonSuffixLength(b.AsSpan(start));
        var (mine, other) = (a[start..^end], b[start..^end]);
        return Math.Max(mine.Length, other.Length) <= 1
            || (mine.Length == 2 && other.Length == 2 && mine[0] == other[1] && mine[1] == other[0]);
    }

    private static int CommonSuffixLength(this ReadOnlySpan<char> a, ReadOnlySpan<char> b)
    {
        var length = 0;
        while (length < a.Length && length < b.Length && a[^(length + 1)] == b[^(length + 1)])
            length++;
        return length;
    }
}
