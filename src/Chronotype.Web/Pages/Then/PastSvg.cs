using System.Xml.Linq;
using Chronotype.Core.Timeline;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Html;
using static Chronotype.Core.Timeline.StripMeasure;

namespace Chronotype.Web.Pages.Then;

/// <summary>Draws the time of a whole project: a bar for what was kept, a ring for what was stored; each leads to that moment.</summary>
public static class PastSvg
{
    private static readonly XNamespace Ns = "http://www.w3.org/2000/svg";

    public static IHtmlContent Draw(ThenModel then)
    {
        var strip = then.Strip;
        var svg = Element(
            "svg",
            ("width", DisplayText.N(strip.Width + 22)),
            ("height", DisplayText.N(Height)),
            ("viewBox", $"0 0 {DisplayText.N(strip.Width + 22)} {DisplayText.N(Height)}"),
            ("role", "group"),
            ("aria-label", "The project in time; each mark is a moment")
        );
        svg.Add(Text(20, 34, "d", "The project"));
        svg.Add(Text(20, 52, "c", $"{then.Kept.Count:N0} kept"));
        svg.Add(Text(20, 69, "c", DisplayText.Count(then.Stored.Count, "file stored", "files stored")));
        svg.Add(Text(20, Base - 2, "c", "click: as it stood then"));
        foreach (var band in strip.Bands)
        {
            svg.Add(Rect("band", band.X, Top, band.Width, Base - Top));
            svg.Add(Rect("base", band.X, Base - 1, band.Width, 2));
            svg.Add(Text(band.X + 2, Base + 20, "d", band.Label));
        }
        foreach (var fold in strip.Folds)
        {
            svg.Add(
                Element(
                    "path",
                    ("class", "fold"),
                    ("d", $"M{DisplayText.N(fold.X + 9)} {Base + 20}l8 -22M{DisplayText.N(fold.X + 20)} {Base + 20}l8 -22")
                )
            );
            svg.Add(Text(fold.X + 21, Base + 38, "c middle", fold.Label));
        }
        foreach (var bar in strip.Bars)
        {
            var last = then.Kept[bar.Version.Number.Value - 1];
            var says = bar.IsBlock ? $"{bar.Versions.Count:N0} kept, the last {last.Name}" : last.Name;
            var height = bar.IsBlock ? Math.Min(Base - Top - 30, bar.Height + bar.Versions.Count * 2) : bar.Height;
            var mark = Mark(then, last.At, bar.IsBlock ? $"{says}: open this stretch" : says);
            if (bar.IsBlock)
                mark.SetAttributeValue("href", then.Opened(bar.Versions[0].Number.Value, bar.Version.Number.Value));
            mark.Add(Rect(bar.IsMilestone ? "kept mile" : "kept", bar.X, Base - height, bar.Width, height));
            mark.Add(Rect("reach", bar.X - 4, Top, bar.Width + 8, Base - Top));
            if (bar.IsBlock)
                mark.Add(Text(bar.Centre, Base - height - 5, "v middle", bar.Versions.Count.ToString("N0")));
            svg.Add(mark);
        }
        foreach (var flag in strip.Flags)
        {
            svg.Add(
                Element(
                    "path",
                    ("class", "flag"),
                    (
                        "d",
                        $"M{DisplayText.N(flag.X)} {DisplayText.N(flag.Y)}h{DisplayText.N(flag.Width)}l-5 8.5l5 8.5h-{DisplayText.N(flag.Width)}z"
                    )
                )
            );
            svg.Add(Text(flag.X + 8, flag.Y + 12.5, "m", flag.Text));
        }
        foreach (var ring in strip.Rings)
        {
            var last = then.Stored[ring.Saves[^1].Id];
            var mark = Mark(
                then,
                last.At,
                ring.Saves.Count > 1 ? $"{ring.Saves.Count:N0} files stored, the last {last.Name}" : $"{last.Name} stored"
            );
            mark.Add(Element("circle", ("class", "stored"), ("cx", DisplayText.N(ring.X)), ("cy", DisplayText.N(Base - 7)), ("r", "5")));
            mark.Add(Rect("reach", ring.X - 8, Base - 30, 16, 30));
            svg.Add(mark);
        }
        return new HtmlString(svg.ToString(SaveOptions.DisableFormatting));
    }

    private static XElement Mark(ThenModel then, DateTimeOffset at, string says)
    {
        var mark = Element(
            "a",
            ("href", then.AddressOf(at)),
            ("class", "mark"),
            ("aria-label", $"{says}, {DisplayText.Moment(at, then.Now)}")
        );
        if (then.At == at.UtcTicks)
            mark.SetAttributeValue("aria-current", "true");
        mark.Add(new XElement(Ns + "title", $"{says}, {DisplayText.Moment(at, then.Now)}"));
        return mark;
    }

    private static XElement Rect(string kind, double x, double y, double width, double height) =>
        Element(
            "rect",
            ("class", kind),
            ("x", DisplayText.N(x)),
            ("y", DisplayText.N(y)),
            ("width", DisplayText.N(width)),
            ("height", DisplayText.N(height))
        );

    private static XElement Text(double x, double y, string kind, string text)
    {
        var element = Element("text", ("class", kind), ("x", DisplayText.N(x)), ("y", DisplayText.N(y)));
        element.Value = text;
        return element;
    }

    private static XElement Element(string name, params (string Name, string Value)[] attributes) =>
        new(Ns + name, attributes.Select(a => new XAttribute(a.Name, a.Value)));
}
