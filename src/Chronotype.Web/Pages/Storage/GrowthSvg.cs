using System.Globalization;
using System.Text;
using Chronotype.Studio.Maintenance;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Html;

namespace Chronotype.Web.Pages.Storage;

/// <summary>Draws how saves and disk grew: a line for what plain copies would take, and under it, filled, what they take here.</summary>
public static class GrowthSvg
{
    private const double Width = 780,
        Height = 240,
        Left = 8,
        Right = 150,
        Top = 14,
        Foot = 22;
    private const double Across = Width - Left - Right,
        Down = Height - Top - Foot;
    private const int MostPoints = 500,
        MostDays = 9;
    private const double LabelHeight = 34;

    /// <param name="points">From the oldest; at least two.</param>
    public static IHtmlContent Draw(IReadOnlyList<GrowthPoint> points, DateTimeOffset now, TimeZoneInfo zone)
    {
        var (from, to) = (points[0].At, now > points[^1].At ? now : points[^1].At);
        var span = Math.Max(1, (to - from).TotalSeconds);
        var most = Math.Max(1.0, Math.Max(points[^1].Plain, points[^1].OnDisk));
        double X(DateTimeOffset at) => Left + Across * (at - from).TotalSeconds / span;
        double Y(long bytes) => Top + Down * (1 - bytes / most);

        var svg = new StringBuilder();
        svg.Append(
            CultureInfo.InvariantCulture,
            $"<svg class=\"growth\" viewBox=\"0 0 {Width} {Height}\" role=\"img\" aria-label=\"From {DisplayText.Exact(from)} to "
                + $"{DisplayText.Exact(to)}: {DisplayText.Size(points[^1].Plain)} as plain copies, "
                + $"{DisplayText.Size(points[^1].OnDisk)} added on disk\">"
        );
        foreach (var (at, label) in Days(from, to, now, zone))
        {
            svg.Append(
                $"<path class=\"day\" d=\"M{DisplayText.N(X(at))} {Top}V{Top + Down}\"/><text class=\"c\" "
                    + $"x=\"{DisplayText.N(X(at) + 4)}\" y=\"{Height - 6}\">{label}</text>"
            );
        }
        var shown = Thinned(points);
        svg.Append(
            $"<path class=\"ondisk\" d=\"M{Left} {Top + Down}{Steps(shown, p => p.OnDisk)}H{DisplayText.N(X(to))}V{Top + Down}Z\"/>"
        );
        svg.Append($"<path class=\"plain-copies\" d=\"M{Left} {Top + Down}{Steps(shown, p => p.Plain)}H{DisplayText.N(X(to))}\"/>");
        svg.Append($"<path class=\"base\" d=\"M{Left} {Top + Down}H{Left + Across}\"/>");
        // The labels stand beside the ends of their lines, and apart.
        var lowest = Top + Down - LabelHeight + 14;
        var plain = Math.Clamp(Y(points[^1].Plain), Top + 8, lowest - LabelHeight);
        var disk = Math.Clamp(Y(points[^1].OnDisk), plain + LabelHeight, lowest);
        Label(plain, points[^1].Plain, "as plain copies");
        Label(disk, points[^1].OnDisk, "added on disk");
        svg.Append("</svg>");
        return new HtmlString(svg.ToString());

        string Steps(IReadOnlyList<GrowthPoint> of, Func<GrowthPoint, long> value) =>
            string.Concat(of.Select(p => $"H{DisplayText.N(X(p.At))}V{DisplayText.N(Y(value(p)))}"));

        void Label(double y, long bytes, string what) =>
            svg.Append(
                $"<text class=\"d\" x=\"{Left + Across + 10}\" y=\"{DisplayText.N(y + 4)}\">{DisplayText.Size(bytes)}</text><text "
                    + $"class=\"c\" x=\"{Left + Across + 10}\" y=\"{DisplayText.N(y + 19)}\">{what}</text>"
            );
    }

    private static IReadOnlyList<GrowthPoint> Thinned(IReadOnlyList<GrowthPoint> points)
    {
        var stride = (points.Count + MostPoints - 1) / MostPoints;
        return [.. points.Where((_, i) => i % stride == 0 || i == points.Count - 1)];
    }

    /// <summary>The days, or every few of them, that the time is marked by.</summary>
    private static IEnumerable<(DateTimeOffset At, string Label)> Days(
        DateTimeOffset from,
        DateTimeOffset to,
        DateTimeOffset now,
        TimeZoneInfo zone
    )
    {
        var first = TimeZoneInfo.ConvertTime(from, zone).Date.AddDays(1);
        var days = (int)Math.Ceiling((TimeZoneInfo.ConvertTime(to, zone).Date - first).TotalDays) + 1;
        var stride = Math.Max(1, (days + MostDays - 1) / MostDays);
        for (var day = 0; day < days; day += stride)
        {
            var date = first.AddDays(day);
            yield return (new DateTimeOffset(date, zone.GetUtcOffset(date)), Label(DateOnly.FromDateTime(date), now.Year));
        }
    }

    private static string Label(DateOnly date, int thisYear) =>
        date.Year == thisYear ? DisplayText.Dates.Named(date, thisYear) : DisplayText.Dates.Of(date, thisYear);
}
