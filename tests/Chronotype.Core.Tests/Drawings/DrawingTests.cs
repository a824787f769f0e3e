using Chronotype.Core.Drawings;

namespace Chronotype.Core.Tests.Drawings;

/// <summary>Paths made straight, and what a cutting machine makes of them.</summary>
public class DrawingTests
{
    private static IReadOnlyList<IReadOnlyList<DrawnPoint>> Flat(string data, double tolerance = 0.01) =>
        PathData.Flatten(data, DrawnTransform.None, tolerance);

    private static DrawnPoint P(double x, double y) => new(x, y);

    [Fact]
    public void Every_command_of_a_path_goes_where_the_standard_says()
    {
        Assert.Equal(
            [
                [P(1, 2), P(4, 2), P(4, 6), P(3, 5), P(1, 2)],
            ],
            Flat("M1,2H4V6l-1-1z")
        );
        // Further pairs behind a moveto are lines; each moveto begins a run of its own, and what has one point is none.
        Assert.Equal(
            [
                [P(0, 0), P(5, 5), P(6, 5)],
                [P(9, 9), P(9, 8)],
            ],
            Flat("M0 0 5 5l1 0M7 7m2 2v-1")
        );
        // Numbers that run into one another, and flags without anything between them.
        Assert.Equal(
            [
                [P(.5, -.5), P(1.5, -.25)],
            ],
            Flat("M.5-.5L1.5-.25")
        );
        var arc = Assert.Single(Flat("M0 0a5 5 0 01 10 0"));
        Assert.Equal(P(10, 0), arc[^1]);
        Assert.All(arc, p => Assert.Equal(5, p.To(P(5, 0)), 0.01));
        Assert.True(arc[arc.Count / 2].Y < -4.9);
        // A curve that goes on smoothly is that whose control points are said.
        Assert.Equal(Flat("M0 0C1 2 3 2 4 0C5-2 7-2 8 0"), Flat("M0 0C1 2 3 2 4 0S7-2 8 0"));
        Assert.Equal(Flat("M0 0Q2 4 4 0Q6-4 8 0"), Flat("M0 0Q2 4 4 0T8 0"));
        // Radii that do not reach are grown; none at all is a line.
        Assert.Equal(P(20, 0), Assert.Single(Flat("M0 0A1 1 0 0 0 20 0"))[^1]);
        Assert.Equal(
            [
                [P(0, 0), P(9, 9)],
            ],
            Flat("M0 0A0 4 0 0 0 9 9")
        );
    }

    [Theory]
    [InlineData("")]
    [InlineData("L5 5")]
    [InlineData("M")]
    [InlineData("M1")]
    [InlineData("M1 1 q")]
    [InlineData("x9 9")]
    [InlineData("M1e999 0L0 0")]
    [InlineData("M0 0A1 1 0 2 0 5 5")]
    public void What_is_wrong_ends_the_path_where_it_is(string data) => Assert.InRange(Flat(data).Sum(r => r.Count), 0, 2);

    [Theory]
    [InlineData(1)]
    [InlineData(0.1)]
    [InlineData(0.001)]
    public void No_piece_lies_further_beside_a_curve_than_asked_and_there_are_no_more_than_needed(double tolerance)
    {
        var run = Assert.Single(Flat("M0 0C0 100 100 100 100 0", tolerance));
        static DrawnPoint At(double t)
        {
            var u = 1 - t;
            return new(300 * u * t * t + 100 * t * t * t, 300 * u * u * t + 300 * u * t * t);
        }
        var worst = 0.0;
        for (var i = 0; i + 1 < run.Count; i++)
        {
            for (var k = 1; k < 8; k++)
            {
                var on = At((i + k / 8.0) / (run.Count - 1));
                var (a, b) = (run[i], run[i + 1]);
                worst = Math.Max(worst, Math.Abs((b.X - a.X) * (a.Y - on.Y) - (a.X - on.X) * (b.Y - a.Y)) / a.To(b));
            }
        }
        Assert.InRange(worst, tolerance / 4, tolerance);
    }

    [Fact]
    public void A_machine_says_the_way_that_it_goes_and_how_long_that_takes()
    {
        var machine = new CuttingMachine(CutSpeed: 100, TravelSpeed: 200, Lift: 0.5, Change: 10);
        var path = machine.Follow("IN;SP1;PU0,0;PD400,0;PU;SP2;PU400,400;PD400,800,0,800;PU0,0;SP0;");
        Assert.Equal([10, 20], path.Strokes.Select(s => s.Length));
        Assert.Equal(["1", "2"], path.Strokes.Select(s => s.Tool));
        Assert.Equal((30, 10 + 20), (path.Cut, path.Travel));
        // 0.3 s down, 0.15 s up, two strokes of a second's lifting each, one change.
        Assert.Equal(0.3 + 0.15 + 2 + 10, path.Time.TotalSeconds, 9);
        Assert.Equal((0, 0, 10, 20), path.Box);
    }

    [Theory]
    [InlineData("")]
    [InlineData("IN;SP1;PU0,0;")]
    [InlineData("IN;PDx,y;")]
    [InlineData("not\na number\n")]
    [InlineData("  0\nSECTION\n  2\nENTITIES\n  0\nEOF\n")]
    [InlineData("  0\nPOLYLINE\n  0\nVERTEX\n 10\n1\n 20\nnone\n")]
    public void What_is_no_file_for_it_is_refused(string text) => Assert.Throws<FormatException>(() => new CuttingMachine().Follow(text));
}
