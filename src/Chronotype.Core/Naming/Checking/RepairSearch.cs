namespace Chronotype.Core.Naming;

/// <summary>
/// Finds the legal names that cost least to reach from a name: a cheapest path through the grammar's automaton paired with the
/// name (an error-correcting parse after Aho and Peterson, 1972, and Wagner, "Order-n correction for regular languages", 1974),
/// searched best first under <see cref="RepairBound"/>. Whole parts may also be taken out at one place and put in at another.
/// </summary>
internal sealed class RepairSearch
{
    /// <summary>So many places are looked at before a name is given up as beyond repair.</summary>
    public const int MaxPlaces = 150_000;

    private const int MaxCost = 4095, None = -1;

    // A place of the search: how far the name is read, which parts lie beside or were fetched early, the node, the slot's state.
    private readonly record struct Place(int At, int Aside, int Node, int State);

    private struct Reached
    {
        public ulong Key;
        public int Cost, Way;
    }

    // A way to a place. It waits in the queue of its cost, and then stands in the list of the place that it led to.
    private struct Way
    {
        public ulong Key;
        public int Before, Next, Argument;
        public short Cost;
        public RepairOp Op;

        // Letters put in or changed all cost the same, and are looked at one by one only when their turn comes.
        public bool IsBundle;
    }

    private readonly RepairBound bound = new();
    private Reached[] reached = new Reached[1024];
    private int reachedCount;
    private int[] table = new int[4096];
    private Way[] ways = new Way[2048];
    private int wayCount;
    private readonly int[] queues = new int[MaxCost + 1];
    private int queueEnd;
    private readonly List<(uint Aside, uint Fetched)> asides = [];
    private readonly Dictionary<(uint, uint), int> asideNumbers = [];
    private readonly List<int> goals = [];
    private readonly List<string> accents = [];
    private RepairProblem problem = null!;
    private int current, currentCost;

    /// <summary>What the best repair found costs; only after <see cref="Run"/> returned true.</summary>
    public int Cost { get; private set; }

    /// <param name="all">Whether every equally cheap repair is wanted, or any one.</param>
    /// <returns>False when there is none, or none was found in bounds.</returns>
    public bool Run(RepairProblem name, bool all)
    {
        problem = name;
        bound.Compute(name);
        Clear();
        Asides(0, 0);
        (current, currentCost) = (None, 0);
        Reach(new Place(0, 0, 0, 0), 0, RepairOp.Enter, 0);
        var found = false;
        for (var total = 0; total < queueEnd; total++)
        {
            if (found && total > Cost) break;
            while (queues[total] != None)
            {
                var way = queues[total];
                queues[total] = ways[way].Next;
                var at = Unpack(ways[way].Key);
                if (ways[way].IsBundle)
                {
                    (current, currentCost) = (ways[way].Before, ways[way].Cost);
                    Unfold(at, ways[way].Op);
                    continue;
                }
                if (!Arrive(way)) continue;
                if (IsGoal(at))
                {
                    (found, Cost) = (true, total);
                    if (!goals.Contains(current)) goals.Add(current);
                    if (!all) return true;
                }
                if (reachedCount > MaxPlaces) return found;
                Expand(at);
            }
        }
        return found;
    }

    // A cheaper way to a place that was reached before opens it again.
    private bool Arrive(int way)
    {
        var count = reachedCount;
        var index = Find(ways[way].Key);
        ref var place = ref reached[index];
        var opens = index == count || ways[way].Cost < place.Cost;
        if (opens) (place.Cost, place.Way) = (ways[way].Cost, None);
        else if (ways[way].Cost > place.Cost) return false;
        ways[way].Next = place.Way;
        place.Way = way;
        (current, currentCost) = (index, place.Cost);
        return opens;
    }

    /// <summary>The names of the cheapest repairs, each once, without the extension that stays.</summary>
    /// <param name="more">Whether there are more than these.</param>
    public List<string> Names(int most, out bool more)
    {
        var names = new SortedSet<string>(StringComparer.Ordinal);
        var seen = new HashSet<(int, string)>();
        var open = new Stack<(int Place, string Tail)>();
        foreach (var goal in goals) open.Push((goal, ""));
        more = false;
        var tail = new char[4 * NameChecker.LongestChecked];
        for (var work = 0; open.TryPop(out var from); work++)
        {
            if (work > 4000) { more = true; break; }
            var place = from.Place;
            var start = tail.Length - from.Tail.Length;
            from.Tail.CopyTo(tail.AsSpan(start));
            // Where only one way leads to a place there is nothing to choose.
            while (reached[place].Way is var only && ways[only].Next == None && ways[only].Before != None && WriteBefore(only, tail, ref start)) place = ways[only].Before;
            var text = new string(tail.AsSpan(start));
            if (!seen.Add((place, text))) continue;
            for (var w = reached[place].Way; w != None; w = ways[w].Next)
            {
                if (ways[w].Before == None) names.Add(text);
                else open.Push((ways[w].Before, TextOf(w) + text));
            }
        }
        if (names.Count > most) more = true;
        return [.. names.Take(most)];
    }

    private bool WriteBefore(int way, char[] tail, ref int start)
    {
        if (IsLetter(ways[way].Op))
        {
            if (start == 0) return false;
            tail[--start] = (char)ways[way].Argument;
            return true;
        }
        var text = TextOf(way);
        if (text.Length > start) return false;
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
            if (name is null ? Back(goal, path) : Back(goal, name, name.Length, path, [])) { path.Reverse(); return path; }
        }
        throw new InvalidOperationException("The name is none of those that were found.");
    }

    private bool Back(int place, List<RepairStep> path)
    {
        for (var way = reached[place].Way; ways[way].Before != None; way = reached[ways[way].Before].Way) path.Add(StepOf(way, TextOf(way)));
        return true;
    }

    private bool Back(int place, string name, int end, List<RepairStep> path, HashSet<(int, int)> failed)
    {
        if (failed.Contains((place, end))) return false;
        var length = path.Count;
        var from = (place, end);
        while (true)
        {
            var way = reached[place].Way;
            if (ways[way].Before == None) { if (end == 0) return true; break; }
            if (ways[way].Next != None)
            {
                for (; way != None; way = ways[way].Next)
                {
                    if (!Fits(way, name, end, out var before)) continue;
                    path.Add(StepOf(way, name[before..end]));
                    if (Back(ways[way].Before, name, before, path, failed)) return true;
                    path.RemoveAt(path.Count - 1);
                }
                break;
            }
            if (!Fits(way, name, end, out var rest)) break;
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
        var to = Unpack(step.Key);
        return new RepairStep(step.Op, Unpack(reached[step.Before].Key).At, to.At, to.Node, text, step.Argument);
    }

    private static bool IsLetter(RepairOp op) => op is RepairOp.Keep or RepairOp.Case or RepairOp.OtherMark or RepairOp.Change or RepairOp.Add or RepairOp.Join or RepairOp.JoinOther or RepairOp.JoinAdd;

    private string TextOf(int way)
    {
        ref var step = ref ways[way];
        if (IsLetter(step.Op)) return ((char)step.Argument).ToString();
        return step.Op switch
        {
            RepairOp.Accent => accents[step.Argument],
            RepairOp.Known or RepairOp.KnownInstead => problem.Known[Unpack(step.Key).Node]!,
            RepairOp.Open or RepairOp.OpenInstead => OpenText,
            RepairOp.PutIn or RepairOp.Fetch => problem.TextHeldBy(step.Argument, Unpack(step.Key).Node),
            RepairOp.Number or RepairOp.Date or RepairOp.Meaning or RepairOp.Shorten or RepairOp.Fold or RepairOp.WholeCase => problem.ReplacementOf(step.Argument).Value,
            _ => "",
        };
    }

    private bool IsGoal(Place place) => place.At == problem.Name.Length && place.Aside == 0
        && problem.Slots.Nodes[place.Node] is var info && problem.MayEnd(info)
        && (place.State == info.Closed || info.Node.Automaton.Accepts(place.State));

    private void Expand(Place place)
    {
        var info = problem.Slots.Nodes[place.Node];
        if (place.At < problem.Name.Length && !Moves(place)) Read(place, info);
        if (info.IsRoot || place.State == info.Closed || info.Node.Automaton.Accepts(place.State)) Cross(place, info);
        if (place.State == SlotAutomaton.Start && info.Node.Slot is not null) Fill(place, info);
        if (info.FreeLetters && place.State < info.Closed) Bundle(place, RepairOp.Add);
    }

    // Letters put in or changed: one entry for all of them, at the cost that all of them have.
    private void Bundle(Place place, RepairOp op)
    {
        if (problem.Slots.Nodes[place.Node].Node.Automaton.Moves[place.State].Length == 0) return;
        var on = op == RepairOp.Change ? place.At + problem.Letters[place.At].Length : place.At;
        Wait(place, currentCost, currentCost + RepairCosts.Letter + bound.Inside(on, place.Node), op, 0, isBundle: true);
    }

    private void Unfold(Place place, RepairOp op)
    {
        var on = op == RepairOp.Change ? place with { At = place.At + problem.Letters[place.At].Length } : place;
        foreach (var (letter, to) in problem.Slots.Nodes[place.Node].Node.Automaton.Moves[place.State])
        {
            if (op == RepairOp.Add || letter != problem.Name[place.At]) Reach(on with { State = to }, RepairCosts.Letter, op, letter);
        }
    }

    // A part that was fetched before is passed over where it stood; any other may be taken out here, or left out.
    private bool Moves(Place place)
    {
        var p = problem.Letters[place.At].PartFrom;
        if (p < 0) return false;
        var (aside, fetched) = asides[place.Aside];
        var part = problem.Parts[p];
        var bit = 1u << p;
        if ((fetched & bit) != 0)
        {
            Reach(place with { At = part.To, Aside = Asides(aside, fetched & ~bit) }, RepairCosts.MoveHalf, RepairOp.Fetched, p);
            return true;
        }
        if (problem.IsAtHomeSomewhere(p)) Reach(place with { At = part.To, Aside = Asides(aside | bit, fetched) }, RepairCosts.MoveHalf, RepairOp.TakeOut, p);
        Reach(place with { At = part.To }, RepairCosts.Part, RepairOp.LeaveOutPart, p);
        return false;
    }

    private void Read(Place place, RepairSlots.Info info)
    {
        var c = problem.Name[place.At];
        var letter = problem.Letters[place.At];
        Reach(place with { At = place.At + letter.Length }, letter.DropCost, RepairOp.Drop, 0);
        for (var m = 0; letter.Marks && m < problem.Marks.Count; m++)
        {
            var mark = problem.Marks[m];
            if (mark.At == place.At) Reach(place with { At = mark.End }, RepairProblem.MarkCost(mark.Kind), RepairOp.LeaveOut, m);
        }
        if (info.IsRoot || place.State == info.Closed) return;
        var automaton = info.Node.Automaton;
        var on = place with { At = place.At + letter.Length };
        if (c < 128)
        {
            var kept = automaton.Next(place.State, c);
            if (kept != SlotAutomaton.None) Reach(on with { State = kept }, 0, RepairOp.Keep, c);
            var other = RepairSlots.OtherCase(c);
            if (other != c && automaton.Next(place.State, other) is var cased && cased != SlotAutomaton.None) Reach(on with { State = cased }, RepairCosts.Case, RepairOp.Case, other);
        }
        else if (letter.Plain.Length > 0) Accent(on, automaton, place.State, letter.Plain);
        if (info.Joiner != '\0' && c != info.Joiner && letter.IsSeparator && problem.MayJoinWords(place.At) && automaton.Next(place.State, info.Joiner) is var joined && joined != SlotAutomaton.None)
            Reach(on with { State = joined }, RepairCosts.OtherMark, RepairOp.OtherMark, info.Joiner);
        if (info.FreeLetters) Bundle(place, RepairOp.Change);
    }

    // Its plain letters stand for it, in whichever case the slot takes them.
    private void Accent(Place on, SlotAutomaton automaton, int state, string plain)
    {
        Span<char> letters = stackalloc char[plain.Length];
        for (var i = 0; i < plain.Length; i++)
        {
            letters[i] = plain[i];
            var to = automaton.Next(state, plain[i]);
            if (to == SlotAutomaton.None) to = automaton.Next(state, letters[i] = RepairSlots.OtherCase(plain[i]));
            if (to == SlotAutomaton.None) return;
            state = to;
        }
        accents.Add(letters.ToString());
        Reach(on with { State = state }, RepairCosts.Accent, RepairOp.Accent, accents.Count - 1);
    }

    private void Cross(Place place, RepairSlots.Info info)
    {
        var c = place.At < problem.Name.Length ? problem.Name[place.At] : '\0';
        var separator = problem.Letters[place.At].IsSeparator && !IsFetched(place);
        foreach (var edge in info.Node.Next)
        {
            var to = place with { Node = edge.Node, State = SlotAutomaton.Start };
            if (edge.Join == '\0') Reach(to, 0, RepairOp.Enter, 0);
            else
            {
                var extension = problem.Slots.Nodes[edge.Node].IsExtension;
                if (separator && c == edge.Join) Reach(to with { At = place.At + 1 }, 0, RepairOp.Join, edge.Join);
                else if (separator && !extension) Reach(to with { At = place.At + 1 }, RepairCosts.OtherMark, RepairOp.JoinOther, edge.Join);
                if (!extension) Reach(to, problem.Letters[place.At].JoinCost, RepairOp.JoinAdd, edge.Join);
            }
        }
    }

    private bool IsFetched(Place place)
    {
        var fetched = place.Aside == 0 ? 0 : asides[place.Aside].Fetched;
        for (var p = 0; fetched >> p != 0; p++)
        {
            if ((fetched >> p & 1) != 0 && problem.Parts[p].From == place.At) return true;
        }
        return false;
    }

    private void Fill(Place place, RepairSlots.Info info)
    {
        var closed = place with { State = info.Closed };
        var known = problem.Known[place.Node];
        if (known is not null) Reach(closed, RepairCosts.Known, RepairOp.Known, 0);
        if (info.MayStandOpen) Reach(closed, RepairCosts.Open, RepairOp.Open, 0);
        var (aside, fetched) = asides[place.Aside];
        if (problem.Letters[place.At].PartAt is var here && here >= 0 && (fetched >> here & 1) == 0)
        {
            var end = problem.Parts[here].End;
            if (known is not null) Reach(closed with { At = end }, RepairCosts.KnownInstead, RepairOp.KnownInstead, 0);
            if (info.MayStandOpen) Reach(closed with { At = end }, RepairCosts.OpenInstead, RepairOp.OpenInstead, 0);
        }
        for (var p = 0; p < problem.Parts.Count; p++)
        {
            if (!problem.IsHeldBy(p, place.Node, out var cost)) continue;
            var bit = 1u << p;
            var beside = (aside & bit) != 0;
            if (!beside && ((fetched & bit) != 0 || problem.Parts[p].From < place.At)) continue;
            var masks = beside ? Asides(aside & ~bit, fetched) : Asides(aside, fetched | bit);
            Reach(closed with { Aside = masks }, RepairCosts.MoveHalf + cost, beside ? RepairOp.PutIn : RepairOp.Fetch, p);
        }
        if (problem.Letters[place.At].Replacements is var r && r >= 0 && !IsFetched(place with { At = place.At - 1 }) && !IsFetched(place))
        {
            for (; r >= 0; r = problem.ReplacementOf(r).Next)
            {
                var replacement = problem.ReplacementOf(r);
                if (replacement.Node == place.Node) Reach(closed with { At = replacement.End }, replacement.Cost, replacement.Op, r);
            }
        }
    }

    // Where the convention has no filler a slot that nothing is known of cannot be filled; the path then only tells the faults.
    private string OpenText => problem.Slots.Grammar.Filler is { Length: > 0 } filler ? filler : "\0";

    private int Asides(uint aside, uint fetched)
    {
        if (asideNumbers.TryGetValue((aside, fetched), out var known)) return known;
        asides.Add((aside, fetched));
        return asideNumbers[(aside, fetched)] = asides.Count - 1;
    }

    private static ulong Pack(Place place) => (ulong)place.At << 52 | (ulong)place.Aside << 34 | (ulong)place.Node << 22 | (uint)place.State;

    private static Place Unpack(ulong key) => new((int)(key >> 52), (int)(key >> 34 & 0x3FFFF), (int)(key >> 22 & 0xFFF), (int)(key & 0x3FFFFF));

    private void Reach(Place to, int cost, RepairOp op, int argument)
    {
        var total = currentCost + cost;
        Wait(to, total, total + (to.State == SlotAutomaton.Start ? bound.AtStart(to.At, to.Node) : bound.Inside(to.At, to.Node)), op, argument);
    }

    private void Wait(Place to, int cost, int atLeast, RepairOp op, int argument, bool isBundle = false)
    {
        if (atLeast > MaxCost) return;
        if (wayCount == ways.Length) Array.Resize(ref ways, wayCount * 2);
        while (queueEnd <= atLeast) queues[queueEnd++] = None;
        ways[wayCount] = new Way { Key = Pack(to), Before = current, Next = queues[atLeast], Argument = argument, Cost = (short)cost, Op = op, IsBundle = isBundle };
        queues[atLeast] = wayCount++;
    }

    // An open table with linear probing; an entry is a place's index plus one.
    private int Find(ulong key)
    {
        if (reachedCount * 2 >= table.Length) Grow();
        var mask = table.Length - 1;
        for (var slot = Hash(key) & mask; ; slot = (slot + 1) & mask)
        {
            if (table[slot] == 0)
            {
                if (reachedCount == reached.Length) Array.Resize(ref reached, reachedCount * 2);
                reached[reachedCount].Key = key;
                table[slot] = ++reachedCount;
                return reachedCount - 1;
            }
            if (reached[table[slot] - 1].Key == key) return table[slot] - 1;
        }
    }

    private static int Hash(ulong key) => (int)(key * 0x9E3779B97F4A7C15 >> 33);

    private void Grow()
    {
        table = new int[table.Length * 2];
        var mask = table.Length - 1;
        for (var i = 0; i < reachedCount; i++)
        {
            var slot = Hash(reached[i].Key) & mask;
            while (table[slot] != 0) slot = (slot + 1) & mask;
            table[slot] = i + 1;
        }
    }

    private void Clear()
    {
        if (table.Length > 1 << 16) (table, reached, ways) = (new int[4096], new Reached[1024], new Way[2048]);
        else Array.Clear(table);
        reachedCount = wayCount = queueEnd = 0;
        asides.Clear();
        asideNumbers.Clear();
        goals.Clear();
        accents.Clear();
    }
}

/// <summary>One step of a repair as it is told.</summary>
/// <param name="From">Where in the name it begins; <paramref name="To"/> where it ends.</param>
/// <param name="Node">Where in the grammar it leads to.</param>
/// <param name="Text">What it writes; empty where it writes nothing.</param>
/// <param name="Argument">A part's or a mark's number, where the step is about one.</param>
internal sealed record RepairStep(RepairOp Op, int From, int To, int Node, string Text, int Argument);
