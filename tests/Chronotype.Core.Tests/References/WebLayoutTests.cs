using Chronotype.Core.References;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests.References;

public class WebLayoutTests
{
    private static (List<WebBox> Boxes, List<WebLine> Lines) Made(int seed, int count)
    {
        var random = new Random(seed);
        var boxes = Enumerable
            .Range(0, count)
            .Select(i => new WebBox($"b{i}", (WebRank)random.Next(4), $"{i:0000}", random.Next(2) * 16 + 36))
            .ToList();
        var lines = new HashSet<WebLine>();
        for (var i = 0; i < count; i++)
            lines.Add(new WebLine(boxes[random.Next(count)].Key, boxes[random.Next(count)].Key));
        return (boxes, [.. lines.Where(l => l.From != l.To)]);
    }

    [Property]
    public Property NoBoxesOverlapAndNoLinePassesThroughABoxOfARankThatItPasses() =>
        Prop.ForAll(
            Gen.Choose(0, 10_000).ToArbitrary(),
            Gen.Choose(1, 60).ToArbitrary(),
            (seed, count) =>
            {
                var (boxes, lines) = Made(seed, count);
                var layout = WebLayout.Lay(boxes, lines);
                var placed = layout.Boxes;
                var byKey = placed.ToDictionary(p => p.Box.Key);
                var overlaps = placed
                    .GroupBy(p => p.Box.Rank)
                    .SelectMany(r => r.OrderBy(p => p.Y).Zip(r.OrderBy(p => p.Y).Skip(1)))
                    .Count(p => p.First.Y + p.First.Box.Height + 13.9 > p.Second.Y);
                var through = layout.Lines.Count(l =>
                    l.Points.Skip(1)
                        .SkipLast(1)
                        .Any(at =>
                            placed.Any(p => (at.X == p.X || at.X == p.X + 150) && at.Y > p.Y + 0.1 && at.Y < p.Y + p.Box.Height - 0.1)
                        )
                );
                var ends = layout.Lines.Count(l => l.Points[0].Y != byKey[l.Line.From].Middle || l.Points[^1].Y != byKey[l.Line.To].Middle);
                return (overlaps == 0 && through == 0 && ends == 0 && placed.Count == count && placed.All(p => p.Y >= 44)).Label(
                    $"{overlaps} overlaps, {through} through, {ends} ends"
                );
            }
        );

    [Fact]
    public void WhatBelongsTogetherStandsTogether()
    {
        // Two webs that have nothing to do with one another, given mixed.
        var boxes = new List<WebBox>();
        var lines = new List<WebLine>();
        for (var i = 0; i < 8; i++)
        {
            boxes.Add(new($"asset{i}", WebRank.Assets, $"{i}", 36));
            boxes.Add(new($"piece{i}", WebRank.Pieces, $"{7 - i}", 52));
            lines.Add(new($"asset{i}", $"piece{i}"));
        }

        var layout = WebLayout.Lay(boxes, lines);

        // However the ranks were ordered, no two lines cross.
        var middles = layout.Boxes.ToDictionary(b => b.Box.Key, b => b.Middle);
        foreach (var a in lines)
        foreach (var b in lines)
            Assert.False(middles[a.From] < middles[b.From] && middles[a.To] > middles[b.To]);
    }
}
