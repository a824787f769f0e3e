using System.Xml.Linq;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Sound;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Html;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>
/// Draws two sounds on one time axis, the earlier above the later, with a band from each stretch of the one to where it is in the other.
/// Shapes are stretched to the room there is; words are not.
/// </summary>
public sealed class LinedUpSvg
{
    // Parts of the height, of 100: the two waveforms, the room between for the links, and the time below.
    private const double TopEnd = 40,
        LowStart = 54,
        LowEnd = 94;

    // The room in which a word must fit, in parts of the width, of 1000: a letter, and a time of day below.
    private const double Letter = 8.2,
        TagWidth = 76;
    private const int MostTicks = 10;

    private static readonly XNamespace Ns = "http://www.w3.org/2000/svg";
    private readonly ShownSave a,
        b;
    private readonly Comparison comparison;
    private readonly double longest;

    private LinedUpSvg(ShownSave a, ShownSave b, Comparison comparison)
    {
        (this.a, this.b, this.comparison) = (a, b, comparison);
        longest = Math.Max(Length(a), Length(b));
    }

    /// <param name="a">The earlier.</param>
    /// <param name="b">The later.</param>
    /// <param name="comparison">Of the two sounds.</param>
    public static IHtmlContent Draw(ShownSave a, ShownSave b, Comparison comparison) =>
        new HtmlString(new LinedUpSvg(a, b, comparison).Svg().ToString(SaveOptions.DisableFormatting));

    /// <summary>The same for the script that shows it closer: what is common, and what is not, in seconds of each.</summary>
    public static string Told(Comparison comparison) =>
        RecordJson.Write(
            new
            {
                Matches = comparison.Matches.Select(m => new[] { m.Before, m.After, m.Length }),
                Parts = comparison
                    .Parts.Where(p => p.Stretch is not null)
                    .Select(p => new
                    {
                        p.Kind,
                        At = new[] { p.Stretch!.Before, p.Stretch.BeforeLength, p.Stretch.After, p.Stretch.AfterLength },
                        Label = Label(p),
                    }),
            }
        );

    private static double Length(ShownSave save) => save.Facts!.Sound!.Duration.TotalSeconds;

    private IEnumerable<PartChange> Stretches => comparison.Parts.Where(p => p.Stretch is not null);

    private XElement Svg() =>
        Element(
            "svg",
            [("class", "lined"), ("role", "img"), ("aria-label", $"{a.Row.Label} above, {b.Row.Label} below: {FactWords.Of(comparison)}")],
            [
                Element(
                    "svg",
                    [("viewBox", "0 0 1000 100"), ("preserveAspectRatio", "none"), ("width", "100%"), ("height", "100%")],
                    [.. Shapes()]
                ),
                .. Labels(),
                .. Ticks(),
            ]
        );

    private IEnumerable<XElement> Shapes()
    {
        yield return Element(
            "defs",
            [],
            [
                Element(
                    "filter",
                    [("id", "as-ink"), ("color-interpolation-filters", "sRGB")],
                    [Element("feColorMatrix", [("values", "0 0 0 0 0.09  0 0 0 0 0.09  0 0 0 0 0.09  0 0 0 1 0")], [])]
                ),
                Element(
                    "pattern",
                    [
                        ("id", "gone"),
                        ("width", "9"),
                        ("height", "9"),
                        ("patternUnits", "userSpaceOnUse"),
                        ("patternTransform", "rotate(35)"),
                    ],
                    [Element("rect", [("width", "2"), ("height", "9"), ("class", "hatch")], [])]
                ),
            ]
        );
        yield return Rect("ground", 0, 1000, 0, TopEnd);
        yield return Rect("ground", 0, 1000, LowStart, LowEnd);
        yield return Wave(a, 0, TopEnd);
        yield return Wave(b, LowStart, LowEnd);
        foreach (var match in comparison.Matches)
            yield return Link("same", match.Before, match.Length, match.After, match.Length);
        foreach (var part in Stretches)
        {
            var at = part.Stretch!;
            switch (part.Kind)
            {
                case PartChangeKind.Louder or PartChangeKind.Filtered:
                    yield return Link("level", at.Before, at.BeforeLength, at.After, at.AfterLength);
                    break;
                case PartChangeKind.Moved:
                    yield return Link("moved", at.Before, at.BeforeLength, at.After, at.AfterLength);
                    break;
                default:
                    if (at.BeforeLength > 0)
                        yield return Rect("gone", X(at.Before), X(at.BeforeLength), 0, TopEnd);
                    if (at.AfterLength > 0)
                    {
                        yield return Rect("fresh", X(at.After), X(at.AfterLength), LowStart, LowEnd);
                        yield return Inked(at);
                    }
                    break;
            }
        }
    }

    // What is new stands dark on light: the same waveform, seen through a window of its own.
    private XElement Inked(SoundDifference at)
    {
        var (x, width) = (X(at.After), Math.Max(0.5, X(at.AfterLength)));
        return Element(
            "svg",
            [
                ("x", N(x)),
                ("y", N(LowStart)),
                ("width", N(width)),
                ("height", N(LowEnd - LowStart)),
                ("viewBox", $"{N(x)} {N(LowStart)} {N(width)} {N(LowEnd - LowStart)}"),
                ("preserveAspectRatio", "none"),
            ],
            [Wave(b, LowStart, LowEnd, ("filter", "url(#as-ink)"))]
        );
    }

    private XElement Wave(ShownSave save, double from, double to, params (string, string)[] more) =>
        Element(
            "image",
            [
                ("href", save.Picture),
                ("x", "0"),
                ("y", N(from)),
                ("width", N(X(Length(save)))),
                ("height", N(to - from)),
                ("preserveAspectRatio", "none"),
                .. more,
            ],
            []
        );

    private XElement Link(string kind, double before, double beforeLength, double after, double afterLength) =>
        Element(
            "path",
            [
                ("class", kind),
                (
                    "d",
                    $"M{N(X(before))} {N(TopEnd)}H{N(X(before + beforeLength))}L{N(X(after + afterLength))} {N(LowStart)}H{N(X(after))}Z"
                ),
            ],
            []
        );

    private static XElement Rect(string kind, double x, double width, double from, double to) =>
        Element("rect", [("class", kind), ("x", N(x)), ("width", N(Math.Max(0.5, width))), ("y", N(from)), ("height", N(to - from))], []);

    private IEnumerable<XElement> Labels()
    {
        // Two rows, one under the earlier and one over the later; where a word has no room, the table beside tells it.
        var taken = new double[2];
        foreach (var part in Stretches.OrderBy(p => p.Stretch!.After))
        {
            var at = part.Stretch!;
            var (row, x, y) =
                at.AfterLength == 0 ? (0, X(at.Before + at.BeforeLength / 2), TopEnd + 4.6)
                : part.Kind is PartChangeKind.Louder or PartChangeKind.Filtered or PartChangeKind.Moved
                    ? (0, (X(at.Before + at.BeforeLength / 2) + X(at.After + at.AfterLength / 2)) / 2, (TopEnd + LowStart) / 2 + 1.4)
                : (1, X(at.After + at.AfterLength / 2), LowStart - 1.4);
            var text = Label(part);
            var half = text.Length * Letter / 2;
            // The later one's own tag stands at the right.
            x = Math.Clamp(x, half, Math.Max(half, 1000 - half - TagWidth));
            if (x - half < taken[row])
                continue;
            taken[row] = x + half;
            yield return Text("label", x, y, text, "middle");
        }
    }

    private static string Label(PartChange part) =>
        part.Stretch!.Gain is { } gain
            ? $"{gain:+0.0;−0.0} dB"
            : $"{FactWords.KindOf(part)} {(part.Stretch.AfterLength == 0 ? part.Stretch.BeforeLength : part.Stretch.AfterLength):0.0#} s";

    private IEnumerable<XElement> Ticks()
    {
        // One of 1, 2, 5, 10, 15, 30 … seconds, so that there are no more than a few.
        double[] steps = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600];
        var step = steps.FirstOrDefault(s => longest / s <= MostTicks, 7200);
        for (var at = 0.0; at < longest - step / 4; at += step)
            yield return Text("tick", X(at), LowEnd + 4.6, step < 1 ? DisplayText.Clock(at) : DisplayText.Clock(at)[..^2], "start");
    }

    private static XElement Text(string kind, double x, double y, string text, string anchor)
    {
        var element = Element("text", [("class", kind), ("x", $"{N(x / 10)}%"), ("y", $"{N(y)}%"), ("text-anchor", anchor)], []);
        element.Add(text);
        return element;
    }

    private double X(double seconds) => longest == 0 ? 0 : 1000 * seconds / longest;

    private static string N(double number) => DisplayText.N(number);

    private static XElement Element(string name, (string Name, string Value)[] attributes, XElement[] inside) =>
        new(Ns + name, attributes.Select(a => new XAttribute(a.Name, a.Value)), inside);
}
