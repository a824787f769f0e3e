using Chronotype.Core.Timeline;
using Chronotype.Core.Versions;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests;

public class StripLayoutTests
{
    private const double Width = 1108;
    private static readonly DateTimeOffset Now = new(2026, 3, 12, 16, 0, 0, TimeSpan.FromHours(1));

    private static Strip History(int count, int seed, int loose, double hoursApart, int milestoneEvery)
    {
        var random = new Random(seed);
        var at = Now.AddHours(-count * hoursApart);
        var versions = new List<StripVersion>();
        for (var i = 1; i <= count; i++)
        {
            at += TimeSpan.FromHours(random.NextDouble() * 1.9 * hoursApart);
            if (at > Now)
                at = Now;
            versions.Add(
                new StripVersion(
                    new VersionNumber(i),
                    i.ToString("D3"),
                    at,
                    i % 7 == 0 ? null : random.NextDouble(),
                    0.3,
                    milestoneEvery > 0 && i % milestoneEvery == 0 ? $"reason {i}: {new string('w', random.Next(40))}" : null
                )
            );
        }
        var saves = Enumerable.Range(0, loose).Select(i => new StripLoose(Guid.NewGuid(), Now.AddMinutes(i - loose))).ToList();
        return StripLayout.Lay(new StripInput(versions, saves, Now, (count + 1).ToString("D3"), Width));
    }

    [Property(MaxTest = 300)]
    public void Whatever_the_history_everything_is_drawn_once_and_nothing_collides(
        PositiveInt count,
        int seed,
        NonNegativeInt loose,
        PositiveInt hours,
        NonNegativeInt milestones
    )
    {
        var n = count.Get * 13 % 1500;
        var strip = History(n, seed, loose.Get % 40, hours.Get % 60 + 0.1, milestones.Get % 9);

        Assert.Equal(Enumerable.Range(1, n), strip.Bars.SelectMany(b => b.Versions).Select(v => v.Number.Value).Order());
        Assert.Equal(loose.Get % 40, strip.Rings.Sum(r => r.Saves.Count));
        var end = StripMeasure.Left + Width + 0.5;
        Assert.All(strip.Bands, b => Assert.InRange(b.X + b.Width, StripMeasure.Left, end));
        Assert.All(strip.Bars, b => Assert.InRange(b.Height, StripMeasure.MinBar, StripMeasure.Base - StripMeasure.Top));
        Assert.All(
            strip.Bars.Zip(strip.Bars.Skip(1)),
            p => Assert.True(p.First.X + p.First.Width <= p.Second.X, $"{p.First.Label} touches {p.Second.Label}")
        );
        Assert.All(strip.Rings.Zip(strip.Rings.Skip(1)), p => Assert.True(p.Second.X - p.First.X >= 11));
        Assert.All(strip.Bands.Zip(strip.Bands.Skip(1)), p => Assert.True(p.First.X + p.First.Width <= p.Second.X));
        Assert.True(strip.Ghost!.X + strip.Ghost.Width <= end, "The ghost stands outside.");
        AssertFlags(strip, end);
    }

    private static void AssertFlags(Strip strip, double end)
    {
        Assert.All(strip.Flags, f => Assert.True(f.X + f.Width <= end + FlagSlack, $"“{f.Text}” runs out of the strip."));
        foreach (var flag in strip.Flags)
        {
            foreach (var other in strip.Flags.Where(o => o.X > flag.X))
            {
                var covers = flag.X + flag.Width > other.X;
                Assert.False(covers && other.Row == flag.Row, $"“{flag.Text}” lies over “{other.Text}”.");
                // A staff begins at its own row and goes down, so it must not begin above a label that reaches over it.
                Assert.False(covers && other.Row < flag.Row, $"The staff of “{other.Text}” runs through “{flag.Text}”.");
            }
        }
        var lowest = strip.Flags.Count == 0 ? 0 : strip.Flags.Max(f => f.Y) + StripMeasure.FlagHeight;
        Assert.All(strip.Bars, b => Assert.True(StripMeasure.Base - b.Height - 6 >= lowest, $"The number {b.Label} stands in a flag."));
    }

    // A flag at the very edge keeps its least width.
    private const double FlagSlack = 46;

    [Fact]
    public void A_short_history_shows_every_version_and_folds_the_empty_days()
    {
        var monday = new DateTimeOffset(2026, 3, 2, 9, 0, 0, TimeSpan.FromHours(1));
        StripVersion Version(int n, double hours) =>
            new(new VersionNumber(n), n.ToString("D3"), monday.AddHours(hours), 0.5, 0.2, n == 2 ? "before the sky is repainted" : null);
        var strip = StripLayout.Lay(
            new StripInput([Version(1, 0), Version(2, 26), Version(3, 170)], [new StripLoose(Guid.NewGuid(), Now)], Now, "004", Width)
        );

        Assert.Equal(["Mon 2 Mar", "Tue 3 Mar", "Mon 9 Mar", "Today, Thu 12 Mar"], strip.Bands.Select(b => b.Label));
        Assert.Equal(["5 days", "2 days"], strip.Folds.Select(f => f.Label));
        Assert.All(strip.Bars, b => Assert.False(b.IsBlock));
        Assert.Equal("before the sky is repainted", Assert.Single(strip.Flags).Text);
        Assert.Equal("004", strip.Ghost!.Label);
    }

    [Fact]
    public void A_thousand_versions_keep_the_newest_apart_and_fold_the_old_ones()
    {
        var strip = History(1000, 5, 3, 6, 50);
        Assert.InRange(strip.Bars.Count, 8, 60);
        Assert.False(strip.Bars[^1].IsBlock);
        Assert.True(strip.Bars[0].IsBlock);
        Assert.Equal(20, strip.Flags.Sum(f => f.Full.Count));
    }

    [Fact]
    public void An_empty_piece_shows_today_and_the_first_number()
    {
        var strip = StripLayout.Lay(new StripInput([], [], Now, "001", Width));
        Assert.Equal("Today, Thu 12 Mar", Assert.Single(strip.Bands).Label);
        Assert.Equal("001", strip.Ghost!.Label);
    }

    [Fact]
    public void A_stretch_opened_on_one_long_sitting_merges_into_runs()
    {
        var versions = Enumerable
            .Range(1, 300)
            .Select(i => new StripVersion(new VersionNumber(i), $"{i:D3}", Now.AddMinutes(-i), 0.1, 0.1, null))
            .Reverse()
            .ToList();
        var strip = StripLayout.Lay(new StripInput(versions, [], null, "", Width));
        Assert.InRange(strip.Bars.Count, 4, 20);
        Assert.Equal(300, strip.Bars.Sum(b => b.Versions.Count));
    }

    [Fact]
    public void A_milestone_marked_just_now_shows_all_its_words_beside_the_now_line()
    {
        var version = new StripVersion(new VersionNumber(1), "001", Now, 1, 1, "before the sky is repainted");
        var strip = StripLayout.Lay(new StripInput([version], [], Now, "002", Width));
        var flag = Assert.Single(strip.Flags);
        Assert.Equal(version.Milestone, flag.Text);
        Assert.True(strip.NowY > flag.Y + StripMeasure.FlagHeight);
    }

    [Fact]
    public void Small_changes_are_still_seen() => Assert.True(StripLayout.HeightOf(0.01, 100) > StripMeasure.MinBar + 8);
}
