using System.IO.Compression;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using NetVips;

namespace Chronotype.Formats.Tests;

public sealed class TileTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("tiles-").FullName;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    private static PictureSource Source(byte[] file, int? layer = null) =>
        new(new MemoryStream(file), FormatReader.Read(new MemoryStream(file)), Layer: layer);

    private string Path => System.IO.Path.Combine(folder, $"{Guid.NewGuid():N}.zip");

    // Every tile of a scale, put together again.
    private static Image Whole(string zip, TiledPicture tiles, int level)
    {
        using var archive = ZipFile.OpenRead(zip);
        var scale = 1 << (tiles.TopLevel - level);
        var (width, height) = ((tiles.Width + scale - 1) / scale, (tiles.Height + scale - 1) / scale);
        var (across, down) = ((width + tiles.TileSide - 1) / tiles.TileSide, (height + tiles.TileSide - 1) / tiles.TileSide);
        var images = new List<Image>();
        for (var y = 0; y < down; y++)
        {
            for (var x = 0; x < across; x++)
            {
                using var entry = archive.Entries.Single(e => e.FullName.EndsWith($"_files/{level}/{x}_{y}{tiles.Extension}")).Open();
                var memory = new MemoryStream();
                entry.CopyTo(memory);
                images.Add(Image.NewFromBuffer(memory.ToArray()));
            }
        }
        var whole = Image.Arrayjoin([.. images], across: across);
        return whole.Crop(0, 0, width, height);
    }

    private static byte[] Noisy(int width, int height, int seed) =>
        Image
            .Gaussnoise(width, height, sigma: 40, mean: 120, seed: seed)
            .Cast(Enums.BandFormat.Uchar)
            .Bandjoin(new double[] { 90, 200 })
            .Copy(interpretation: Enums.Interpretation.Srgb)
            .PngsaveBuffer();

    [Fact]
    public void A_picture_is_given_back_pixel_for_pixel_and_halves_down_to_one()
    {
        var (png, zip) = (Noisy(1300, 700, 1), Path);
        var tiles = TileCutter.Cut(Source(png), zip);
        Assert.Equal((1300, 700, 512, ".png", 11), (tiles.Width, tiles.Height, tiles.TileSide, tiles.Extension, tiles.TopLevel));
        using var whole = Whole(zip, tiles, tiles.TopLevel);
        using var picture = Image.NewFromBuffer(png);
        Assert.Equal(0, (whole - picture).Abs().Max());
        using var pixel = Whole(zip, tiles, 0);
        Assert.Equal((1, 1), (pixel.Width, pixel.Height));
    }

    [Fact]
    public void Two_that_are_equal_differ_nowhere_and_one_pixel_is_found()
    {
        var (png, zip) = (Noisy(900, 600, 1), Path);
        var same = TileCutter.CutDifference(Source(png), Source(png), zip);
        Assert.Equal((0L, 0), (same.Differing, same.Places.Count));
        using var picture = Image.NewFromBuffer(png);
        var touched = picture.Mutate(m => m.DrawRect([0, 0, 0], 800, 500, 1, 1, fill: true)).PngsaveBuffer();
        var one = TileCutter.CutDifference(Source(png), Source(touched), Path);
        Assert.Equal(1, one.Differing);
        var box = Assert.Single(one.Places).Box;
        Assert.True(box.Overlap(new PixelBox(800, 500, 1, 1)) == 1);
        Assert.InRange(box.Area, 1, 400);
    }

    [Fact]
    public void A_difference_is_that_of_every_channel()
    {
        var (first, second, file) = (Noisy(300, 200, 1), Noisy(300, 200, 2), System.IO.Path.Combine(folder, "difference.png"));
        TileCutter.WriteDifference(Source(first), Source(second), file);
        using var written = Image.NewFromFile(file);
        using var a = Image.NewFromBuffer(first);
        using var b = Image.NewFromBuffer(second);
        using var expected = (a - b).Abs();
        Assert.Equal(0, (written.ExtractBand(0, n: 3) - expected).Abs().Max());
        Assert.Equal(0, written[3].Max());
    }

    [Fact]
    public void What_differs_is_bright_and_what_does_not_is_dim_and_grey()
    {
        var (flat, zip) = (Samples.Flat(".png", 400, 300), Path);
        using var picture = Image.NewFromBuffer(flat);
        var touched = picture.Mutate(m => m.DrawRect([255, 255, 255], 100, 100, 60, 40, fill: true)).PngsaveBuffer();
        var tiles = TileCutter.CutDifference(Source(flat), Source(touched), zip);
        Assert.Equal(2400, tiles.Differing);
        Assert.Equal(2400, Assert.Single(tiles.Places).Pixels);
        using var whole = Whole(zip, tiles, tiles.TopLevel);
        var (inside, outside) = (whole.Getpoint(120, 120), whole.Getpoint(20, 20));
        Assert.True(inside.Max() > 200);
        Assert.True(outside.Max() < 90 && outside.Max() - outside.Min() < 1);
    }

    [Fact]
    public void Pictures_of_two_sizes_differ_where_only_one_has_pixels()
    {
        var tiles = TileCutter.CutDifference(Source(Samples.Flat(".png", 100, 100)), Source(Samples.Flat(".png", 120, 90)), Path);
        Assert.Equal((120, 100), (tiles.Width, tiles.Height));
        Assert.Equal(20 * 90 + 10 * 100, tiles.Differing);
    }

    [Fact]
    public void A_layer_is_had_alone_at_its_place()
    {
        var ora = Samples.OpenRaster(
            100,
            80,
            new Samples.OraLayer("Moon", 20, 20, Red: 250, X: 30, Y: 40),
            new Samples.OraLayer("Sky", 100, 80)
        );
        var zip = Path;
        var tiles = TileCutter.Cut(Source(ora, layer: 0), zip);
        Assert.Equal((100, 80), (tiles.Width, tiles.Height));
        using var whole = Whole(zip, tiles, tiles.TopLevel);
        Assert.Equal(250, whole.Getpoint(35, 45)[0]);
        Assert.Equal(0x76, whole.Getpoint(10, 10)[0]);

        const string drawing = """
            <g id="left"><rect width="50" height="100" fill="#f00"/></g>
            <g id="right"><rect x="50" width="50" height="100" fill="#00f"/></g>
            """;
        zip = Path;
        // The right one is drawn last, so it is the first of the stack.
        tiles = TileCutter.Cut(Source(Samples.Svg(drawing), layer: 0), zip);
        using var right = Whole(zip, tiles, tiles.TopLevel - 3);
        // A picture of this size is cut with a little loss.
        Assert.Equal(0x76, right.Getpoint(right.Width / 4, right.Height / 2)[0], 4.0);
        Assert.Equal(255, right.Getpoint(right.Width * 3 / 4, right.Height / 2)[2], 4.0);
    }

    [Fact]
    public void A_layer_that_is_not_there_and_a_picture_too_large_are_refused()
    {
        var ora = Samples.OpenRaster(10, 10, new Samples.OraLayer("Sky", 10, 10));
        Assert.Throws<UnreadableFileException>(() => TileCutter.Cut(Source(ora, layer: 7), Path));
        var huge = Samples.PngThatClaims(60_000, 60_000);
        Assert.Equal(
            FileFaultCode.PictureTooLarge,
            Assert.Throws<UnreadableFileException>(() => TileCutter.Cut(Source(huge), Path)).Fault.Code
        );
        Assert.Empty(Directory.GetFiles(folder));
    }
}
