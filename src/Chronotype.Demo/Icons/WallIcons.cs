using System.Text;

namespace Chronotype.Demo.Icons;

/// <summary>The signs on the exhibition's walls, as SVG, in the steps of their making.</summary>
internal static class WallIcons
{
    private const string Water = "M40 300q55 -46 110 0t110 0t110 0t110 0";

    public static readonly IReadOnlyList<(string Subject, IReadOnlyList<(string Note, string Svg)> Steps)> All =
    [
        (
            "Wall, high water",
            [
                ("Waves only", Sign(Wave(300, 22) + Wave(350, 22))),
                ("Mark for the height", Sign(Wave(230, 22) + Wave(300, 22) + Wave(370, 22) + Arrow(120, 150))),
                ("Heavier line, reads from eight metres", Sign(Wave(230, 30) + Wave(300, 30) + Wave(370, 30) + Arrow(110, 160))),
                ("Arrow away from the water", Sign(Wave(240, 30) + Wave(310, 30) + Wave(380, 30) + Arrow(80, 130))),
            ]
        ),
        (
            "Wall, low water",
            [
                ("From the high water sign", Sign(Wave(380, 30) + Arrow(330, 130, down: true))),
                ("Shells on the sand", Sign(Wave(400, 30) + Arrow(320, 130, down: true) + Shell(130) + Shell(250) + Shell(380))),
                ("Two shells are enough", Sign(Wave(400, 30) + Arrow(320, 130, down: true) + Shell(140) + Shell(370))),
            ]
        ),
        (
            "Wall, moon",
            [
                ("Full disc", Sign("""<circle cx="256" cy="230" r="130" fill="#fff"/>""")),
                ("Crescent, so that it is no sun", Sign(Crescent(130) + Wave(420, 30))),
                ("Larger crescent", Sign(Crescent(150) + Wave(430, 30))),
            ]
        ),
        (
            "Wall, seabirds",
            [("One gull", Sign(Gull(120, 220, 1.4))), ("Three gulls", Sign(Gull(70, 180, 1) + Gull(270, 140, .8) + Gull(190, 300, 1.2)))]
        ),
    ];

    private static string Sign(string shapes) =>
        $"""
            <svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 512 512" width="512" height="512">
              <rect x="16" y="16" width="480" height="480" rx="28" fill="#14455c"/>
              {shapes}
            </svg>
            """;

    private static string Wave(int y, int weight) =>
        $"""<path d="{Water.Replace("300", y.ToString())}" fill="none" stroke="#fff" stroke-width="{weight}" stroke-linecap="round"/>""";

    private static string Arrow(int top, int length, bool down = false) =>
        down
            ? $"""<path d="M256 {top - length}V{top}M206 {top - 50}L256 {top}L306 {top - 50}" fill="none" stroke="#ffd479" """
                + $"""stroke-width="26" stroke-linecap="round" stroke-linejoin="round"/>"""
            : $"""<path d="M256 {top + length}V{top}M206 {top + 50}L256 {top}L306 {top + 50}" fill="none" stroke="#ffd479" """
                + $"""stroke-width="26" stroke-linecap="round" stroke-linejoin="round"/>""";

    private static string Shell(int x) =>
        $"""<path d="M{x - 36} 350a36 36 0 0 1 72 0zM{x} 350v-36M{x - 18} 350l8 -30M{x + 18} 350l-8 -30" fill="none" stroke="#fff" """
        + $"""stroke-width="9"/>""";

    private static string Crescent(int r) =>
        $"""<path d="M{256 + r / 2} {230 - r}a{r} {r} 0 1 0 0 {2 * r}a{r * 1.25:0} {r * 1.25:0} 0 0 1 0 {-2 * r}z" fill="#fff"/>""";

    private static string Gull(int x, int y, double size) =>
        new StringBuilder()
            .Append(
                System.Globalization.CultureInfo.InvariantCulture,
                $"""<path transform="translate({x} {y}) scale({size})" d="M0 30Q50 -40 100 40Q150 -40 200 30" fill="none" """
                    + $"""stroke="#fff" stroke-width="24" stroke-linecap="round"/>"""
            )
            .ToString();
}
