using System.IO;
using System.Text.Encodings.Web;
using System.Xml.Linq;
using Chronotype.Studio.Maintenance;
using Chronotype.Web.Pages.Storage;

namespace Chronotype.Web.Tests;

public class GrowthSvgTests
{
    private static readonly DateTimeOffset Start = new(2026, 3, 2, 9, 0, 0, TimeSpan.Zero);

    private static XElement Draw(IReadOnlyList<GrowthPoint> points, DateTimeOffset now)
    {
        using var text = new StringWriter();
        GrowthSvg.Draw(points, now, TimeZoneInfo.Local).WriteTo(text, HtmlEncoder.Default);
        Assert.DoesNotContain("NaN", text.ToString());
        Assert.DoesNotContain("Infinity", text.ToString());
        return XElement.Parse(text.ToString());
    }

    private static List<string> Labels(XElement svg) => [.. svg.Elements("text").Select(t => t.Value)];

    [Fact]
    public void It_says_where_both_lines_end_and_which_days_they_crossed()
    {
        var labels = Labels(Draw([new(Start, 1_000_000, 1_000_000), new(Start.AddDays(3), 48_200_000, 4_100_000)], Start.AddDays(3)));
        Assert.Contains("48.2 MB", labels);
        Assert.Contains("4.1 MB", labels);
        Assert.Equal(["Tue 3 Mar", "Wed 4 Mar", "Thu 5 Mar"], labels.Where(l => l.EndsWith(" Mar", StringComparison.Ordinal)));
    }

    [Fact]
    public void Labels_never_lie_on_each_other()
    {
        foreach (var (plain, disk) in new[] { (1L, 1L), (1000L, 999L), (1000L, 0L), (1000L, 5000L), (0L, 0L) })
        {
            var svg = Draw([new(Start, plain, disk), new(Start.AddHours(1), plain, disk)], Start.AddHours(1));
            var places = svg.Elements("text")
                .Where(t => (string?)t.Attribute("class") == "d")
                .Select(t => (double)t.Attribute("y")!)
                .Order()
                .ToList();
            Assert.Equal(2, places.Count);
            Assert.True(
                places[1] - places[0] >= 30 && places[0] > 0 && places[1] < 240,
                $"{plain} and {disk} bytes: {string.Join(", ", places)}"
            );
        }
    }

    [Fact]
    public void All_at_one_moment_very_many_and_ten_years_are_drawn_as_well()
    {
        Draw([new(Start, 5, 5), new(Start, 9, 6)], Start);
        var many = Draw(
            [.. Enumerable.Range(0, 50_000).Select(i => new GrowthPoint(Start.AddHours(i), i * 1000L, i * 100L))],
            Start.AddHours(60_000)
        );
        Assert.True(many.ToString().Length < 60_000);
        var days = many.Elements("path").Count(p => (string?)p.Attribute("class") == "day");
        Assert.InRange(days, 5, 10);
        Assert.Contains(Labels(many), l => l.EndsWith("2030", StringComparison.Ordinal));
    }
}
