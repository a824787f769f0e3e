using System.Globalization;
using System.Text;
using System.Xml.Linq;
using Chronotype.Core.References;
using Chronotype.Core.Timeline;
using Chronotype.Studio.References;
using Microsoft.AspNetCore.Html;

namespace Chronotype.Web.Pages.Uses;

/// <summary>
/// Draws a project's web: a box for each node, a link to what it is; lines from what is used to what uses it, those that do not lead where
/// they should in their own stroke.
/// </summary>
public static class WebSvg
{
    private const double Thumb = 44,
        // Of the mono face at 12 px.
        Letter = 7.05;

    private static readonly XNamespace Ns = "http://www.w3.org/2000/svg";

    public static IHtmlContent Draw(WebView web, Func<ShownNode, string> addressOf)
    {
        var measures = new WebMeasures();
        var height = Math.Max(608, web.Layout.Height);
        var svg = Element(
            "svg",
            ("viewBox", $"0 0 {N(web.Layout.Width + measures.Left + 14)} {N(height)}"),
            ("class", "web"),
            ("role", "group"),
            ("aria-label", "Who uses what")
        );
        svg.SetAttributeValue("width", N(web.Layout.Width + measures.Left + 14));
        svg.SetAttributeValue("height", N(height));
        foreach (var rank in Enum.GetValues<WebRank>())
        {
            var x = measures.XOf(rank) - 10;
            svg.Add(
                Element("rect", ("class", "rank"), ("x", N(x)), ("y", "0"), ("width", N(measures.BoxWidth + 20)), ("height", N(height)))
            );
            svg.Add(Text("rank-name", x + 10, 24, rank.ToString()));
            svg.Add(Text("rank-count", x + measures.BoxWidth + 10, 24, web.CountOf(rank).ToString("N0", CultureInfo.InvariantCulture)));
        }
        var byLine = web.Edges.ToDictionary(t => new WebLine(t.From, t.To));
        // What is on the way of what is looked at lies over the rest.
        foreach (var line in web.Layout.Lines.OrderBy(l => IsOnWay(web, l.Line)))
            svg.Add(Line(line, byLine[line.Line], IsOnWay(web, line.Line)));
        var shown = web.Nodes.ToDictionary(k => k.Key);
        foreach (var box in web.Layout.Boxes)
            svg.Add(Box(box, shown[box.Box.Key], web, measures, addressOf(shown[box.Box.Key])));
        return new HtmlString(svg.ToString(SaveOptions.DisableFormatting));
    }

    private static bool IsOnWay(WebView web, WebLine line) => web.Way.Contains(line.From) && web.Way.Contains(line.To);

    private static XElement Line(PlacedLine line, WebEdge edge, bool isOnWay)
    {
        var path = new StringBuilder();
        var points = line.Points;
        path.Append(Invariant($"M{points[0].X:0.#} {points[0].Y:0.#}"));
        if (points.Count == 2 && points[1].X <= points[0].X)
        {
            // Within a rank: out to the right and in from there.
            var bow = Math.Max(points[0].X, points[1].X) + 46;
            path.Append(Invariant($"C{bow:0.#} {points[0].Y:0.#} {bow:0.#} {points[1].Y:0.#} {points[1].X:0.#} {points[1].Y:0.#}"));
        }
        else
        {
            for (var i = 1; i < points.Count; i++)
            {
                var (a, b) = (points[i - 1], points[i]);
                var bend = (b.X - a.X) / 2;
                path.Append(
                    Math.Abs(a.Y - b.Y) < 0.05
                        ? Invariant($"L{b.X:0.#} {b.Y:0.#}")
                        : Invariant($"C{a.X + bend:0.#} {a.Y:0.#} {b.X - bend:0.#} {b.Y:0.#} {b.X:0.#} {b.Y:0.#}")
                );
            }
        }
        var state = edge.Link?.State;
        var kind =
            state is { } s && s.IsBroken() ? " broken"
            : state == ReferenceState.OtherCase ? " misspelt"
            : "";
        return Element("path", ("class", $"edge{kind}{(isOnWay ? " on-way" : "")}"), ("d", path.ToString()));
    }

    private static XElement Box(PlacedBox box, ShownNode node, WebView web, WebMeasures measures, string address)
    {
        var record = node.Record;
        var kind = record.Kind switch
        {
            NodeKind.Nowhere => " nowhere",
            NodeKind.Piece => node.IsOff ? " piece off" : " piece",
            NodeKind.Bundle => " bundle",
            _ when node.IsOff => " off",
            _ => node.Says == WebView.Unused ? " unused" : "",
        };
        var isChosen = node.Key == web.Chosen;
        var link = Element(
            "a",
            ("href", address),
            ("class", $"node{kind}{(isChosen ? " chosen" : web.Way.Contains(node.Key) ? " on-way" : "")}"),
            ("data-rank", ((int)record.Rank).ToString(CultureInfo.InvariantCulture))
        );
        if (isChosen)
            link.SetAttributeValue("aria-current", "true");
        var frame = Element(
            "rect",
            ("x", N(box.X)),
            ("y", N(box.Y)),
            ("width", N(measures.BoxWidth)),
            ("height", N(box.Box.Height)),
            ("rx", "3")
        );
        frame.Add(new XElement(Ns + "title", $"{record.Path?.Text ?? record.Name}: {node.Says}"));
        link.Add(frame);
        var left = box.X + 8;
        if (record.Kind == NodeKind.Piece)
        {
            link.Add(
                Element("rect", ("class", "thumb"), ("x", N(box.X)), ("y", N(box.Y)), ("width", N(Thumb)), ("height", N(box.Box.Height)))
            );
            if (node.Picture is { } picture)
                link.Add(
                    Element(
                        "image",
                        ("href", picture),
                        ("x", N(box.X + 5)),
                        ("y", N(box.Y + 5)),
                        ("width", N(Thumb - 10)),
                        ("height", N(box.Box.Height - 10))
                    )
                );
            left += Thumb;
        }
        var room = box.X + measures.BoxWidth - left - 6;
        link.Add(Text("node-name", left, box.Y + (record.Kind == NodeKind.Piece ? 22 : 15), Middle(node.Title, (int)(room / Letter))));
        link.Add(Text("node-says", left, box.Y + (record.Kind == NodeKind.Piece ? 39 : 29), TextWidth.Fit(node.Says, room, 11.5)));
        if (node.IsAtRisk)
        {
            var ring = Element(
                "circle",
                ("class", "risk"),
                ("cx", N(box.X + measures.BoxWidth - 11)),
                ("cy", N(box.Y + box.Box.Height - 11)),
                ("r", "4.5")
            );
            ring.Add(new XElement(Ns + "title", "changed since kept"));
            link.Add(ring);
        }
        return link;
    }

    // Names are told apart by both ends.
    private static string Middle(string name, int letters)
    {
        if (name.Length <= letters)
            return name;
        var end = Math.Max(4, letters / 3);
        return $"{name[..Math.Max(1, letters - end - 1)]}…{name[^end..]}";
    }

    private static XElement Text(string kind, double x, double y, string text)
    {
        var element = Element("text", ("class", kind), ("x", N(x)), ("y", N(y)));
        element.Value = text;
        return element;
    }

    private static XElement Element(string name, params (string Name, string Value)[] attributes) =>
        new(Ns + name, attributes.Select(a => new XAttribute(a.Name, a.Value)));

    private static string N(double number) => number.ToString("0.#", CultureInfo.InvariantCulture);

    private static string Invariant(FormattableString text) => FormattableString.Invariant(text);
}
