namespace Chronotype.Core.Naming;

/// <summary>
/// The least that the rest of a name can cost from each node, were every slot's order of letters of no matter: what guides the
/// search (Hart, Nilsson and Raphael, "A formal basis for the heuristic determination of minimum cost paths", 1968). It is
/// never more than the true cost, so the cheapest repair stays the cheapest.
/// </summary>
internal sealed class RepairBound
{
    private int[] inside = [], atStart = [];
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
        if (inside.Length < cells) (inside, atStart) = (new int[cells], new int[cells]);
        Span<int> putIn = stackalloc int[nodes];
        for (var n = 0; n < nodes; n++) putIn[n] = LeastToFill(problem, n);

        for (var at = name.Length; at >= 0; at--)
        {
            var row = at * nodes;
            var length = at < name.Length ? problem.LengthAt(at) : 0;
            var drop = at < name.Length ? problem.DropCost(at) : 0;
            var c = at < name.Length ? name[at] : '\0';
            var plain = c >= 128 && problem.PlainAt(at).Length > 0;
            var join = problem.JoinCost(at);
            var separator = at < name.Length && NameMarks.IsSeparator(c);
            var after = (at + length) * nodes;
            foreach (var n in slots.Order)
            {
                var info = slots.Nodes[n];
                var (best, first) = (RepairSlots.Never, RepairSlots.Never);
                if (at == name.Length)
                {
                    if (info.Node.Ends != 0) best = 0;
                }
                else
                {
                    var read = info.IsRoot ? RepairSlots.Never : c < 128 ? info.LetterCost[c] : plain ? RepairCosts.Accent : RepairSlots.Never;
                    best = Math.Min(read, drop) + inside[after + n];
                    first = Math.Min(read + inside[after + n], drop + atStart[after + n]);
                    foreach (var mark in problem.Marks)
                    {
                        if (mark.At != at) continue;
                        best = Math.Min(best, RepairProblem.MarkCost(mark.Kind) + inside[mark.End * nodes + n]);
                        first = Math.Min(first, RepairProblem.MarkCost(mark.Kind) + atStart[mark.End * nodes + n]);
                    }
                    foreach (var part in problem.Parts)
                    {
                        if (part.From == at)
                        {
                            best = Math.Min(best, RepairCosts.MoveHalf + inside[part.To * nodes + n]);
                            first = Math.Min(first, RepairCosts.MoveHalf + atStart[part.To * nodes + n]);
                        }
                        if (part.At == at && (problem.Known[n] is not null || info.MayStandOpen))
                            first = Math.Min(first, (problem.Known[n] is not null ? RepairCosts.KnownInstead : RepairCosts.OpenInstead) + inside[part.End * nodes + n]);
                    }
                    foreach (var replacement in problem.Replacements)
                    {
                        if (replacement.At == at && replacement.Node == n) first = Math.Min(first, replacement.Cost + inside[replacement.End * nodes + n]);
                    }
                }
                foreach (var edge in info.Node.Next)
                {
                    if (edge.Join == '\0') best = Math.Min(best, atStart[row + edge.Node]);
                    else
                    {
                        if (!slots.Nodes[edge.Node].IsExtension) best = Math.Min(best, join + atStart[row + edge.Node]);
                        if (separator) best = Math.Min(best, (c == edge.Join ? 0 : RepairCosts.OtherMark) + atStart[after + edge.Node]);
                    }
                }
                first = Math.Min(first, putIn[n] + best);
                inside[row + n] = best;
                atStart[row + n] = info.IsRoot ? best : first;
            }
        }
    }

    // A slot that reads nothing is filled: with what is known, with a part from elsewhere, letter by letter, or left open.
    private static int LeastToFill(RepairProblem problem, int node)
    {
        var info = problem.Slots.Nodes[node];
        if (info.IsRoot) return 0;
        if (info.IsExtension) return RepairSlots.Never;
        var least = info.MayStandOpen ? RepairCosts.Open : RepairSlots.Never;
        if (problem.Known[node] is not null) least = RepairCosts.Known;
        if (info.FreeLetters) least = Math.Min(least, RepairCosts.Letter);
        for (var p = 0; p < problem.Parts.Count && least > RepairCosts.MoveHalf; p++)
        {
            if (problem.AsHeldBy(p, node) is ({ }, var cost)) least = Math.Min(least, RepairCosts.MoveHalf + cost);
        }
        return least;
    }
}
