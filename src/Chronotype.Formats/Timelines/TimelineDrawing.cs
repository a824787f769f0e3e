using System.Globalization;
using System.Net;
using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Timelines;

/// <summary>Draws a timeline: a row for each track, the upper over the lower, and a block for each clip where it plays.</summary>
internal static class TimelineDrawing
{
    private const int Width = 900,
        Row = 44,
        Gap = 8,
        Head = 110,
        MostBlocks = 4000;

    // A letter of this size is about so wide.
    private const double Letter = 8.6;

    public static Preview Draw(TimelineFacts timeline)
    {
        var length = Math.Max(timeline.Length, 0.001);
        var height = Math.Max(1, timeline.Tracks.Count) * (Row + Gap) + Gap + 26;
        var svg = new StringBuilder(
            $"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {Width} {height}" width="{Width}" height="{height}">"""
                + """<style>text{font:15px sans-serif;fill:#f3f3f1}.c{fill:#4f4f4d;stroke:#f3f3f1}"""
                + """.a{fill:#5d5d5a;stroke:#f3f3f1;stroke-dasharray:3 2}.t{fill:#f3f3f1;opacity:.35}.r{fill:#6a6a68}</style>"""
        );
        var y = Gap;
        var blocks = 0;
        foreach (var track in timeline.Tracks.Reverse())
        {
            svg.Append(CultureInfo.InvariantCulture, $"""<text x="10" y="{y + 28}">{Short(track.Name, Head - 20)}</text>""");
            svg.Append(
                CultureInfo.InvariantCulture,
                $"""<rect class="r" x="{Head}" y="{y}" width="{Width - Head - 10}" height="{Row}"/>"""
            );
            foreach (var item in track.Items.Where(i => i.Kind != TimelineItemKind.Gap))
            {
                if (blocks++ >= MostBlocks)
                    break;
                var (x, width) = (
                    Head + item.Start / length * (Width - Head - 10),
                    Math.Max(1, item.Length / length * (Width - Head - 10))
                );
                var look =
                    item.Kind == TimelineItemKind.Transition ? "t"
                    : track.Kind == "Audio" ? "a"
                    : "c";
                svg.Append(
                    CultureInfo.InvariantCulture,
                    $"""<rect class="{look}" x="{x:0.#}" y="{y}" width="{width:0.#}" height="{Row}" rx="3"/>"""
                );
                if (item.Kind != TimelineItemKind.Transition && width > 30)
                    svg.Append(
                        CultureInfo.InvariantCulture,
                        $"""<text x="{x + 7:0.#}" y="{y + 28}">{Short(item.Name, width - 14)}</text>"""
                    );
            }
            y += Row + Gap;
        }
        svg.Append(CultureInfo.InvariantCulture, $"""<text x="{Head}" y="{y + 14}">0 s</text>""");
        svg.Append(
            CultureInfo.InvariantCulture,
            $"""<text x="{Width - 10}" y="{y + 14}" text-anchor="end">{timeline.Length:0.#} s</text></svg>"""
        );
        return new Preview(Encoding.UTF8.GetBytes(svg.ToString()), "image/svg+xml");
    }

    private static string Short(string text, double room)
    {
        var letters = Math.Max(1, (int)(room / Letter));
        var clean = string.Concat(text.Where(c => !char.IsControl(c)));
        return WebUtility.HtmlEncode(clean.Length <= letters ? clean : clean[..Math.Max(1, letters - 1)] + "…");
    }
}
