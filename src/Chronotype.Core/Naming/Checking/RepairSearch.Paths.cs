namespace Chronotype.Core.Naming.Checking;

internal sealed partial class RepairSearch
{
    /// <summary>The names of the cheapest repairs, each once, without the extension that stays.</summary>
    /// <param name="most">No more than so many.</param>
    /// <param name="more">Whether there are more than these.</param>
    public List<string> Names(int most, out bool more)
    {
        var names = new SortedSet<string>(StringComparer.Ordinal);
        var seen = new HashSet<(int, string)>();
        var open = new Stack<(int Place, string Tail)>();
        foreach (var goal in goals)
            open.Push((goal, ""));
        more = false;
        var tail = new char[4 * NameChecker.LongestChecked];
        for (var work = 0; open.TryPop(out var from); work++)
        {
            if (work > 4000)
            {
                more = true;
                break;
            }
            var place = from.Place;
            var start = tail.Length - from.Tail.Length;
            from.Tail.CopyTo(tail.AsSpan(start));
            // Where only one way leads to a place there is nothing to choose.
            while (
                reached[place].Way is var only && ways[only].Next == None && ways[only].Before != None && WriteBefore(only, tail, ref start)
            )
                place = ways[only].Before;
            var text = new string(tail.AsSpan(start));
            if (!seen.Add((place, text)))
                continue;
            for (var w = reached[place].Way; w != None; w = ways[w].Next)
            {
                if (ways[w].Before == None)
                    names.Add(text);
                else
                    open.Push((ways[w].Before, TextOf(w) + text));
            }
        }
        if (names.Count > most)
            more = true;
        return [.. names.Take(most)];
    }

    private bool WriteBefore(int way, char[] tail, ref int start)
    {
        if (IsLetter(ways[way].Op))
        {
            if (start == 0)
                return false;
            tail[--start] = (char)ways[way].Argument;
            return true;
        }
        var text = TextOf(way);
        if (text.Length > start)
            return false;
        start -= text.Length;
        text.CopyTo(tail.AsSpan(start));
        return true;
    }

    /// <summary>The steps of the path to one of the cheapest names, first to last.</summary>
    /// <param name="name">Null: any of them.</param>
    public List<RepairStep> Path(string? name = null)
    {
        var path = new List<RepairStep>();
        foreach (var goal in goals)
        {
            path.Clear();
            if (name is null ? Back(goal, path) : Back(goal, name, name.Length, path, []))
            {
                path.Reverse();
                return path;
            }
        }
        throw new InvalidOperationException("The name is none of those that were found.");
    }

    private bool Back(int place, List<RepairStep> path)
    {
        for (var way = reached[place].Way; ways[way].Before != None; way = reached[ways[way].Before].Way)
            path.Add(StepOf(way, TextOf(way)));
        return true;
    }

    private bool Back(int place, string name, int end, List<RepairStep> path, HashSet<(int, int)> failed)
    {
        if (failed.Contains((place, end)))
            return false;
        var length = path.Count;
        var from = (place, end);
        while (true)
        {
            var way = reached[place].Way;
            if (ways[way].Before == None)
            {
                if (end == 0)
                    return true;
                break;
            }
            if (ways[way].Next != None)
            {
                for (; way != None; way = ways[way].Next)
                {
                    if (!Fits(way, name, end, out var before))
                        continue;
                    path.Add(StepOf(way, name[before..end]));
                    if (Back(ways[way].Before, name, before, path, failed))
                        return true;
                    path.RemoveAt(path.Count - 1);
                }
                break;
            }
            if (!Fits(way, name, end, out var rest))
                break;
            path.Add(StepOf(way, name[rest..end]));
            (place, end) = (ways[way].Before, rest);
        }
        failed.Add(from);
        path.RemoveRange(length, path.Count - length);
        return false;
    }

    private bool Fits(int way, string name, int end, out int before)
    {
        if (IsLetter(ways[way].Op))
        {
            before = end - 1;
            return end > 0 && name[before] == (char)ways[way].Argument;
        }
        var text = TextOf(way);
        before = end - text.Length;
        return before >= 0 && string.CompareOrdinal(name, before, text, 0, text.Length) == 0;
    }

    private RepairStep StepOf(int way, string text)
    {
        ref var step = ref ways[way];
        var to = new Place(step.Key);
        return new RepairStep(step.Op, new Place(reached[step.Before].Key).At, to.At, to.Node, text, step.Argument);
    }

    private static bool IsLetter(RepairOp op) =>
        op
            is RepairOp.Keep
                or RepairOp.Case
                or RepairOp.OtherMark
                or RepairOp.Change
                or RepairOp.Add
                or RepairOp.Join
                or RepairOp.JoinOther
                or RepairOp.JoinAdd;

    private string TextOf(int way)
    {
        ref var step = ref ways[way];
        if (IsLetter(step.Op))
            return ((char)step.Argument).ToString();
        return step.Op switch
        {
            RepairOp.Transpose => $"{(char)(step.Argument >> 8)}{(char)(step.Argument & 0xFF)}",
            RepairOp.Accent => accents[step.Argument],
            RepairOp.Known or RepairOp.KnownInstead => problem.Known[new Place(step.Key).Node]!,
            RepairOp.Open or RepairOp.OpenInstead => OpenText,
            RepairOp.PutIn or RepairOp.Fetch or RepairOp.Exchange or RepairOp.Exchanged => problem.TextHeldBy(
                step.Argument,
                new Place(step.Key).Node
            ),
            RepairOp.Number or RepairOp.Date or RepairOp.Meaning or RepairOp.Shorten or RepairOp.Fold or RepairOp.WholeCase => problem
                .ReplacementOf(step.Argument)
                .Value,
            _ => "",
        };
    }

    // Where the convention has no filler a slot that nothing is known of cannot be filled; the path then only tells the faults.
    private string OpenText => problem.Slots.Grammar.Filler is { Length: > 0 } filler ? filler : "\0";
}

/// <summary>One step of a repair as it is told.</summary>
/// <param name="Op">What is done.</param>
/// <param name="From">Where in the name it begins; <paramref name="To"/> where it ends.</param>
/// <param name="To">Behind the last letter that it takes.</param>
/// <param name="Node">Where in the grammar it leads to.</param>
/// <param name="Text">What it writes; empty where it writes nothing.</param>
/// <param name="Argument">A part's or a mark's number, where the step is about one.</param>
internal sealed record RepairStep(RepairOp Op, int From, int To, int Node, string Text, int Argument);
