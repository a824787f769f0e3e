using System.Text.Json;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests.Outputs;

public class RecipeTests
{
    private static Recipe Picture(OutputSize? size, PictureFit fit = PictureFit.Inside, PictureFile file = PictureFile.Png) =>
        new("made", "Made")
        {
            Picture = new PictureRecipe(file) { Size = size, Fit = fit },
        };

    [Fact]
    public void Ours_are_recipes_and_read_back_as_they_are_written()
    {
        Assert.True(OurRecipes.All.Count >= 7);
        foreach (var recipe in OurRecipes.All)
        {
            Assert.Empty(RecipeRules.Check(recipe));
            var read = RecipeFile.Read(RecipeFile.Write(recipe));
            Assert.Empty(read.Faults);
            Assert.Equal(recipe, read.Recipe);
        }
        Assert.Equal(OurRecipes.All.Count, OurRecipes.All.Select(r => r.Key).Distinct().Count());
    }

    [Theory]
    [InlineData(420, "mm", 300, 4961)]
    [InlineData(594, "mm", 300, 7016)]
    [InlineData(210, "mm", 300, 2480)]
    [InlineData(297, "mm", 300, 3508)]
    [InlineData(8.5, "in", 300, 2550)]
    [InlineData(29.7, "cm", 150, 1754)]
    [InlineData(1080, "px", 0, 1080)]
    public void A_print_size_is_exact_to_the_pixel(double side, string unit, double dense, double pixels) =>
        Assert.Equal(pixels, PictureFrame.Pixels(side, unit, dense));

    [Theory]
    [InlineData(1000, 500, 400, 400, PictureFit.Inside, "400x200, 400x200 at 0,0")]
    [InlineData(1000, 500, 400, 400, PictureFit.Pad, "400x400, 400x200 at 0,100")]
    [InlineData(1000, 500, 400, 400, PictureFit.Fill, "400x400, 800x400 at -200,0")]
    [InlineData(3, 1, 1, 1, PictureFit.Inside, "1x1, 1x1 at 0,0")]
    [InlineData(50, 50, 400, 300, PictureFit.Fill, "400x300, 400x400 at 0,-50")]
    public void A_picture_comes_into_a_size_as_the_recipe_says(int width, int height, int across, int down, PictureFit fit, string where)
    {
        var frame = PictureFrame.Of(width, height, null, Picture(new(across, down, "px"), fit).Picture!);
        Assert.Equal(where, $"{frame.Width}x{frame.Height}, {frame.ScaledWidth}x{frame.ScaledHeight} at {frame.X},{frame.Y}");
    }

    [Fact]
    public void A_sheet_of_paper_is_turned_as_it_lies_better()
    {
        var paper = Picture(new(210, 297, "mm", 100) { Turns = true }, PictureFit.Pad).Picture!;
        Assert.Equal((1169, 827, true), Size(PictureFrame.Of(2000, 1000, null, paper)));
        Assert.Equal((827, 1169, false), Size(PictureFrame.Of(1000, 2000, null, paper)));
        Assert.Equal((827, 1169, false), Size(PictureFrame.Of(2000, 1000, null, paper with { Size = paper.Size! with { Turns = false } })));

        static (int, int, bool) Size(PictureFrame frame) => (frame.Width, frame.Height, frame.IsTurned);
    }

    [Property(MaxTest = 400)]
    public bool Whatever_its_proportions_a_picture_is_in_the_frame_or_fills_it(
        PositiveInt width,
        PositiveInt height,
        PositiveInt across,
        PositiveInt down
    )
    {
        PictureFrame Of(PictureFit fit) =>
            PictureFrame.Of(width.Get, height.Get, null, Picture(new(across.Get, down.Get, "px"), fit).Picture!);
        var (inside, pad, fill) = (Of(PictureFit.Inside), Of(PictureFit.Pad), Of(PictureFit.Fill));
        return inside.Width <= across.Get
            && inside.Height <= down.Get
            && (inside.Width == across.Get || inside.Height == down.Get)
            && (pad.Width, pad.Height, fill.Width, fill.Height) == (across.Get, down.Get, across.Get, down.Get)
            && pad.X >= 0
            && pad.Y >= 0
            && pad.X + pad.ScaledWidth <= pad.Width
            && fill.X <= 0
            && fill.Y <= 0
            && fill.X + fill.ScaledWidth >= fill.Width
            && fill.Y + fill.ScaledHeight >= fill.Height;
    }

    [Theory]
    [InlineData("""{"recipe":"a","name":"A"}""", "")]
    [InlineData("""{"recipe":"A b","name":"A","sound":{"file":"wave"}}""", "recipe")]
    [InlineData("""{"recipe":"a","name":" ","sound":{"file":"wave"}}""", "name")]
    [InlineData("""{"recipe":"a","name":"A","sound":{"file":"wave"},"picture":{"file":"png"}}""", "")]
    [InlineData("""{"recipe":"a","name":"A","picture":{"file":"bmp"}}""", "picture.file")]
    [InlineData("""{"recipe":"a","name":"A","picture":{"file":"png","size":{"width":0,"height":1,"unit":"px"}}}""", "picture.size")]
    [InlineData("""{"recipe":"a","name":"A","picture":{"file":"png","size":{"width":10000000,"height":1,"unit":"px"}}}""", "picture.size")]
    [InlineData("""{"recipe":"a","name":"A","picture":{"file":"png","size":{"width":9,"height":9,"unit":"mm"}}}""", "picture.size.dpi")]
    [InlineData("""{"recipe":"a","name":"A","picture":{"file":"png","size":{"width":9,"height":9,"unit":"ft"}}}""", "picture.size.unit")]
    [InlineData("""{"recipe":"a","name":"A","picture":{"file":"jpeg","depth":16}}""", "picture.depth")]
    [InlineData("""{"recipe":"a","name":"A","picture":{"file":"png","background":"red"}}""", "picture.background")]
    [InlineData("""{"recipe":"a","name":"A","picture":{"file":"png","layers":1}}""", "picture.layers")]
    [InlineData("""{"recipe":"a","name":"A","sound":{"file":"wave","rate":44101}}""", "sound.rate")]
    [InlineData("""{"recipe":"a","name":"A","sound":{"file":"wave","bits":20}}""", "sound.bits")]
    [InlineData("""{"recipe":"a","name":"A","sound":{"file":"wave","loudness":3}}""", "sound.loudness")]
    [InlineData("""{"recipe":"a","name":"A","sound":{"file":"wave","from":-1}}""", "sound.from")]
    [InlineData("[]", "")]
    [InlineData("{", "line 1, column 2")]
    public void What_is_no_recipe_says_where(string text, string place)
    {
        var read = RecipeFile.Read(text);
        Assert.Null(read.Recipe);
        Assert.Equal(place, read.Faults[0].Place);
    }

    [Fact]
    public void What_an_output_gives_up_is_told_from_what_was_read()
    {
        var facts = new FileFacts
        {
            Format = FileFormat.OpenRaster,
            Picture = new PictureFacts(3445, 4872, 1)
            {
                HasAlpha = true,
                Depth = 16,
                Profile = "Coated paper",
            },
            Layers = [new(LayerKind.Group, "Air"), new(LayerKind.Text, "Title", 1), new(LayerKind.Pixels, "Sky", 1)],
        };
        var print = GivenUp.Of(facts, OurRecipes.Find("print-a2-300")!)!;
        Assert.Equal([Loss.Layers, Loss.Texts, Loss.Transparency, Loss.Depth, Loss.Profile, Loss.Detail], print.Select(l => l.Loss));
        Assert.Equal((2, "Title", 208), (print[0].Was, print[1].Names[0], print[5].Was));
        var small = GivenUp.Of(facts, Picture(new(400, 400, "px"), PictureFit.Fill, PictureFile.Jpeg))!;
        Assert.Equal([Loss.Edges, Loss.Pixels, Loss.Compression], small.Select(l => l.Loss).Except(print.Select(l => l.Loss)));
        Assert.Equal(400.0 / 566, small.First(l => l.Loss == Loss.Edges).Now, 3);
        Assert.Null(GivenUp.Of(facts, OurRecipes.Find("wav-48-24")!));

        var mix = new FileFacts { Format = FileFormat.Wave, Sound = new SoundFacts(48_000, 24, 2, 480_000, false) };
        var cut = new Recipe("cut", "Cut")
        {
            Sound = new(SoundFile.Wave)
            {
                SampleRate = 44_100,
                Bits = 16,
                Channels = 1,
                From = 2,
                Seconds = 3,
            },
        };
        Assert.Equal(
            [(Loss.SampleRate, 44_100.0), (Loss.Depth, 16), (Loss.Channels, 1), (Loss.Time, 3)],
            GivenUp.Of(mix, cut)!.Select(l => (l.Loss, l.Now))
        );
        Assert.Empty(GivenUp.Of(mix, OurRecipes.Find("wav-48-24")!)!);
    }

    [Fact]
    public void The_schema_knows_every_setting_and_every_rate()
    {
        var properties = JsonDocument.Parse(DocsFolder.Read("recipe.schema.json")).RootElement.GetProperty("properties");
        string[] Keys(string kind) => [.. properties.GetProperty(kind).GetProperty("properties").EnumerateObject().Select(p => p.Name)];
        string[] Told(string text) => [.. RecipeFile.Read(text).Faults[0].Message.Split("settings are ")[1].TrimEnd('.').Split(", ")];
        Assert.Equal(Told("""{"recipe":"a","name":"A","picture":{"file":"png","x":1}}"""), Keys("picture"));
        Assert.Equal(Told("""{"recipe":"a","name":"A","sound":{"file":"wave","x":1}}"""), Keys("sound"));
        Assert.Equal(
            RecipeRules.Rates,
            properties
                .GetProperty("sound")
                .GetProperty("properties")
                .GetProperty("rate")
                .GetProperty("enum")
                .EnumerateArray()
                .Select(r => r.GetInt32())
        );
    }
}
