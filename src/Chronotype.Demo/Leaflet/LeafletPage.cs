using System.Text;

namespace Chronotype.Demo.Leaflet;

/// <summary>What the leaflet shows at one moment, and what it refers to for that.</summary>
/// <param name="Ground">The picture that all of it lies on; null for none.</param>
/// <param name="Moon">The moon's; null for none.</param>
/// <param name="Birds">The birds'; null for none.</param>
/// <param name="Code">The one that visitors hold their telephones over; null for none.</param>
/// <param name="Lines">How many lines of text there are.</param>
internal sealed record LeafletLook(string? Ground, string? Moon, string? Birds, string? Code, int Lines);

/// <summary>The leaflet as an SVG that draws little itself, and places pictures that stand among the project's assets.</summary>
internal static class LeafletPage
{
    public static byte[] Make(LeafletLook look)
    {
        var svg = new StringBuilder(
            """
            <svg xmlns="http://www.w3.org/2000/svg" width="148mm" height="210mm" viewBox="0 0 592 840">
              <rect id="page" width="592" height="840" fill="#f2ecdc"/>

            """
        );
        Place("ground", look.Ground, 0, 0, 592, 840);
        svg.AppendLine("""  <rect id="sky" x="40" y="40" width="512" height="330" fill="#16304f"/>""");
        Place("moon", look.Moon, 330, 70, 170, 170);
        Place("birds", look.Birds, 70, 110, 220, 150);
        svg.AppendLine("""  <path id="water" d="M40 330q64 -34 128 0t128 0t128 0t128 0V370H40z" fill="#8fb2c9"/>""");
        for (var i = 0; i < look.Lines; i++)
            svg.AppendLine(
                $"""  <rect id="line-{i + 1}" x="40" y="{430 + i * 26}" width="{(i % 4 == 3 ? 280 : 512)}" height="9" fill="#3d4650"/>"""
            );
        Place("code", look.Code, 442, 710, 110, 110);
        return Encoding.UTF8.GetBytes(svg.Append("</svg>\n").ToString());

        void Place(string id, string? picture, int x, int y, int width, int height)
        {
            if (picture is not null)
                svg.AppendLine($"""  <image id="{id}" x="{x}" y="{y}" width="{width}" height="{height}" href="{picture}"/>""");
        }
    }
}
