using System.Globalization;
using System.Net;
using System.Text;

namespace Chronotype.Web.Uploads;

/// <summary>A picture in place of one that cannot be drawn, which says why.</summary>
public static class NotDrawnSvg
{
    private const int Width = 480,
        Height = 360,
        LineLetters = 44,
        Leading = 22;

    public static string Draw(string sentence, ThemeColours theme)
    {
        var lines = new List<string> { "" };
        foreach (var word in sentence.Split(' '))
        {
            if (lines[^1].Length + word.Length >= LineLetters)
                lines.Add("");
            lines[^1] += lines[^1].Length == 0 ? word : $" {word}";
        }
        var svg = new StringBuilder(
            $"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {Width} {Height}" width="{Width}" height="{Height}"><rect """
                + $"""width="{Width}" height="{Height}" fill="{theme["easel"]}"/>"""
        );
        svg.Append($"""<g fill="{theme["raised"]}" font-family="sans-serif" font-size="16" text-anchor="middle">""");
        var y = (Height - (lines.Count - 1) * Leading) / 2;
        for (var i = 0; i < lines.Count; i++)
            svg.Append(
                CultureInfo.InvariantCulture,
                $"""<text x="{Width / 2}" y="{y + i * Leading}">{WebUtility.HtmlEncode(lines[i])}</text>"""
            );
        return svg.Append("</g></svg>").ToString();
    }
}
