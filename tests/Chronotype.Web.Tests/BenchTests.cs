using System.Net;

namespace Chronotype.Web.Tests;

public class BenchTests
{
    [Fact]
    public async Task What_is_at_risk_is_shown_first_however_much_came_after_it()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Noise(900, 1), "a.bin");
        await owner.SaveAsync(Samples.Noise(900, 2), "a.bin");
        for (var n = 0; n < 26; n++)
            await owner.StartPieceAsync(Samples.Noise(500, 100 + n), "x.bin", $"Piece {n}");

        // What was kept last is told once, and names a piece, too.
        await owner.PageAsync("/");
        var page = await owner.PageAsync("/");
        Assert.Contains("Nothing needs you", page);
        Assert.Contains("In hand now", page);
        Assert.Contains("27 pieces in 1 project", page);
        Assert.InRange(
            page.IndexOf("TIM_moonpull-poster_key", StringComparison.Ordinal),
            1,
            page.IndexOf("TIM_piece-25_key", StringComparison.Ordinal)
        );
        Assert.Contains("8 older ones", page);
        Assert.Contains("TIM_piece-0_key", await owner.PageAsync("/?more=1"));
    }

    [Fact]
    public async Task The_bench_is_filtered_by_person_project_and_state()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Noise(900, 1), "a.bin");
        await owner.StartPieceAsync(Samples.Noise(900, 3), "b.bin", "Tide table");
        await owner.SaveAsync(Samples.Noise(900, 2), "a.bin");

        Assert.DoesNotContain("TIM_tide-table_key", await owner.PageAsync("/?state=risk"));
        // What was chosen may hide what is at risk, but never says that there is none.
        foreach (var chosen in new[] { "/?state=kept", "/?state=reserved", "/?project=NOWHERE" })
        {
            var page = await owner.PageAsync(chosen);
            Assert.DoesNotContain("TIM_moonpull-poster_key", page[page.IndexOf("<main", StringComparison.Ordinal)..]);
            Assert.DoesNotContain("Everything is kept", page);
            Assert.Contains("1 at risk is not shown", page);
        }
        Assert.Contains("TIM_tide-table_key", await owner.PageAsync("/?person=IK&project=TIDES&order=project"));
        Assert.Contains("No piece is like that", await owner.PageAsync("/?project=NOWHERE"));
        Assert.Equal(HttpStatusCode.OK, (await owner.GetAsync("/?person=%F0%9F%8C%8A&state=%00&order=x&all=maybe")).StatusCode);
    }
}
