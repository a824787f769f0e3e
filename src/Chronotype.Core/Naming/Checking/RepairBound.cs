namespace Chronotype.Core.Naming.Checking;

/// <summary>
/// The least that the rest of a name can cost from each node, were every slot's order of letters of no matter: what guides the
/// search (Hart, Nilsson and Raphael, "A formal basis for the heuristic determination of minimum cost paths", 1968). It is
/// never more than the true cost, so the cheapest repair stays the cheapest; it may fall by more than a step costs.
/// </summary>
internal sealed class RepairBound
{
    private sealed class Layer
    {
        public int[] Inside = [],
            AtStart = [];
    }

    // What the rest costs, and what it costs where the second of two parts that change places must still come.
    private readonly Layer plain = new(),
        exchanging = new();
    private int nodes;

    /// <summary>From within a slot, or from its end.</summary>
    public int Inside(int at, int node, bool exchanges) => (exchanges ? exchanging : plain).Inside[at * nodes + node];

    /// <summary>From before a slot's first character.</summary>
    public int AtStart(int at, int node, bool exchanges) => (exchanges ? exchanging : plain).AtStart[at * nodes + node];

    public void Compute(RepairProblem problem)
    {
        var slots = problem.Slots;
        var name = problem.Name;
        nodes = slots.Nodes.Length;
        var cells = (name.Length + 1) * nodes;
        foreach (var layer in (ReadOnlySpan<Layer>)[plain, exchanging])
        {
            if (layer.Inside.Length < cells)
                (layer.Inside, layer.AtStart) = (new int[cells], new int[cells]);
        }
        Span<int> putIn = stackalloc int[nodes];
        Span<int> instead = stackalloc int[nodes];
        for (var n = 0; n < nodes; n++)
        {
            putIn[n] = LeastToFill(problem, n);
            instead[n] =
                problem.Known[n] is not null ? RepairCosts.KnownInstead
                : slots.Nodes[n].MayStandOpen ? RepairCosts.OpenInstead
                : RepairSlots.Never;
        }
        Span<int> best = stackalloc int[nodes];
        Span<int> first = stackalloc int[nodes];
        for (var at = name.Length; at >= 0; at--)
        {
            foreach (var layer in (ReadOnlySpan<Layer>)[plain, exchanging])
            {
                best.Fill(RepairSlots.Never);
                first.Fill(RepairSlots.Never);
                if (at < name.Length)
                    Read(problem, layer, at, best, first, instead);
                Cross(problem, layer, at, best, first, putIn);
            }
        }
    }

    // What reading on within a slot can cost, by node.
    private void Read(RepairProblem problem, Layer layer, int at, Span<int> best, Span<int> first, ReadOnlySpan<int> instead)
    {
        ref readonly var letter = ref problem.Letters[at];
        var c = problem.Name[at];
        var (inside, atStart) = (layer.Inside, layer.AtStart);
        var within = inside.AsSpan((at + letter.Length) * nodes, nodes);
        var before = atStart.AsSpan((at + letter.Length) * nodes, nodes);
        var number = WordLetters.Of(c);
        var costs = number > 0 ? problem.Slots.LetterCosts.AsSpan(number * nodes, nodes) : default;
        var accent = letter.Plain.Length > 0 ? RepairCosts.Accent : RepairSlots.Never;
        var drop = letter.DropCost;
        for (var n = 0; n < best.Length; n++)
        {
            var read =
                n == 0 ? RepairSlots.Never
                : number > 0 ? Math.Min(costs[n], accent)
                : accent;
            best[n] = Math.Min(read, drop) + within[n];
            first[n] = Math.Min(read + within[n], drop + before[n]);
        }
        if (letter.Marks)
        {
            foreach (var mark in problem.Marks)
            {
                if (mark.At == at)
                    Skip(layer, mark.End, RepairProblem.MarkCost(mark.Kind), best, first);
            }
        }
        if (letter.PartFrom >= 0)
            Skip(layer, problem.Parts[letter.PartFrom].To, RepairCosts.MoveHalf, best, first);
        if (letter.PartAt >= 0)
        {
            var end = problem.Parts[letter.PartAt].End * nodes;
            var after = inside.AsSpan(end, nodes);
            for (var n = 0; n < first.Length; n++)
                first[n] = Math.Min(first[n], instead[n] + after[n]);
            if (problem.MayMove(letter.PartAt))
            {
                // All that an exchange costs is paid by the first of the two.
                var cost = layer == plain ? RepairCosts.Exchange : 0;
                var exchanged = (layer == plain ? exchanging : plain).Inside.AsSpan(end, nodes);
                for (var n = 0; n < first.Length; n++)
                {
                    if (problem.HoldsOther(letter.PartAt, n) && (layer == exchanging || problem.MayExchange(letter.PartAt, n)))
                        first[n] = Math.Min(first[n], cost + exchanged[n]);
                }
            }
        }
        for (var r = letter.Replacements; r >= 0; )
        {
            var replacement = problem.ReplacementOf(r);
            first[replacement.Node] = Math.Min(
                first[replacement.Node],
                replacement.Cost + inside[replacement.End * nodes + replacement.Node]
            );
            r = replacement.Next;
        }
    }

    private void Skip(Layer layer, int to, int cost, Span<int> best, Span<int> first)
    {
        var within = layer.Inside.AsSpan(to * nodes, nodes);
        var before = layer.AtStart.AsSpan(to * nodes, nodes);
        for (var n = 0; n < best.Length; n++)
        {
            best[n] = Math.Min(best[n], cost + within[n]);
            first[n] = Math.Min(first[n], cost + before[n]);
        }
    }

    // What stepping on to the next slot can cost, from the last node backwards.
    private void Cross(RepairProblem problem, Layer layer, int at, Span<int> best, Span<int> first, ReadOnlySpan<int> putIn)
    {
        var slots = problem.Slots;
        ref readonly var letter = ref problem.Letters[at];
        var isEnd = at == problem.Name.Length;
        var c = isEnd ? '\0' : problem.Name[at];
        var (edges, from, ends, join) = (slots.Edges, slots.EdgesFrom, problem.Ends, letter.JoinCost);
        var here = layer.AtStart.AsSpan(at * nodes, nodes);
        var row = layer.Inside.AsSpan(at * nodes, nodes);
        var after = letter.IsSeparator ? layer.AtStart.AsSpan((at + letter.Length) * nodes, nodes) : default;
        foreach (var n in slots.Order)
        {
            var least = isEnd && ends[n] && layer == plain ? 0 : best[n];
            for (var e = from[n]; e < from[n + 1]; e++)
            {
                var (to, mark) = edges[e];
                if (mark == '\0')
                    least = Math.Min(least, here[to]);
                else
                {
                    if (!slots.Nodes[to].IsExtension)
                        least = Math.Min(least, join + here[to]);
                    if (!after.IsEmpty)
                        least = Math.Min(least, (c == mark ? 0 : RepairCosts.OtherMark) + after[to]);
                }
            }
            row[n] = least;
            // The root, which holds nothing, has neither.
            here[n] = n == 0 ? least : Math.Min(first[n], putIn[n] + least);
        }
    }

    // A slot that reads nothing is filled: with what is known, with a part from elsewhere, letter by letter, or left open.
    private static int LeastToFill(RepairProblem problem, int node)
    {
        var info = problem.Slots.Nodes[node];
        if (info.IsRoot)
            return 0;
        if (info.IsExtension)
            return RepairSlots.Never;
        var least = info.MayStandOpen ? RepairCosts.Open : RepairSlots.Never;
        if (problem.Known[node] is not null)
            least = RepairCosts.Known;
        if (info.FreeLetters)
            least = Math.Min(least, RepairCosts.Letter * info.Shortest);
        return Math.Min(least, RepairCosts.MoveHalf + problem.LeastHeld[node]);
    }
}
