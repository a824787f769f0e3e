using Chronotype.Core.Timeline;
using Chronotype.Core.Versions;

namespace Chronotype.Core.Tests;

/// <summary>The lanes of a piece's other lines, below its strip.</summary>
public class StripLanesTests
{
    private const double Right = 1258;

    private static StripBar Bar(int number, double x) =>
        new(x, 18, 40, $"{number}", [new StripVersion(new VersionNumber(number), $"{number:d3}", default, 0.2, 0.2, null)], true);

    private static StripBranch Branch(int? leftAt, int versions, string words = "alt “dusk”, set aside") =>
        new(words, leftAt, [.. Enumerable.Range(1, versions).Select(n => new StripBranchMark(Guid.NewGuid(), $"{n}"))], leftAt is null);

    [Fact]
    public void A_lane_leaves_where_its_line_left_and_shows_its_versions_in_order()
    {
        var lane = Assert.Single(StripLanes.Place([Branch(12, 3)], [Bar(11, 400), Bar(12, 500)], Right));
        Assert.Equal(509, lane.FromX);
        Assert.Equal(["1", "2", "3"], lane.Blocks.Select(b => b.Mark.Label));
        Assert.True(lane.Blocks[0].X > lane.FromX);
        Assert.Equal(0, lane.Earlier);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(30)]
    [InlineData(1_000)]
    public void However_many_there_are_nothing_touches_and_nothing_runs_out(int versions)
    {
        foreach (var at in new double[] { 160, 700, 1_200, 1_240 })
        {
            var branches = new[]
            {
                Branch(5, versions),
                Branch(null, versions, "main line, work goes on there, 12 loose"),
                Branch(9, versions),
            };
            var lanes = StripLanes.Place(branches, [Bar(5, at)], Right);
            Assert.Equal(3, lanes.Select(l => l.Y).Distinct().Count());
            Assert.All(
                lanes,
                lane =>
                {
                    Assert.Equal(versions, lane.Earlier + lane.Blocks.Count);
                    Assert.All(lane.Blocks.Zip(lane.Blocks.Skip(1)), p => Assert.True(p.First.X + StripLanes.Width < p.Second.X));
                    Assert.All(lane.Blocks, b => Assert.InRange(b.X, StripMeasure.Left, Right - StripLanes.Width));
                    Assert.InRange(lane.End + TextWidth.Of(lane.Words, 12), 0, Right + 1);
                    // The newest are those that are shown.
                    Assert.True(lane.Blocks.Count == 0 || lane.Blocks[^1].Mark.Label == $"{versions}");
                }
            );
        }
    }

    [Fact]
    public void Each_line_is_at_risk_by_itself()
    {
        static SaveMark Mark(int sequence, int? number, int hour) =>
            new(sequence, Core.Content.ContentHash.Of([(byte)sequence]), new DateTimeOffset(2026, 3, 2, hour, 0, 0, TimeSpan.Zero), number);
        // The alt's newest version came after the main line's loose save, and says nothing of that.
        var standing = PieceStanding.Of(
            [Mark(1, 1, 8), Mark(2, null, 9)],
            [
                [Mark(3, 1, 10)],
                [Mark(4, 7, 11), Mark(5, null, 12)],
            ]
        );
        Assert.Equal((1, 2, 9), (standing.Newest, standing.LooseSince, standing.RiskSince!.Value.Hour));
    }
}
