using Chronotype.Core.Versions;

namespace Chronotype.Web.Words;

/// <summary>Numbers in a row told by the first and the last.</summary>
public static class RangeWords
{
    /// <summary>As <c>001–006, 009</c>.</summary>
    public static string Of(IEnumerable<VersionNumber> numbers)
    {
        var ranges = new List<(int From, int To)>();
        foreach (var number in numbers.Select(n => n.Value).Distinct().Order())
        {
            if (ranges.Count > 0 && ranges[^1].To == number - 1)
                ranges[^1] = (ranges[^1].From, number);
            else
                ranges.Add((number, number));
        }
        return string.Join(
            ", ",
            ranges.Select(r =>
                r.From == r.To ? DisplayText.Version(r.From)
                : r.To == r.From + 1 ? $"{DisplayText.Version(r.From)}, {DisplayText.Version(r.To)}"
                : $"{DisplayText.Version(r.From)}–{DisplayText.Version(r.To)}"
            )
        );
    }
}
