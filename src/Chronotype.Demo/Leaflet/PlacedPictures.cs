using System.Text;
using NetVips;

namespace Chronotype.Demo.Leaflet;

/// <summary>What the exhibition's pieces place: textures, drawings, and the scans that they came from.</summary>
internal static class PlacedPictures
{
    /// <summary>Paper, as a photograph of it: a ground with a fibre here and there.</summary>
    /// <param name="warmth">How yellow it is, from 0 to 1.</param>
    public static byte[] Paper(double warmth, int seed)
    {
        var random = new Random(seed);
        var fibres = string.Concat(
            Enumerable
                .Range(0, 420)
                .Select(_ =>
                    $"""<path d="M{random.Next(740)} {random.Next(1050)}q{random.Next(-9, 9)} {random.Next(-9, 9)} {random.Next(-22, 22)} {random.Next(-22, 22)}" stroke="#7a6a48" stroke-opacity="{(random.NextDouble() * 0.3).ToString("0.00", System.Globalization.CultureInfo.InvariantCulture)}" fill="none"/>"""
                )
        );
        return Png(
            740,
            1050,
            $"""<rect width="740" height="1050" fill="rgb(242,{236 - (int)(warmth * 14)},{226 - (int)(warmth * 60)})"/>{fibres}"""
        );
    }

    /// <summary>The moon's disc, cut out.</summary>
    public static byte[] Moon(int craters) =>
        Png(
            400,
            400,
            """<circle cx="200" cy="200" r="190" fill="#f4ecd2"/>"""
                + string.Concat(
                    Enumerable
                        .Range(0, craters)
                        .Select(i =>
                            $"""<circle cx="{110 + i * 67 % 190}" cy="{120 + i * 83 % 170}" r="{16 + i * 7 % 25}" fill="#d9cfae"/>"""
                        )
                )
        );

    /// <summary>A sheet of drawings as the scanner gave it: grey paper, pencil, and a shadow at the edge.</summary>
    public static byte[] Scan(int seed)
    {
        var random = new Random(seed);
        var strokes = string.Concat(
            Enumerable
                .Range(0, 26)
                .Select(_ =>
                    $"""<path d="M{random.Next(60, 760)} {random.Next(80, 1000)}q{random.Next(30, 90)} {random.Next(-90, -30)} {random.Next(90, 160)} 0q{random.Next(20, 70)} {random.Next(-80, -20)} {random.Next(80, 150)} 0" stroke="#4a4a4c" stroke-width="{random.Next(2, 6)}" fill="none"/>"""
                )
        );
        return Png(
            860,
            1120,
            $"""<rect width="860" height="1120" fill="#e6e5e0"/><rect width="26" height="1120" fill="#b9b8b2"/>{strokes}"""
        );
    }

    /// <summary>A still of a shot: a sky, water, and what is in it.</summary>
    public static byte[] Still(string sky, string water, string shapes = "") =>
        Png(960, 540, $"""<rect width="960" height="540" fill="{sky}"/><rect y="330" width="960" height="210" fill="{water}"/>{shapes}""");

    public static readonly byte[] Birds = Encoding.UTF8.GetBytes(
        """
        <svg xmlns="http://www.w3.org/2000/svg" width="220" height="150" viewBox="0 0 220 150">
          <g id="birds" fill="none" stroke="#fff" stroke-width="7" stroke-linecap="round">
            <path d="M10 60q22 -34 44 0q22 -34 44 0"/>
            <path d="M120 40q17 -26 34 0q17 -26 34 0"/>
            <path d="M90 120q20 -30 40 0q20 -30 40 0"/>
          </g>
        </svg>
        """
    );

    private static byte[] Png(int width, int height, string shapes)
    {
        using var image = Image.SvgloadBuffer(
            Encoding.UTF8.GetBytes($"""<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}">{shapes}</svg>""")
        );
        return image.PngsaveBuffer(compression: 6);
    }
}
