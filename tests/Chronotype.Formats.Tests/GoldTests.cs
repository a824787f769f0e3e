using System.Text;
using Chronotype.Core.Outputs;
using Chronotype.Formats.Outputs;
using NetVips;

namespace Chronotype.Formats.Tests;

/// <summary>
/// Pictures by recipes beside ones that were looked at and set aside in <c>Gold</c>. Tolerance: no channel of any pixel more than 6 of 255
/// off, all together no more than 0.5 on average; of what is coded with loss, 24 and 1.5. With <c>CHRONOTYPE_GOLD=write</c> they are made
/// anew, to be looked at again.
/// </summary>
public class GoldTests
{
    private static readonly string Folder = Path.Combine(FindRoot(), "tests", "Chronotype.Formats.Tests", "Gold");

    // A card with what goes wrong: fine lines, flat colours, a gradient, half transparency, an edge that is cut.
    private const string Card = """
        <svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 240 160" width="240" height="160">
          <defs><linearGradient id="dusk"><stop offset="0" stop-color="#0b1c38"/><stop offset="1" stop-color="#e8b04a"/></linearGradient></defs>
          <rect x="10" y="10" width="220" height="60" fill="url(#dusk)"/>
          <rect x="10" y="80" width="40" height="40" fill="#c8102e"/><rect x="50" y="80" width="40" height="40" fill="#00a651"/>
          <rect x="90" y="80" width="40" height="40" fill="#0057b8"/><circle cx="190" cy="100" r="45" fill="#ffffff" fill-opacity=".6"/>
          <path d="M10 130h120M10 134h120M10 138h120M10 142h120" stroke="#171717" stroke-width="1"/><path d="M0 0l30 30M240 160l-30 -30" stroke="#171717" stroke-width="6"/>
        </svg>
        """;

    private static readonly Dictionary<string, Func<byte[]>> Contents = new()
    {
        ["card"] = () =>
        {
            using var drawn = Image.SvgloadBuffer(Encoding.UTF8.GetBytes(Card));
            return drawn.PngsaveBuffer();
        },
        ["deep"] = () =>
        {
            using var drawn = Image.SvgloadBuffer(Encoding.UTF8.GetBytes(Card));
            using var deep = (drawn.Cast(Enums.BandFormat.Ushort) * 257).Cast(Enums.BandFormat.Ushort);
            using var told = deep.Copy(interpretation: Enums.Interpretation.Rgb16);
            return told.TiffsaveBuffer();
        },
        ["drawing"] = () => Encoding.UTF8.GetBytes(Card),
        ["layers"] = () =>
            Samples.OpenRaster(
                120,
                80,
                new Samples.OraLayer("Moon", 40, 40, Red: 240, X: 60, Y: 10),
                new Samples.OraLayer("Sea", 120, 30, Red: 30, Y: 50)
            ),
        ["scene"] = () => Samples.Glb([new("Buoy", Side: 1), new("Pier", Side: 2, X: 3)]),
    };

    private static Recipe Of(PictureRecipe picture) => new("gold", "Gold") { Picture = picture };

    private static readonly Dictionary<string, (string Content, Recipe Recipe)> Cases = new()
    {
        ["inside"] = ("card", Of(new(PictureFile.Png) { Size = new(90, 90, "px") })),
        ["pad"] = (
            "card",
            Of(
                new(PictureFile.Png)
                {
                    Size = new(100, 100, "px"),
                    Fit = PictureFit.Pad,
                    Background = "#f4ecd2",
                }
            )
        ),
        ["fill"] = (
            "card",
            Of(
                new(PictureFile.Png)
                {
                    Size = new(80, 120, "px"),
                    Fit = PictureFit.Fill,
                    Background = "#ffffff",
                }
            )
        ),
        ["turned"] = (
            "card",
            Of(
                new(PictureFile.Png)
                {
                    Size = new(40, 60, "mm", 60) { Turns = true },
                    Fit = PictureFit.Pad,
                    Background = "#ffffff",
                }
            )
        ),
        ["larger"] = ("card", Of(new(PictureFile.Png) { Size = new(400, 400, "px"), Background = "#ffffff" })),
        ["bleed"] = (
            "card",
            Of(
                new(PictureFile.Png)
                {
                    Size = new(40, 30, "mm", 72),
                    Fit = PictureFit.Fill,
                    Bleed = 3,
                    Marks = true,
                    Background = "#ffffff",
                }
            )
        ),
        ["grey"] = ("card", Of(new(PictureFile.Png) { Colour = PictureColour.Grey, Background = "#ffffff" })),
        ["sharp"] = (
            "card",
            Of(
                new(PictureFile.Png)
                {
                    Size = new(90, 90, "px"),
                    Sharpen = 2,
                    Background = "#ffffff",
                }
            )
        ),
        ["deep"] = ("deep", Of(new(PictureFile.Tiff) { Size = new(90, 90, "px"), Depth = 16 })),
        ["eight"] = ("deep", Of(new(PictureFile.Png) { Size = new(90, 90, "px") })),
        ["region"] = ("card", Of(new(PictureFile.Png) { Region = new(40, 70, 100, 60), Size = new(150, 150, "px") })),
        ["drawn"] = ("drawing", Of(new(PictureFile.Png) { Size = new(300, 300, "px") })),
        ["merged"] = ("layers", Of(new(PictureFile.Png) { Size = new(60, 60, "px") })),
        ["moon"] = ("layers", Of(new(PictureFile.Png)) with { Layers = ["Moon"] }),
        ["scene"] = (
            "scene",
            Of(
                new(PictureFile.Png)
                {
                    Size = new(160, 120, "px"),
                    Fit = PictureFit.Pad,
                    Background = "#335577",
                }
            )
        ),
        ["coded"] = (
            "card",
            Of(
                new(PictureFile.Jpeg)
                {
                    Size = new(90, 90, "px"),
                    Quality = 60,
                    Background = "#ffffff",
                }
            )
        ),
        ["web"] = ("card", Of(new(PictureFile.WebP) { Size = new(90, 90, "px"), Quality = 60 })),
    };

    public static TheoryData<string> Names => [.. Cases.Keys];

    [Theory]
    [MemberData(nameof(Names))]
    public void A_picture_is_as_it_was_when_it_was_looked_at(string name)
    {
        var (content, recipe) = Cases[name];
        using var output = new MemoryStream();
        OutputMaker.Make(new MemoryStream(Contents[content]()), recipe, output);
        using var made = Image.NewFromBuffer(output.ToArray());
        var place = Path.Combine(Folder, $"{name}.png");
        if (Environment.GetEnvironmentVariable("CHRONOTYPE_GOLD") == "write")
        {
            Directory.CreateDirectory(Folder);
            made.Pngsave(place, keep: Enums.ForeignKeep.None);
        }
        using var gold = Image.NewFromFile(place);
        Assert.Equal((gold.Width, gold.Height, gold.Bands), (made.Width, made.Height, made.Bands));
        Assert.Equal(gold.Format, made.Format);
        using var apart = (made - gold).Abs();
        var unit = made.Format == Enums.BandFormat.Ushort ? 257.0 : 1;
        var (most, mean) = recipe.Picture!.File is PictureFile.Jpeg or PictureFile.WebP ? (24, 1.5) : (6, 0.5);
        Assert.InRange(apart.Max() / unit, 0, most);
        Assert.InRange(apart.Avg() / unit, 0, mean);
    }

    private static string FindRoot()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (folder is not null && !File.Exists(Path.Combine(folder.FullName, "Chronotype.slnx")))
            folder = folder.Parent;
        return folder?.FullName ?? throw new InvalidOperationException("The tests stand in no solution.");
    }
}
