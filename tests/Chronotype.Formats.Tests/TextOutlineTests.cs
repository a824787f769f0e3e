using System.Text;
using System.Xml.Linq;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Formats.Outputs;
using NetVips;

namespace Chronotype.Formats.Tests;

/// <summary>Texts of drawings as outlines, beside what librsvg and Pango draw of the texts themselves.</summary>
public class TextOutlineTests
{
    private const string Machine = "/usr/share/fonts/truetype/dejavu/";

    private static byte[] Drawing(string inner) =>
        Encoding.UTF8.GetBytes(
            $"<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' viewBox='0 0 600 300' width='600' height='300'>{inner}</svg>"
        );

    private static (string File, OutlinedTexts Texts) Plain(byte[] svg, params byte[][] typefaces)
    {
        using var output = new MemoryStream();
        var made = OutputMaker.Make(
            new MemoryStream(svg),
            OurRecipes.Find("plain-svg")!,
            output,
            null,
            [.. typefaces.Select(t => new MemoryStream(t))]
        );
        return (Encoding.UTF8.GetString(output.ToArray()), made.Texts!);
    }

    private static Image Seen(byte[] svg)
    {
        using var drawn = Image.SvgloadBuffer(svg, scale: 2);
        return drawn.Flatten(background: [255.0]).CopyMemory();
    }

    // Of what is dark in either, how much is not so in the other.
    private static double Apart(Image a, Image b)
    {
        using var difference = (a - b).Abs();
        using var inkA = 255 - a;
        return difference.Avg() / Math.Max(inkA.Avg(), 1e-9);
    }

    private static byte[] Called(string name)
    {
        // As long as the name that it has, so that the tables stay where they are.
        Assert.Equal("DejaVu Sans".Length, name.Length);
        var bytes = File.ReadAllBytes(Machine + "DejaVuSans.ttf");
        var (old, own) = (Encoding.BigEndianUnicode.GetBytes("DejaVu Sans"), Encoding.BigEndianUnicode.GetBytes(name));
        for (int at; (at = bytes.AsSpan().IndexOf(old)) >= 0; )
            own.CopyTo(bytes, at);
        return bytes;
    }

    [Theory]
    [InlineData("<text x='20' y='100' font-family='DejaVu Sans' font-size='64'>AVATAR To Wf</text>")]
    [InlineData("<text x='300' y='100' text-anchor='middle' style='font-family:\"DejaVu Serif\",serif;font-size:48px'>High Water</text>")]
    [InlineData(
        "<text x='580' y='100' text-anchor='end' font-family='DejaVu Sans' font-weight='bold' font-size='40'>Réserve 7 – Ægir</text>"
    )]
    [InlineData(
        "<g font-family='DejaVu Sans' font-size='30' transform='translate(30 200) rotate(-20)'><text fill='#a33'>up the hill</text></g>"
    )]
    [InlineData(
        "<text x='20' y='90' font-family='DejaVu Sans Mono' font-size='36'>one <tspan fill='red' font-weight='bold'>two</tspan> three\n"
            + "<tspan x='20' dy='1.4em'>four</tspan></text>"
    )]
    [InlineData("<text x='20' y='100' letter-spacing='6' font-family='DejaVu Sans' font-size='40'>Tide tables</text>")]
    [InlineData(
        "<style>.big{font:bold 44px 'DejaVu Sans'} text{fill:#246} #quiet{fill-opacity:.4}</style><text class='big' x='20' y='80'>Above</text>"
            + "<text id='quiet' class='big' x='20' y='180'>Below &amp; aside</text>"
    )]
    [InlineData("<text xml:space='preserve' x='20' y='100' font-family='DejaVu Sans' font-size='40'>  a   b</text>")]
    [InlineData("<text x='20' y='100' font-family='DejaVu Sans' font-size='80' fill='none' stroke='black' stroke-width='3'>Line</text>")]
    public void Outlines_look_as_the_text_does(string inner)
    {
        var svg = Drawing(inner);
        var (file, texts) = Plain(svg);
        Assert.Empty(texts.Left);
        Assert.True(texts.Outlined > 0);
        Assert.DoesNotContain(XDocument.Parse(file).Descendants(), e => e.Name.LocalName is "text" or "tspan");
        using var was = Seen(svg);
        using var now = Seen(Encoding.UTF8.GetBytes(file));
        // Edges of letters lie between pixels a little otherwise: a twelfth of their ink at this size.
        Assert.InRange(Apart(was, now), 0, 0.08);
        Assert.InRange(255 - was.Avg(), 0.5, 100);
    }

    [Fact]
    public void Letters_that_have_their_own_places_stand_there()
    {
        // librsvg follows the first of a list alone: what the list means is written out for it (SVG 2, 11.4.1).
        var (file, _) = Plain(Drawing("<text x='20 80 140' y='100 120' dx='0 0 5' font-family='DejaVu Sans' font-size='50'>abcd</text>"));
        var apart = Drawing(
            "<g font-family='DejaVu Sans' font-size='50'><text x='20' y='100'>a</text><text x='80' y='120'>b</text><text x='145' y='120'>cd</text></g>"
        );
        using var was = Seen(apart);
        using var now = Seen(Encoding.UTF8.GetBytes(file));
        Assert.InRange(Apart(was, now), 0, 0.08);
    }

    [Fact]
    public void A_typeface_that_is_handed_in_is_drawn_with_and_one_that_is_not_at_hand_leaves_the_text()
    {
        var svg = Drawing(
            "<g id='Words'><text id='name' x='20' y='100' font-family='Fjordl Sans, sans-serif' font-size='40'>Gull &#8212; 7</text>"
                + "<text x='20' y='200' font-family='Nobody Has This' font-size='40'>left</text></g>"
        );
        var (bare, without) = Plain(svg);
        Assert.Equal(0, without.Outlined);
        Assert.Equal(
            [
                new LeftText("Gull — 7", TextObstacle.Typeface, "Fjordl Sans"),
                new LeftText("left", TextObstacle.Typeface, "Nobody Has This"),
            ],
            without.Left
        );
        // What stays is as it was, to the letter.
        Assert.Equal(Encoding.UTF8.GetString(svg), bare);

        var (file, with) = Plain(svg, Called("Fjordl Sans"), [1, 2, 3]);
        Assert.Equal((1, "left"), (with.Outlined, with.Left.Single().Text));
        var group = XDocument.Parse(file).Descendants().Single(e => (string?)e.Attribute("id") == "name");
        Assert.Equal("g", group.Name.LocalName);
        Assert.Contains("<text x='20' y='200'", file);
        using var was = Seen(Encoding.UTF8.GetBytes(Encoding.UTF8.GetString(svg).Replace("Fjordl Sans", "DejaVu Sans")));
        using var now = Seen(Encoding.UTF8.GetBytes(file));
        // The other text is drawn alike in both.
        Assert.InRange(Apart(was, now), 0, 0.08);
        // Layers are called as they were.
        Assert.Equal(
            FormatReader.Read(new MemoryStream(svg)).Layers.Select(l => l.Name),
            FormatReader.Read(new MemoryStream(Encoding.UTF8.GetBytes(file))).Layers.Select(l => l.Name)
        );
    }

    [Theory]
    [InlineData("<text font-family='DejaVu Sans'>a\u4e2d</text>", TextObstacle.Character, "\u4e2d")]
    [InlineData("<text font-family='DejaVu Sans'><textPath href='#p'>round</textPath></text>", TextObstacle.Setting, "textPath")]
    [InlineData("<text font-family='DejaVu Sans' textLength='300'>wide</text>", TextObstacle.Setting, "textLength")]
    [InlineData("<g writing-mode='vertical-rl'><text font-family='DejaVu Sans'>down</text></g>", TextObstacle.Setting, "writing-mode")]
    [InlineData("<text font-family='DejaVu Sans'>\u05e9\u05dc\u05d5\u05dd</text>", TextObstacle.Setting, "direction")]
    [InlineData("<text font-family='Fjordl Sans' font-style='italic'>slanted</text>", TextObstacle.Typeface, "Fjordl Sans")]
    [InlineData("<text>whichever</text>", TextObstacle.Typeface, "")]
    [InlineData("<text font-family='DejaVu Sans' x='30%'>share</text>", TextObstacle.Setting, "x")]
    [InlineData(
        "<linearGradient id='g'><stop/></linearGradient><text font-family='DejaVu Sans' fill='url(#g)'>sky</text>",
        TextObstacle.Setting,
        "fill"
    )]
    public void What_cannot_be_followed_stays_a_text_and_says_why(string inner, TextObstacle why, string about)
    {
        var (file, texts) = Plain(Drawing(inner), Called("Fjordl Sans"));
        Assert.Equal((why, about), (texts.Left.Single().Why, texts.Left.Single().About));
        Assert.Contains("<text", file);
    }

    [Fact]
    public void Cut_lines_have_the_texts_whose_typefaces_are_at_hand()
    {
        var svg = Drawing(
            "<g id='Letters'><text x='20' y='100' font-family='DejaVu Sans' font-size='40'>oil</text></g>"
                + "<text font-family='Nobody Has This'>left</text>"
        );
        using var output = new MemoryStream();
        var made = OutputMaker.Make(new MemoryStream(svg), OurRecipes.Find("cut-hpgl")!, output);
        // o has two outlines, i two, l one.
        Assert.Equal((5, 1), (made.Strokes!.Count, made.Texts!.Outlined));
        Assert.Equal(["Letters"], made.Strokes.Tools);
        Assert.Equal("left", made.Texts.Left.Single().Text);
    }

    [Fact]
    public void A_text_that_clips_is_one_path()
    {
        var svg = Drawing(
            "<clipPath id='c'><text x='20' y='200' font-family='DejaVu Sans' font-weight='bold' font-size='160'>Sea</text></clipPath>"
                + "<rect width='600' height='300' fill='teal' clip-path='url(#c)'/>"
        );
        var (file, _) = Plain(svg);
        Assert.Equal(
            "path",
            XDocument.Parse(file).Descendants().Single(e => e.Name.LocalName == "clipPath").Elements().Single().Name.LocalName
        );
        using var was = Seen(svg);
        using var now = Seen(Encoding.UTF8.GetBytes(file));
        Assert.InRange(Apart(was, now), 0, 0.1);
    }
}
