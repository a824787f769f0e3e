namespace Chronotype.Core.Naming;

/// <summary>
/// The least that the rest of a name can cost from each node, were every slot's order of letters of no matter: what guides the
/// search (Hart, Nilsson and Raphael, "A formal basis for the heuristic determination of minimum cost paths", 1968). It is
/// never more than the true cost, so the cheapest repair stays the cheapest; it may fall by more than a step costs.
/// </summary>
internal sealed class RepairBound
{
    private int[] inside = [],
        atStart = [];
    private int nodes;

    /// <summary>From within a slot, or from its end.</summary>
    public int Inside(int at, int node) => inside[at * nodes + node];

    /// <summary>From before a slot's first character.</summary>
    public int AtStart(int at, int node) => atStart[at * nodes + node];

    public void Compute(RepairProblem problem)
    {
        var slots = problem.Slots;
        var name = problem.Name;
        nodes = slots.Nodes.Length;
        var cells = (name.Length + 1) * nodes;
        if (inside.Length < cells)
            (inside, atStart) = (new int[cells], new int[cells]);
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
            best.Fill(RepairSlots.Never);
            first.Fill(RepairSlots.Never);
            if (at < name.Length)
                Read(problem, at, best, first, instead);
            Cross(problem, at, best, first, putIn);
        }
    }

    // What reading on within a slot can cost, by node.
    private void Read(RepairProblem problem, int at, Span<int> best, Span<int> first, ReadOnlySpan<int> instead)
    {
        ref readonly var letter = ref problem.Letters[at];
        var c = problem.Name[at];
        var within = inside.AsSpan((at + letter.Length) * nodes, nodes);
        var before = atStart.AsSpan((at + letter.Length) * nodes, nodes);
        var costs = c < 128 ? problem.Slots.LetterCosts.AsSpan(c * nodes, nodes) : default;
        var accent = letter.Plain.Length > 0 ? RepairCosts.Accent : RepairSlots.Never;
        var drop = letter.DropCost;
        for (var n = 0; n < best.Length; n++)
        {
            var read =
                c < 128 ? costs[n]
                : n == 0 ? RepairSlots.Never
                : accent;
            best[n] = Math.Min(read, drop) + within[n];
            first[n] = Math.Min(read + within[n], drop + before[n]);
        }
        if (letter.Marks)
        {
            foreach (var mark in problem.Marks)
            {
                if (mark.At == at)
                    Skip(mark.End, RepairProblem.MarkCost(mark.Kind), best, first);
            }
        }
        if (letter.PartFrom >= 0)
            Skip(problem.Parts[letter.PartFrom].To, RepairCosts.MoveHalf, best, first);
        if (letter.PartAt >= 0)
        {
            var after = inside.AsSpan(problem.Parts[letter.PartAt].End * nodes, nodes);
            for (var n = 0; n < first.Length; n++)
                first[n] = Math.Min(first[n], instead[n] + after[n]);
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

    private void Skip(int to, int cost, Span<int> best, Span<int> first)
    {
        var within = inside.AsSpan(to * nodes, nodes);
        var before = atStart.AsSpan(to * nodes, nodes);
        for (var n = 0; n < best.Length; n++)
        {
            best[n] = Math.Min(best[n], cost + within[n]);
            first[n] = Math.Min(first[n], cost + before[n]);
        }
    }

    // What stepping on to the next slot can cost, from the last node backwards.
    private void Cross(RepairProblem problem, int at, Span<int> best, Span<int> first, ReadOnlySpan<int> putIn)
    {
        var slots = problem.Slots;
        ref readonly var letter = ref problem.Letters[at];
        var isEnd = at == problem.Name.Length;
        var c = isEnd ? '\0' : problem.Name[at];
        var (edges, from, ends, join) = (slots.Edges, slots.EdgesFrom, problem.Ends, letter.JoinCost);
        var here = atStart.AsSpan(at * nodes, nodes);
        var row = inside.AsSpan(at * nodes, nodes);
        var after = letter.IsSeparator ? atStart.AsSpan((at + letter.Length) * nodes, nodes) : default;
        foreach (var n in slots.Order)
        {
            var least = isEnd && ends[n] ? 0 : best[n];
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
