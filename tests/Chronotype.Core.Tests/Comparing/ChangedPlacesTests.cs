using Chronotype.Core.Comparing;
using Chronotype.Core.Content;

namespace Chronotype.Core.Tests.Comparing;

public class ChangedPlacesTests
{
    private static ChangedPlaces Marked(int width, int height, params PixelBox[] boxes)
    {
        var places = new ChangedPlaces(width, height);
        foreach (var box in boxes)
        {
            for (var y = box.Y; y < box.Y + box.Height; y++)
            {
                for (var x = box.X; x < box.X + box.Width; x++)
                    places.Mark(x, y);
            }
        }
        return places;
    }

    [Fact]
    public void Each_place_that_differs_is_one_box_the_largest_first()
    {
        var found = Marked(1000, 800, new PixelBox(100, 100, 50, 40), new PixelBox(600, 500, 200, 100)).Find(20);
        Assert.Equal([20_000L, 2_000L], found.Select(p => p.Pixels));
        // A box reaches at most a cell past what differs.
        Assert.All(found.Zip([new PixelBox(600, 500, 200, 100), new PixelBox(100, 100, 50, 40)]), p => Holds(p.First.Box, p.Second, 4));
    }

    [Fact]
    public void A_single_pixel_at_the_far_corner_is_found()
    {
        var place = Assert.Single(Marked(20_000, 12_345, new PixelBox(19_999, 12_344, 1, 1)).Find(20));
        Assert.Equal(1, place.Pixels);
        Assert.Equal((20_000, 12_345), (place.Box.X + place.Box.Width, place.Box.Y + place.Box.Height));
    }

    [Fact]
    public void A_slanting_stroke_is_one_place_and_many_specks_are_taken_together()
    {
        Assert.Single(Marked(900, 900, [.. Enumerable.Range(0, 800).Select(i => new PixelBox(50 + i, 850 - i, 1, 1))]).Find(20));
        var specks = Marked(2000, 2000, [.. Enumerable.Range(0, 400).Select(i => new PixelBox(i % 20 * 100, i / 20 * 100, 2, 2))]).Find(30);
        Assert.InRange(specks.Count, 1, 30);
        Assert.Equal(400 * 4, specks.Sum(p => p.Pixels));
        Assert.Empty(Marked(10, 10).Find(5));
    }

    private static void Holds(PixelBox box, PixelBox inner, int slack)
    {
        Assert.InRange(inner.X - box.X, 0, slack);
        Assert.InRange(inner.Y - box.Y, 0, slack);
        Assert.InRange(box.X + box.Width - (inner.X + inner.Width), 0, slack);
        Assert.InRange(box.Y + box.Height - (inner.Y + inner.Height), 0, slack);
    }
}
