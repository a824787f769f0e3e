namespace Chronotype.Core.References;

/// <summary>Which of the ranks of a project's web a file stands in.</summary>
public enum WebRank
{
    /// <summary>As received.</summary>
    Originals,

    /// <summary>What pieces refer to.</summary>
    Assets,

    /// <summary>What is being made.</summary>
    Pieces,

    /// <summary>Copies for use.</summary>
    Outputs,
}

/// <summary>A box of the web.</summary>
/// <param name="Key">Tells it apart from the others.</param>
/// <param name="Rank">The rank that it stands in.</param>
/// <param name="Order">Boxes that lines leave free are in this order.</param>
/// <param name="Height">Pixels.</param>
public sealed record WebBox(string Key, WebRank Rank, string Order, double Height);

/// <summary>A line of the web: what uses leads from what is used.</summary>
/// <param name="From">What is used.</param>
/// <param name="To">What uses it.</param>
public sealed record WebLine(string From, string To);

/// <summary>Where a box stands.</summary>
/// <param name="Box">The box.</param>
/// <param name="X">Of its left side, in pixels.</param>
/// <param name="Y">Of its upper side, in pixels.</param>
public sealed record PlacedBox(WebBox Box, double X, double Y)
{
    /// <summary>Of its middle.</summary>
    public double Middle => Y + Box.Height / 2;
}

/// <summary>A point of a line.</summary>
/// <param name="X">Pixels.</param>
/// <param name="Y">Pixels.</param>
public readonly record struct WebPoint(double X, double Y);

/// <summary>How a line goes.</summary>
/// <param name="Line">The line.</param>
/// <param name="Points">
/// From the box that is used to the one that uses it; in between, before and behind each rank that it passes, between that rank's boxes.
/// </param>
public sealed record PlacedLine(WebLine Line, IReadOnlyList<WebPoint> Points);

/// <summary>
/// Lays a project's web out in ranks: boxes so that few lines cross and each stands near what it is connected with, and lines round the
/// boxes of the ranks that they pass. The method is that of layered drawings (Sugiyama, Tagawa, Toda 1981): order by the middle of the
/// neighbours, there and back; then heights.
/// </summary>
public sealed class WebLayout
{
    private const int Sweeps = 6;

    private readonly WebMeasures measures;
    private readonly List<WebBox>[] ranks;
    private readonly Dictionary<string, List<string>> neighbours = [];
    private readonly Dictionary<string, double> top = [];
    private readonly Dictionary<string, WebBox> boxes;

    private WebLayout(IReadOnlyList<WebBox> all, IReadOnlyList<WebLine> lines, WebMeasures measures)
    {
        this.measures = measures;
        boxes = all.ToDictionary(b => b.Key);
        ranks =
        [
            .. Enum.GetValues<WebRank>().Select(r => all.Where(b => b.Rank == r).OrderBy(b => b.Order, StringComparer.Ordinal).ToList()),
        ];
        foreach (var line in lines)
        {
            Near(line.From).Add(line.To);
            Near(line.To).Add(line.From);
        }
        for (var sweep = 0; sweep < Sweeps; sweep++)
            Order(sweep % 2 == 0);
        Settle();
        Lines = [.. lines.Select(Route)];
    }

    /// <summary>Every box with its place.</summary>
    public IReadOnlyList<PlacedBox> Boxes => [.. ranks.SelectMany(r => r).Select(Place)];

    /// <summary>Every line with its way.</summary>
    public IReadOnlyList<PlacedLine> Lines { get; }

    /// <summary>Pixels from the top to the lowest box's end.</summary>
    public double Height => boxes.Values.Select(b => top[b.Key] + b.Height).DefaultIfEmpty(0).Max() + measures.Gap;

    /// <summary>Pixels from the left side of the first rank to the right side of the last.</summary>
    public double Width => measures.XOf(WebRank.Outputs) + measures.BoxWidth;

    /// <param name="boxes">At most one of a key.</param>
    /// <param name="lines">Between boxes that are there; at most one from one to another.</param>
    /// <param name="measures">In pixels.</param>
    public static WebLayout Lay(IReadOnlyList<WebBox> boxes, IReadOnlyList<WebLine> lines, WebMeasures? measures = null) =>
        new(boxes, lines, measures ?? new WebMeasures());

    private PlacedBox Place(WebBox box) => new(box, measures.XOf(box.Rank), top[box.Key]);

    private List<string> Near(string key) => neighbours.TryGetValue(key, out var near) ? near : neighbours[key] = [];

    // Each rank by the middle of what its boxes are connected with, as those stand in their own ranks; what is free stays behind.
    private void Order(bool isForward)
    {
        var share = new Dictionary<string, double>();
        foreach (var rank in ranks)
        {
            for (var i = 0; i < rank.Count; i++)
                share[rank[i].Key] = (i + 0.5) / rank.Count;
        }
        foreach (var rank in isForward ? ranks : ranks.Reverse())
        {
            var wanted = rank.ToDictionary(b => b.Key, b => Near(b.Key).Count == 0 ? 2 : Near(b.Key).Average(n => share[n]));
            var sorted = rank.OrderBy(b => wanted[b.Key]).ThenBy(b => b.Order, StringComparer.Ordinal).ToList();
            rank.Clear();
            rank.AddRange(sorted);
            for (var i = 0; i < rank.Count; i++)
                share[rank[i].Key] = (i + 0.5) / rank.Count;
        }
    }

    // From top to bottom without a hole; then each rank is drawn towards its neighbours, keeping its order and its gaps.
    private void Settle()
    {
        foreach (var rank in ranks)
        {
            var y = measures.Top;
            foreach (var box in rank)
            {
                top[box.Key] = y;
                y += box.Height + measures.Gap;
            }
        }
        var tallest = ranks.Max(r => r.Count == 0 ? 0 : top[r[^1].Key] + r[^1].Height);
        for (var pass = 0; pass < Sweeps; pass++)
        {
            foreach (var rank in pass % 2 == 0 ? ranks : ranks.Reverse())
                Draw(rank, tallest);
        }
    }

    private void Draw(List<WebBox> rank, double tallest)
    {
        // The least squares of distances under a fixed order: blocks that would overlap are merged and stand at their mean.
        var blocks = new List<(double Wanted, int Count, double Height, int From)>();
        for (var i = 0; i < rank.Count; i++)
        {
            var near = Near(rank[i].Key).Where(n => boxes[n].Rank != rank[i].Rank).ToList();
            var wanted = near.Count == 0 ? top[rank[i].Key] : near.Average(n => top[n] + boxes[n].Height / 2) - rank[i].Height / 2;
            blocks.Add((wanted, 1, rank[i].Height + measures.Gap, i));
            while (blocks.Count > 1 && blocks[^2].Wanted + blocks[^2].Height > blocks[^1].Wanted)
            {
                var (above, below) = (blocks[^2], blocks[^1]);
                blocks.RemoveAt(blocks.Count - 1);
                blocks[^1] = (
                    (above.Wanted * above.Count + (below.Wanted - above.Height) * below.Count) / (above.Count + below.Count),
                    above.Count + below.Count,
                    above.Height + below.Height,
                    above.From
                );
            }
        }
        // No further down than the tallest rank needs, and no further up than the top.
        var floor = tallest + measures.Gap;
        for (var i = blocks.Count - 1; i >= 0; i--)
        {
            floor = Math.Min(blocks[i].Wanted, floor - blocks[i].Height);
            blocks[i] = blocks[i] with { Wanted = floor };
        }
        var y = measures.Top;
        foreach (var block in blocks)
        {
            y = Math.Max(y, block.Wanted);
            for (var i = block.From; i < block.From + block.Count; i++)
            {
                top[rank[i].Key] = y;
                y += rank[i].Height + measures.Gap;
            }
        }
    }

    private PlacedLine Route(WebLine line)
    {
        var (from, to) = (Place(boxes[line.From]), Place(boxes[line.To]));
        var points = new List<WebPoint> { new(from.X + measures.BoxWidth, from.Middle) };
        // Within a rank, and back to an earlier one, a line leaves and comes in on the right side.
        if (to.Box.Rank <= from.Box.Rank)
            return new PlacedLine(line, [points[0], new(to.X + measures.BoxWidth, to.Middle)]);
        for (var rank = from.Box.Rank + 1; rank < to.Box.Rank; rank++)
        {
            var x = measures.XOf(rank);
            var share = (x + measures.BoxWidth / 2 - points[0].X) / (to.X - points[0].X);
            var y = Gap(ranks[(int)rank], from.Middle + (to.Middle - from.Middle) * share);
            points.Add(new(x, y));
            points.Add(new(x + measures.BoxWidth, y));
        }
        points.Add(new(to.X, to.Middle));
        return new PlacedLine(line, points);
    }

    // The place between two boxes, above the first or below the last, that is nearest.
    private double Gap(List<WebBox> rank, double y)
    {
        if (rank.Count == 0)
            return y;
        var half = measures.Gap / 2;
        var best = (Distance: double.MaxValue, At: y);
        for (var i = 0; i <= rank.Count; i++)
        {
            var (above, below) = (
                i == 0 ? double.MinValue : top[rank[i - 1].Key] + rank[i - 1].Height,
                i == rank.Count ? double.MaxValue : top[rank[i].Key]
            );
            if (below - above < half)
                continue;
            var at = Math.Clamp(
                y,
                i == 0 ? double.MinValue : above + half,
                i == rank.Count ? double.MaxValue : Math.Max(below - half, above + half)
            );
            if (Math.Abs(at - y) < best.Distance)
                best = (Math.Abs(at - y), at);
        }
        return best.At;
    }
}

/// <summary>The measures of a web, in pixels.</summary>
/// <param name="BoxWidth">Of every box.</param>
/// <param name="Between">From the right side of a rank's boxes to the left side of the next.</param>
/// <param name="Left">From the left edge to the first rank.</param>
/// <param name="Top">Above the first box of a rank.</param>
/// <param name="Gap">The least between two boxes of a rank.</param>
public sealed record WebMeasures(double BoxWidth = 150, double Between = 96, double Left = 10, double Top = 44, double Gap = 14)
{
    /// <summary>Of the left side of a rank's boxes.</summary>
    public double XOf(WebRank rank) => Left + (int)rank * (BoxWidth + Between);
}
