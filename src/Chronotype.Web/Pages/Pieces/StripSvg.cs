using System.Xml.Linq;
using Chronotype.Core.Timeline;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Html;
using static Chronotype.Core.Timeline.StripMeasure;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>Draws a piece's time strip. Every place comes from the layout; here are only shapes, words and addresses.</summary>
public sealed class StripSvg
{
    private const string Ink = "var(--color-ink)",
        BandColour = "var(--color-band)",
        Live = "var(--color-live)",
        Mile = "var(--color-mile)",
        Risk = "var(--color-risk)",
        RiskInk = "var(--color-risk-ink)",
        AltColour = "var(--color-alt)",
        Faint = "var(--color-ink-3)";

    // Lower bars have no room for a letter.
    private const double LeastInside = 18;

    private readonly PieceView view;
    private readonly Strip strip;
    private readonly Dictionary<int, SaveRow> byNumber;
    private readonly Dictionary<Guid, SaveRow> byId;

    private StripSvg(PieceView view)
    {
        (this.view, strip) = (view, view.Strip);
        byNumber = view.Saves.Where(s => s.Number is not null).ToDictionary(s => s.Number!.Value);
        byId = view.Saves.ToDictionary(s => s.Id);
    }

    public static IHtmlContent Draw(PieceView view) => new HtmlString(new StripSvg(view).Svg().ToString(SaveOptions.DisableFormatting));

    private XElement Svg()
    {
        var width = DisplayText.N(strip.Width + 22);
        return Element(
            "svg",
            [
                ("width", width),
                ("height", DisplayText.N(strip.Height)),
                ("viewBox", $"0 0 {width} {DisplayText.N(strip.Height)}"),
                ("role", "group"),
                ("aria-label", "Versions in time; the height of a bar is how much changed"),
            ],
            [
                .. Legend(),
                .. strip.Bands.SelectMany(DrawBand),
                .. strip.Folds.SelectMany(DrawFold),
                .. strip.Bars.Select(DrawBar),
                .. strip.Flags.SelectMany(DrawFlag),
                .. strip.Bars.SelectMany(DrawFoot),
                .. strip.Lanes.SelectMany(DrawLane),
                .. strip.Rings.Select(DrawRing),
                .. DrawNow(),
            ]
        );
    }

    private IEnumerable<XElement> Legend()
    {
        var milestones = view.Saves.Count(s => s.Milestone is not null);
        yield return view.Line.Name.Length == 0
            ? Text(20, 34, "d", "Main line")
            : Text(20, 34, "d", TextWidth.Fit($"Alt “{view.Line.Name}”", 126, 12), "start", AltColour);
        yield return Text(20, 52, "c", $"{view.Kept:N0} kept");
        if (milestones > 0)
            yield return Text(20, 69, "c", DisplayText.Count(milestones, "milestone", "milestones"));
        if (view.Saves.Any(s => s.Number is null))
            yield return Text(20, Base - 34, "c", "○ loose: no number yet");
        yield return Text(20, Base - 18, "c", "bar height = change");
        var below = new List<string>();
        if (view.Saves.Any(s => s.IsMaster))
            below.Add("◆ master");
        if (view.Outputs.Count > 0)
            below.Add("▯ outputs");
        if (below.Count > 0)
            yield return Text(20, Base + 16, "c", string.Join("  ", below));
        if (view.Saves.Count > 1)
            yield return Text(20, Base - 2, "c", "click: compare as A");
    }

    // Under the line: what came of a version. A diamond for the master, a small sheet for outputs.
    private IEnumerable<XElement> DrawFoot(StripBar bar)
    {
        var rows = bar.Versions.Select(v => byNumber[v.Number.Value]).ToList();
        var outputs = rows.Sum(r => view.Outputs.Count(o => o.Record.SaveId == r.Id));
        var isMaster = rows.Exists(r => r.IsMaster);
        var x = bar.Centre - (isMaster && outputs > 0 ? 5 : 0);
        if (isMaster)
        {
            yield return Element(
                "path",
                [("d", $"M{DisplayText.N(x)} {DisplayText.N(Base + 1)}l3.5 3.5l-3.5 3.5l-3.5 -3.5z"), ("fill", Ink)],
                [new XElement("title", $"{string.Join(", ", rows.Where(r => r.IsMaster).Select(r => r.Label))}: master")]
            );
            x += 10;
        }
        if (outputs > 0)
            yield return Element(
                "rect",
                [
                    ("x", DisplayText.N(x - 2.5)),
                    ("y", DisplayText.N(Base + 2)),
                    ("width", "5"),
                    ("height", "6"),
                    ("fill", "var(--color-paper)"),
                    ("stroke", Ink),
                ],
                [new XElement("title", DisplayText.Count(outputs, "output", "outputs"))]
            );
    }

    // Another line: down from where it left, its versions as blocks, and what it is called. A block is laid beside what is looked at.
    private IEnumerable<XElement> DrawLane(StripLane lane)
    {
        var colour = lane.Branch.IsMain ? Ink : AltColour;
        var first = lane.Blocks.Count > 0 ? lane.Blocks[0].X : lane.End;
        var d = lane.FromX is { } from
            ? $"M{DisplayText.N(from)} {DisplayText.N(Base + 2)}C{DisplayText.N(from)} {DisplayText.N(lane.Y)} {DisplayText.N(from + 14)} "
                + $"{DisplayText.N(lane.Y)} {DisplayText.N(from + 40)} {DisplayText.N(lane.Y)}H{DisplayText.N(lane.End)}"
            : $"M{DisplayText.N(lane.X)} {DisplayText.N(lane.Y)}H{DisplayText.N(lane.End)}";
        yield return Element("path", [("d", d), ("fill", "none"), ("stroke", colour), ("stroke-width", "2")]);
        if (lane.Earlier > 0)
            yield return Text(first - 6, lane.Y - 5, "c", $"+{lane.Earlier:N0}", "end");
        foreach (var block in lane.Blocks)
        {
            var says = $"Version {block.Mark.Label} of {OtherLine.NameOf(LineOf(lane).Line)}";
            yield return Mark(
                view.Asked.Query(a: block.Mark.Save.ToString()),
                "",
                says,
                [
                    Rect(block.X - 2, lane.Y - 14, StripLanes.Width + 4, 28, ("class", "ring")),
                    Rect(block.X, lane.Y - StripLanes.Block / 2, StripLanes.Width, StripLanes.Block, ("fill", colour)),
                ],
                [Text(block.X + StripLanes.Width / 2, lane.Y + 4, "v", block.Mark.Label, "middle", "var(--color-paper)")]
            );
        }
        yield return Element(
            "a",
            [("href", $"?line={Uri.EscapeDataString(LineOf(lane).Line.Name)}"), ("data-mark", ""), ("tabindex", "-1")],
            Text(lane.End + 6, lane.Y + 4, "c", lane.Words, "start", colour),
            new XElement("title", $"Look at {OtherLine.NameOf(LineOf(lane).Line)}")
        );
    }

    private OtherLine LineOf(StripLane lane) => view.OtherLines[strip.Lanes.ToList().IndexOf(lane)];

    private static IEnumerable<XElement> DrawBand(StripBand band) =>
        [
            Rect(band.X, Top, band.Width, Base - Top, ("fill", BandColour)),
            Line(band.X, Base, band.X + band.Width, Base, Ink, 2),
            Text(band.X + 2, Base + 20, "d", band.Label),
        ];

    private static IEnumerable<XElement> DrawFold(StripFold fold) =>
        [
            Element(
                "path",
                [
                    ("d", $"M{DisplayText.N(fold.X + 9)} {Base + 20}l8 -22M{DisplayText.N(fold.X + 20)} {Base + 20}l8 -22"),
                    ("stroke", Faint),
                    ("fill", "none"),
                ]
            ),
            Text(fold.X + 21, Base + 38, "c", fold.Label, "middle"),
        ];

    private XElement DrawBar(StripBar bar)
    {
        var row = byNumber[bar.Version.Number.Value];
        var a = Holds(bar, view.A?.Row);
        var b = view.A is not null && Holds(bar, view.B?.Row);
        var colour =
            bar.IsMilestone ? Mile
            : bar.Version.Number.Value == view.Standing.Newest ? Live
            : Ink;
        var (href, says) = bar.IsBlock
            ? (
                view.Asked.Query(from: bar.Versions[0].Number.Value, to: bar.Version.Number.Value),
                $"{bar.Versions.Count:N0} versions, {bar.Label}: open this stretch"
            )
            : (view.Asked.Query(a: row.Key), Says(row));
        var y = Base - bar.Height;
        var parts = new List<XElement> { Rect(bar.X - 3, y - 17, bar.Width + 6, bar.Height + 21, ("class", "ring")) };
        if (bar.IsBlock)
            parts.Add(Rect(bar.X + 4, y - 3, bar.Width, bar.Height + 3, ("fill", BandColour), ("stroke", colour)));
        parts.Add(
            Rect(
                bar.X,
                y,
                bar.Width,
                bar.Height,
                [
                    (
                        "fill",
                        a ? "var(--color-paper)"
                        : bar.Measured ? colour
                        : BandColour
                    ),
                    .. a || !bar.Measured ? [("stroke", colour), ("stroke-width", "2")] : Array.Empty<(string, string)>(),
                    .. bar.Measured ? Array.Empty<(string, string)>() : [("stroke-dasharray", "2 2")],
                ]
            )
        );
        // The whole height is there to be clicked, however small the change was.
        parts.Add(Rect(bar.X - 4, Top, bar.Width + 8, Base - Top, ("fill", "transparent")));
        var beside = bar.IsMilestone;
        var inside =
            a ? "A"
            : b ? "B"
            : bar.IsBlock && bar.Height > LeastInside ? bar.Versions.Count.ToString("N0")
            : "";
        // In a short bar a letter would not be read; it stands with the number then.
        var isShort = (a || b) && bar.Height < LeastInside;
        var label = isShort ? $"{inside} {bar.Label}" : bar.Label;
        var words = new List<XElement> { Text(beside ? bar.X + 5 : bar.Centre, y - 6, "v", label, beside ? "start" : "middle", colour) };
        if (inside.Length > 0 && !isShort)
            words.Add(Text(bar.Centre, Base - 5, "v", inside, "middle", a || !bar.Measured ? Ink : "var(--color-paper)"));
        return Mark(href, bar.IsBlock ? "" : row.Key, says, parts, words);
    }

    private IEnumerable<XElement> DrawFlag(StripFlag flag)
    {
        var bar = strip.Bars.First(x => x.X == flag.X);
        yield return Line(flag.X + 1, flag.Y, flag.X + 1, Base - bar.Height, Mile, 2);
        yield return Element(
            "path",
            [
                (
                    "d",
                    $"M{DisplayText.N(flag.X)} {DisplayText.N(flag.Y)}h{DisplayText.N(flag.Width)}l-5 8.5l5 "
                        + $"8.5h-{DisplayText.N(flag.Width)}z"
                ),
                ("fill", Mile),
            ],
            [new XElement("title", string.Join("; ", flag.Full))]
        );
        var text = Text(flag.X + 8, flag.Y + 12.5, "m", flag.Text);
        text.SetAttributeValue("pointer-events", "none");
        yield return text;
    }

    private XElement DrawRing(StripRing ring)
    {
        var row = byId[ring.Saves[^1].Id];
        var a = view.A is { } first && ring.Saves.Any(s => s.Id == first.Row.Id);
        var b = view.A is not null && view.B is { } second && ring.Saves.Any(s => s.Id == second.Row.Id);
        var parts = new List<XElement>
        {
            Rect(ring.X - 8, Base - 16, 16, 18, ("class", "ring")),
            Rect(ring.X - 8, Base - 30, 16, 30, ("fill", "transparent")),
            Element(
                "circle",
                [
                    ("cx", DisplayText.N(ring.X)),
                    ("cy", DisplayText.N(Base - 7)),
                    ("r", "5"),
                    (
                        "fill",
                        a ? "var(--color-paper)"
                        : b ? Risk
                        : "none"
                    ),
                    ("stroke", Risk),
                    ("stroke-width", "2"),
                ]
            ),
        };
        var above =
            a ? "A"
            : b ? "B"
            : ring.Saves.Count > 1 ? ring.Saves.Count.ToString("N0")
            : "";
        IEnumerable<XElement> words = above.Length > 0 ? [Text(ring.X, Base - 17, "v", above, "middle", RiskInk)] : [];
        var says = ring.Saves.Count > 1 ? $"{ring.Saves.Count:N0} loose saves, the last {DisplayText.Moment(row.At, view.Now)}" : Says(row);
        return Mark(view.Asked.Query(a: row.Key), row.Key, says, parts, words);
    }

    private IEnumerable<XElement> DrawNow()
    {
        if (strip.NowX is { } now)
        {
            yield return Line(now, Top, now, Base + 6, Risk, 1);
            yield return Text(now + 4, strip.NowY, "now", "now");
        }
        if (strip.Ghost is { } ghost)
        {
            yield return Rect(
                ghost.X,
                Base - ghost.Height,
                ghost.Width,
                ghost.Height,
                ("fill", "none"),
                ("stroke", Live),
                ("stroke-dasharray", "3 3")
            );
            yield return Text(ghost.Centre, Base - ghost.Height - 6, "v", ghost.Label, "middle", Live);
        }
    }

    private string Says(SaveRow row) =>
        $"{(row.Number is null ? "Loose save" : $"Version {row.Label}")}, {DisplayText.Moment(row.At, view.Now)}, "
        + $"{row.KeptBy ?? row.ArrivedBy}"
        + (row.Change is { } change ? $", {DisplayText.Percent(change)} changed" : "")
        + (row.Reason is { } reason ? $", milestone: {reason}" : "")
        + (row.IsMaster ? ", master" : "")
        // What the person wrote goes before what was computed.
        + (row.Note is { } note ? $". {note.TrimEnd('.')}" : "")
        + (row.Summary.Length > 0 ? $". {char.ToUpperInvariant(row.Summary[0])}{row.Summary[1..]}" : "");

    private static bool Holds(StripBar bar, SaveRow? row) => row?.Number is { } number && bar.Versions.Any(v => v.Number.Value == number);

    // The words stand beside the link, which says more than they do, and let clicks through to it.
    private static XElement Mark(string href, string key, string says, IEnumerable<XElement> parts, IEnumerable<XElement> words) =>
        Element(
            "g",
            [],
            Element(
                "a",
                [("href", href), ("data-mark", key), ("aria-label", says), ("tabindex", "-1")],
                [new XElement("title", says), .. parts]
            ),
            Element("g", [("pointer-events", "none"), ("aria-hidden", "true")], words)
        );

    private static XElement Rect(double x, double y, double width, double height, params (string, string)[] more) =>
        Element(
            "rect",
            [("x", DisplayText.N(x)), ("y", DisplayText.N(y)), ("width", DisplayText.N(width)), ("height", DisplayText.N(height)), .. more]
        );

    private static XElement Line(double x1, double y1, double x2, double y2, string colour, int width) =>
        Element(
            "line",
            [
                ("x1", DisplayText.N(x1)),
                ("y1", DisplayText.N(y1)),
                ("x2", DisplayText.N(x2)),
                ("y2", DisplayText.N(y2)),
                ("stroke", colour),
                ("stroke-width", width.ToString()),
            ]
        );

    private static XElement Text(double x, double y, string style, string text, string anchor = "start", string? fill = null)
    {
        var element = Element("text", [("x", DisplayText.N(x)), ("y", DisplayText.N(y)), ("class", style), ("text-anchor", anchor)], text);
        if (fill is not null)
            element.SetAttributeValue("fill", fill);
        return element;
    }

    private static XElement Element(string name, IEnumerable<(string Name, string Value)> attributes, params object[] content) =>
        new(name, attributes.Select(a => new XAttribute(a.Name, a.Value)), content);
}
