using System.Globalization;
using System.Numerics;

namespace Chronotype.Core.Naming.Learning;

/// <summary>Tells the version from other numbers of a name: it is the one that climbs, step by step, among names otherwise equal.</summary>
internal static class ClimbingNumber
{
    private static readonly Dictionary<string, string> Led = new(StringComparer.OrdinalIgnoreCase)
    {
        ["sc"] = "scene",
        ["scn"] = "scene",
        ["scene"] = "scene",
        ["sh"] = "shot",
        ["sht"] = "shot",
        ["shot"] = "shot",
        ["tr"] = "track",
        ["trk"] = "track",
        ["track"] = "track",
        ["p"] = "page",
        ["pg"] = "page",
        ["page"] = "page",
        ["e"] = "episode",
        ["ep"] = "episode",
        ["episode"] = "episode",
    };

    private static readonly string[] VersionLeads = ["v", "ver", "vers", "version", "r", "rev"];

    /// <summary>What a number is by the letters before it; null where they do not say.</summary>
    public static string? Counted(string lead) => Led.GetValueOrDefault(lead);

    /// <summary>Whether the letters before a number say that it is a version.</summary>
    public static bool IsVersion(string lead) => VersionLeads.Contains(lead, StringComparer.OrdinalIgnoreCase);

    /// <summary>
    /// The share of the names that stand in unbroken climbs: those that are otherwise equal, and whose numbers are all there are from
    /// the first to the highest. A scene's numbers have gaps there, since not every scene reaches every version.
    /// </summary>
    /// <param name="rows">All with the same number of fields.</param>
    /// <param name="field">The number's own field.</param>
    /// <param name="others">The fields that make names equal; not the hand's, which changes from version to version.</param>
    /// <param name="lead">The letters before the number.</param>
    public static double Share(IReadOnlyCollection<NameTable.Row> rows, int field, IReadOnlyList<int> others, string lead)
    {
        var groups = new Dictionary<string, HashSet<int>>();
        var seen = 0;
        foreach (var row in rows)
        {
            if (NumberOf(row.Fields[field], lead) is not { } number)
                continue;
            var key = string.Join('\n', others.Select(other => row.Fields[other]));
            if (!groups.TryGetValue(key, out var group))
                groups[key] = group = [];
            group.Add(number);
            seen++;
        }
        var climbing = groups.Values.Where(g => g.Count > 1 && g.Min() <= 1 && g.Max() - g.Min() + 1 == g.Count).Sum(g => g.Count);
        return seen == 0 ? 0 : (double)climbing / seen;
    }

    /// <summary>How far the numbers lie apart: 1, or what all of them are divided by where that is 5 or more.</summary>
    public static int Step(IEnumerable<string> texts, string lead)
    {
        var divisor = BigInteger.Zero;
        foreach (var text in texts)
        {
            if (NumberOf(text, lead) is { } number)
                divisor = BigInteger.GreatestCommonDivisor(divisor, number);
        }
        return divisor >= 5 && divisor <= CountRule.MaxStep ? (int)divisor : 1;
    }

    private static int? NumberOf(string text, string lead) =>
        text.StartsWith(lead, StringComparison.Ordinal)
        && int.TryParse(text.AsSpan(lead.Length), NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            ? number
            : null;
}
