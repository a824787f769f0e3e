using System.Globalization;
using System.Text;

namespace Chronotype.Demo.Poster;

/// <summary>What the poster looks like at one moment of its making. Lengths in pixels of a canvas of 880 x 1360.</summary>
internal sealed record PosterScene
{
    public const int Width = 880,
        Height = 1360;

    public string SkyTop { get; init; } = "#29407a";
    public string SkyMiddle { get; init; } = "#7fa3c7";
    public string SkyLow { get; init; } = "#d8dcc8";
    public int MoonX { get; init; } = 500;
    public int MoonY { get; init; } = 470;
    public int MoonRadius { get; init; } = 150;
    public string MoonColour { get; init; } = "#f4ecd2";
    public int Craters { get; init; } = 2;
    public bool Glow { get; init; }
    public int Stars { get; init; }

    /// <summary>For each swell from the back to the front: how high its waves go.</summary>
    public IReadOnlyList<int> Swells { get; init; } = [24, 28, 30, 34, 36];

    /// <summary>For each swell: where its waves begin.</summary>
    public IReadOnlyList<int> Phases { get; init; } = [0, 40, 85, 130, 60];

    public int Hue { get; init; } = 200;
    public int Saturation { get; init; } = 38;
    public int Light { get; init; } = 52;
    public int Gulls { get; init; }
    public int TitleY { get; init; } = 96;
    public int SubtitleLines { get; init; }

    /// <summary>Every gull, and the foam of every swell, is a layer of its own.</summary>
    public bool IsDetailed { get; init; }

    /// <summary>The layers from the top down.</summary>
    public IEnumerable<PosterLayer> Layers()
    {
        yield return new PosterLayer("Title", "Lettering", 60, TitleY, 760, 150, Lettering.Draw("MOONPULL", 12, 12, 17, 19, "#ffffff"));
        if (SubtitleLines > 0)
            yield return new PosterLayer(
                "Dates",
                "Lettering",
                60,
                TitleY + 156,
                420,
                70,
                Lettering.Draw("TIDES 12 MAY", 12, 12, 5.2, 5.5, "#f4ecd2")
            );
        if (IsDetailed)
        {
            for (var i = 0; i < Gulls; i++)
                yield return new PosterLayer($"Gull {i + 1}", "Gulls", 90, 300, 320, 240, GullShapes(i, 1));
        }
        else if (Gulls > 0)
            yield return new PosterLayer("Gulls", "", 90, 300, 320, 240, GullShapes(0, Gulls));
        for (var i = Swells.Count - 1; i >= 0; i--)
        {
            var top = 860 + i * 96 - 70;
            if (IsDetailed)
                yield return new PosterLayer($"Foam {i + 1}", "Water", 0, top, Width, 140, Foam(i));
            yield return new PosterLayer($"Swell {i + 1}", "Water", 0, top, Width, Height - top, Swell(i));
        }
        var reach = MoonRadius + (Glow ? 90 : 0);
        if (Glow)
            yield return new PosterLayer("Moon glow", "Sky", MoonX - reach, MoonY - reach, reach * 2, reach * 2, GlowShape(reach));
        yield return new PosterLayer("Moon", "Sky", MoonX - MoonRadius, MoonY - MoonRadius, MoonRadius * 2, MoonRadius * 2, MoonShape());
        if (Stars > 0)
            yield return new PosterLayer("Stars", "Sky", 0, 0, Width, 760, StarShapes());
        yield return new PosterLayer("Sky", "Sky", 0, 0, Width, Height, SkyShape());
    }

    private string SkyShape() =>
        $"""<defs><linearGradient id="s" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="{SkyTop}"/><stop offset=".62" """
        + $"""stop-color="{SkyMiddle}"/><stop offset="1" stop-color="{SkyLow}"/></linearGradient></defs><rect width="{Width}" """
        + $"""height="{Height}" fill="url(#s)"/>""";

    private string MoonShape()
    {
        var r = MoonRadius;
        var shape = new StringBuilder($"""<circle cx="{r}" cy="{r}" r="{r - 1}" fill="{MoonColour}"/>""");
        foreach (var (x, y, size) in new[] { (.34, .42, .10), (.68, .66, .16), (.58, .28, .07), (.30, .70, .06) }.Take(Craters))
        {
            shape.Append(
                CultureInfo.InvariantCulture,
                $"""<circle cx="{2 * r * x:0}" cy="{2 * r * y:0}" r="{2 * r * size:0}" fill="#ded3b0"/>"""
            );
        }
        return shape.ToString();
    }

    private string GlowShape(int reach) =>
        $"""<defs><radialGradient id="g"><stop offset="0" stop-color="{MoonColour}" stop-opacity=".55"/><stop offset=".6" """
        + $"""stop-color="{MoonColour}" stop-opacity=".22"/><stop offset="1" stop-color="{MoonColour}" """
        + $"""stop-opacity="0"/></radialGradient></defs><circle cx="{reach}" cy="{reach}" r="{reach}" fill="url(#g)"/>""";

    private string StarShapes()
    {
        var random = new Random(7);
        var shapes = new StringBuilder();
        for (var i = 0; i < Stars; i++)
        {
            shapes.Append(
                CultureInfo.InvariantCulture,
                $"""<circle cx="{random.Next(Width)}" cy="{random.Next(740)}" r="{1 + random.NextDouble() * 1.8:0.0}" fill="#fff" """
                    + $"""opacity="{0.4 + random.NextDouble() * 0.6:0.0}"/>"""
            );
        }
        return shapes.ToString();
    }

    private string Swell(int i) => $"""<path d="{Crest(i)}V{Height}H{-Phases[i]}Z" fill="hsl({Hue} {Saturation}% {Light - i * 7}%)"/>""";

    private string Foam(int i) => $"""<path d="{Crest(i)}" fill="none" stroke="#fff" stroke-opacity=".35" stroke-width="5"/>""";

    private string Crest(int i)
    {
        var path = new StringBuilder($"M{-Phases[i]} 70");
        for (var x = 0; x < 6; x++)
            path.Append($"q55 {-Swells[i]} 110 0t110 0");
        return path.ToString();
    }

    private string GullShapes(int from, int count)
    {
        var shapes = new StringBuilder("""<g stroke="#0c1226" stroke-width="6" fill="none" stroke-linecap="round">""");
        foreach (
            var (x, y, size) in new[] { (60, 60, 30), (170, 30, 22), (230, 120, 26), (90, 160, 18), (250, 200, 16) }.Skip(from).Take(count)
        )
        {
            shapes.Append($"<path d=\"M{x} {y}q{size} {-size} {size} {size / 2}q{size / 2} {-size} {size + 6} {-size / 3}\"/>");
        }
        return shapes.Append("</g>").ToString();
    }
}

/// <param name="Shapes">SVG elements, drawn from the layer's own corner.</param>
internal sealed record PosterLayer(string Name, string Group, int X, int Y, int Width, int Height, string Shapes)
{
    public string Svg => $"""<svg xmlns="http://www.w3.org/2000/svg" width="{Width}" height="{Height}">{Shapes}</svg>""";
}

/// <summary>Letters drawn as strokes, so that the poster needs no typeface of the machine's.</summary>
internal static class Lettering
{
    // On a grid of 4 x 6.
    private static readonly Dictionary<char, string> Strokes = new()
    {
        ['M'] = "M0 6V0L2 3.4L4 0V6",
        ['O'] = "M0 1.4V4.6Q0 6 1.4 6H2.6Q4 6 4 4.6V1.4Q4 0 2.6 0H1.4Q0 0 0 1.4Z",
        ['N'] = "M0 6V0L4 6V0",
        ['P'] = "M0 6V0H2.6Q4 0 4 1.6T2.6 3.4H0",
        ['U'] = "M0 0V4.4Q0 6 1.6 6H2.4Q4 6 4 4.4V0",
        ['L'] = "M0 0V6H4",
        ['T'] = "M0 0H4M2 0V6",
        ['I'] = "M2 0V6",
        ['D'] = "M0 0V6H2Q4 6 4 4V2Q4 0 2 0Z",
        ['E'] = "M4 0H0V6H4M0 3H3.4",
        ['S'] = "M4 0.8Q3.2 0 2 0Q0 0 0 1.5T2 3T4 4.5T2 6Q0.8 6 0 5.2",
        ['1'] = "M1 1.2L2.4 0V6",
        ['2'] = "M0 1.4Q0 0 2 0T4 1.6Q4 2.8 0 6H4",
        ['A'] = "M0 6L2 0L4 6M0.7 4H3.3",
        ['Y'] = "M0 0L2 3L4 0M2 3V6",
    };

    public static string Draw(string text, double x, double y, double unit, double weight, string colour)
    {
        var shapes = new StringBuilder($"""<g fill="none" stroke="{colour}" stroke-linejoin="round" stroke-linecap="round">""");
        foreach (var letter in text)
        {
            if (Strokes.TryGetValue(letter, out var stroke))
            {
                shapes.Append(
                    CultureInfo.InvariantCulture,
                    $"""<path transform="translate({x:0.#} {y:0.#}) scale({unit:0.##})" stroke-width="{weight / unit:0.##}" """
                        + $"""d="{stroke}"/>"""
                );
            }
            x += unit * 5.55;
        }
        return shapes.Append("</g>").ToString();
    }
}
