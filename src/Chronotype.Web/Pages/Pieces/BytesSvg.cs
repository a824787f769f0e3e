using System.Globalization;
using System.Net;
using System.Text;
using Chronotype.Core.Comparing;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Html;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>Draws two contents that nothing is known of as bars of bytes on one scale: what they share, and what only one has.</summary>
public static class BytesSvg
{
    private const double Width = 1000,
        Bar = 56;

    public static IHtmlContent Draw(string before, string after, ByteStretches bytes)
    {
        var longest = Math.Max(1, Math.Max(bytes.LengthBefore, bytes.LengthAfter));
        var svg = new StringBuilder(
            $"""<svg class="bytes" viewBox="0 0 {Width} 236" role="img" aria-label="Which bytes the two share"><defs>"""
                + """<pattern id="only" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(35)">"""
                + """<rect class="only" width="3" height="8"/></pattern></defs>"""
        );
        Side($"A {before}", bytes.LengthBefore, bytes.Gone, 26, "only in A");
        Side($"B {after}", bytes.LengthAfter, bytes.New, 138, "only in B");
        svg.Append("</svg>");
        return new HtmlString($"""<p class="bytes-key"><i></i>in both<i class="only-one"></i>only in one of them</p>{svg}""");

        void Side(string name, long length, IReadOnlyList<ByteRange> only, double y, string what)
        {
            var told = $"{name}: {DisplayText.Size(length)}, {DisplayText.Size(only.Sum(r => r.Length))} {what}";
            svg.Append(CultureInfo.InvariantCulture, $"""<text x="0" y="{y - 8}">{WebUtility.HtmlEncode(told)}</text>""");
            svg.Append(CultureInfo.InvariantCulture, $"""<rect class="shared" y="{y}" width="{X(length):0.##}" height="{Bar}"/>""");
            foreach (var range in only)
            {
                var place = string.Create(
                    CultureInfo.InvariantCulture,
                    $"""x="{X(range.Offset):0.##}" y="{y}" width="{Math.Max(0.7, X(range.Length)):0.##}" height="{Bar}" """
                );
                svg.Append($"""<rect class="ground" {place}/><rect fill="url(#only)" {place}/>""");
            }
        }

        double X(long offset) => Width * offset / longest;
    }
}
