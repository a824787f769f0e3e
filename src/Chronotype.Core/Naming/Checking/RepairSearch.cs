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
        public int Cost, Step;
        public bool Done;
    }

    private struct Step
    {
        public int Before, Next, Argument;
        public RepairOp Op;
    }

    private readonly RepairBound bound = new();
    private Reached[] reached = new Reached[1024];
    private int reachedCount;
    private int[] table = new int[4096];
    private Step[] steps = new Step[2048];
    private int stepCount;
    private (int Place, int Next)[] waiting = new (int, int)[1024];
    private int waitingCount;
    private readonly int[] queues = new int[MaxCost + 1];
    private int queueEnd;
    private readonly List<(uint Aside, uint Fetched)> asides = [];
    private readonly List<int> goals = [];
    private readonly List<string> texts = [];
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
        asides.Add((0, 0));
        (current, currentCost) = (None, 0);
        Reach(new Place(0, 0, 0, 0), 0, RepairOp.Enter, 0);
        var found = false;
        for (var total = 0; total < queueEnd; total++)
        {
            if (found && total > Cost) break;
            while (queues[total] != None)
            {
                var entry = queues[total];
                queues[total] = waiting[entry].Next;
                var index = waiting[entry].Place;
                ref var place = ref reached[index];
                if (place.Done) continue;
                place.Done = true;
                (current, currentCost) = (index, place.Cost);
                var at = Unpack(place.Key);
                if (IsGoal(at))
                {
                    (found, Cost) = (true, total);
                    goals.Add(index);
                    if (!all) return true;
                }
                if (reachedCount > MaxPlaces) return found;
                Expand(at);
            }
        }
        return found;
    }

    /// <summary>The names of the cheapest repairs, each once, and the steps to one of them.</summary>
    public List<string> Names(int most, out bool more)
    {
        var names = new SortedSet<string>(StringComparer.Ordinal);
        var seen = new HashSet<(int, string)>();
        var open = new Stack<(int Place, string Tail)>();
        foreach (var goal in goals) open.Push((goal, ""));
        more = false;
        for (var work = 0; open.TryPop(out var way); work++)
        {
            if (work > 4000) { more = true; break; }
            if (!seen.Add(way)) continue;
            for (var s = reached[way.Place].Step; s != None; s = steps[s].Next)
            {
                var tail = TextOf(steps[s]) + way.Tail;
                if (steps[s].Before == None) names.Add(tail);
                else open.Push((steps[s].Before, tail));
            }
        }
        if (names.Count > most) more = true;
        return [.. names.Take(most)];
    }

    /// <summary>The steps of the path to one of the cheapest names, first to last.</summary>
    /// <param name="name">Null: any of them.</param>
    public List<RepairStep> Path(string? name = null)
    {
        var seen = new HashSet<(int, int)>();
        foreach (var goal in goals)
        {
            var path = new List<RepairStep>();
            if (Back(goal, name, name?.Length ?? 0, path, seen)) { path.Reverse(); return path; }
        }
        throw new InvalidOperationException("The name is none of those that were found.");
    }

    private bool Back(int place, string? name, int end, List<RepairStep> path, HashSet<(int, int)> seen)
    {
        if (!seen.Add((place, end))) return false;
        for (var s = reached[place].Step; s != None; s = steps[s].Next)
        {
            var step = steps[s];
            if (step.Before == None) return name is null || end == 0;
            var text = TextOf(step);
            if (name is not null && (text.Length > end || string.CompareOrdinal(name, end - text.Length, text, 0, text.Length) != 0)) continue;
            var to = Unpack(reached[place].Key);
            path.Add(new RepairStep(step.Op, Unpack(reached[step.Before].Key).At, to.At, to.Node, text, step.Argument));
            if (Back(step.Before, name, end - text.Length, path, seen)) return true;
            path.RemoveAt(path.Count - 1);
        }
        return false;
    }

    private string TextOf(in Step step) => step.Op switch
    {
        RepairOp.Keep or RepairOp.Case or RepairOp.OtherMark or RepairOp.Change or RepairOp.Add or RepairOp.Join or RepairOp.JoinOther or RepairOp.JoinAdd
            => ((char)step.Argument).ToString(),
        RepairOp.Accent or RepairOp.PutIn or RepairOp.Fetch or RepairOp.Known or RepairOp.Open or RepairOp.KnownInstead or RepairOp.OpenInstead
            or RepairOp.Number or RepairOp.Date or RepairOp.Meaning or RepairOp.Shorten or RepairOp.Fold or RepairOp.WholeCase => texts[step.Argument & 0xFFFF],
        _ => "",
    };

    private bool IsGoal(Place place) => place.At == problem.Name.Length && place.Aside == 0
        && problem.Slots.Nodes[place.Node] is var info && info.Node.Ends != 0
        && (place.State == info.Closed || info.Node.Automaton.Accepts(place.State));

    private void Expand(Place place)
    {
        var info = problem.Slots.Nodes[place.Node];
        if (place.At < problem.Name.Length && !Moves(place)) Read(place, info);
        if (info.IsRoot || place.State == info.Closed || info.Node.Automaton.Accepts(place.State)) Cross(place, info);
        if (place.State == SlotAutomaton.Start && info.Node.Slot is not null) Fill(place, info);
        if (info.FreeLetters && place.State < info.Closed)
        {
            foreach (var (letter, to) in info.Node.Automaton.Moves[place.State]) Reach(place with { State = to }, RepairCosts.Letter, RepairOp.Add, letter);
        }
    }

    // A part that was fetched before is passed over where it stood; any other may be taken out here, or left out.
    private bool Moves(Place place)
    {
        var (aside, fetched) = asides[place.Aside];
        for (var p = 0; p < problem.Parts.Count; p++)
        {
            var part = problem.Parts[p];
            if (part.From != place.At) continue;
            var bit = 1u << p;
            if ((fetched & bit) != 0)
            {
                Reach(place with { At = part.To, Aside = Asides(aside, fetched & ~bit) }, RepairCosts.MoveHalf, RepairOp.Fetched, p);
                return true;
            }
            if (problem.IsAtHomeSomewhere(p)) Reach(place with { At = part.To, Aside = Asides(aside | bit, fetched) }, RepairCosts.MoveHalf, RepairOp.TakeOut, p);
            Reach(place with { At = part.To }, RepairCosts.Part, RepairOp.LeaveOutPart, p);
        }
        return false;
    }

    private void Read(Place place, RepairSlots.Info info)
    {
        var c = problem.Name[place.At];
        var length = problem.LengthAt(place.At);
        Reach(place with { At = place.At + length }, problem.DropCost(place.At), RepairOp.Drop, 0);
        for (var m = 0; m < problem.Marks.Count; m++)
        {
            var mark = problem.Marks[m];
            if (mark.At == place.At) Reach(place with { At = mark.End }, RepairProblem.MarkCost(mark.Kind), RepairOp.LeaveOut, m);
        }
        if (info.IsRoot || place.State == info.Closed) return;
        var automaton = info.Node.Automaton;
        var on = place with { At = place.At + length };
        if (c < 128)
        {
            var kept = automaton.Next(place.State, c);
            if (kept != SlotAutomaton.None) Reach(on with { State = kept }, 0, RepairOp.Keep, c);
            var other = RepairSlots.OtherCase(c);
            if (other != c && automaton.Next(place.State, other) is var cased && cased != SlotAutomaton.None) Reach(on with { State = cased }, RepairCosts.Case, RepairOp.Case, other);
        }
        else if (problem.PlainAt(place.At) is { Length: > 0 } plain) Accent(on, automaton, place.State, plain);
        if (info.Joiner != '\0' && c != info.Joiner && NameMarks.IsSeparator(c) && problem.MayJoinWords(place.At) && automaton.Next(place.State, info.Joiner) is var joined && joined != SlotAutomaton.None)
            Reach(on with { State = joined }, RepairCosts.OtherMark, RepairOp.OtherMark, info.Joiner);
        if (!info.FreeLetters) return;
        foreach (var (letter, to) in automaton.Moves[place.State])
        {
            if (letter != c) Reach(on with { State = to }, RepairCosts.Letter, RepairOp.Change, letter);
        }
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
        Reach(on with { State = state }, RepairCosts.Accent, RepairOp.Accent, Text(letters.ToString()));
    }

    private void Cross(Place place, RepairSlots.Info info)
    {
        var c = place.At < problem.Name.Length ? problem.Name[place.At] : '\0';
        var separator = c != '\0' && NameMarks.IsSeparator(c) && !IsFetched(place);
        foreach (var edge in info.Node.Next)
        {
            var to = place with { Node = edge.Node, State = SlotAutomaton.Start };
            if (edge.Join == '\0') Reach(to, 0, RepairOp.Enter, 0);
            else
            {
                var extension = problem.Slots.Nodes[edge.Node].IsExtension;
                if (separator && c == edge.Join) Reach(to with { At = place.At + 1 }, 0, RepairOp.Join, edge.Join);
                else if (separator && !extension) Reach(to with { At = place.At + 1 }, RepairCosts.OtherMark, RepairOp.JoinOther, edge.Join);
                if (!extension) Reach(to, problem.JoinCost(place.At), RepairOp.JoinAdd, edge.Join);
            }
        }
    }

    private bool IsFetched(Place place)
    {
        var fetched = asides[place.Aside].Fetched;
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
        if (known is not null) Reach(closed, RepairCosts.Known, RepairOp.Known, Text(known));
        if (info.MayStandOpen) Reach(closed, RepairCosts.Open, RepairOp.Open, Text(OpenText));
        var (aside, fetched) = asides[place.Aside];
        for (var p = 0; p < problem.Parts.Count; p++)
        {
            var part = problem.Parts[p];
            var bit = 1u << p;
            if (part.At == place.At && (fetched & bit) == 0)
            {
                if (known is not null) Reach(closed with { At = part.End }, RepairCosts.KnownInstead, RepairOp.KnownInstead, Text(known));
                if (info.MayStandOpen) Reach(closed with { At = part.End }, RepairCosts.OpenInstead, RepairOp.OpenInstead, Text(OpenText));
            }
            var beside = (aside & bit) != 0;
            if (!beside && ((fetched & bit) != 0 || part.From < place.At)) continue;
            if (problem.AsHeldBy(p, place.Node) is not ({ } text, var cost)) continue;
            var masks = beside ? Asides(aside & ~bit, fetched) : Asides(aside, fetched | bit);
            Reach(closed with { Aside = masks }, RepairCosts.MoveHalf + cost, beside ? RepairOp.PutIn : RepairOp.Fetch, Text(text) | p << 16);
        }
        foreach (var replacement in problem.Replacements)
        {
            if (replacement.At == place.At && replacement.Node == place.Node && !IsFetched(place with { At = place.At - 1 }) && !IsFetched(place))
                Reach(closed with { At = replacement.End }, replacement.Cost, replacement.Op, Text(replacement.Value));
        }
    }

    // Where the convention has no filler a slot that nothing is known of cannot be filled; the path then only tells the faults.
    private string OpenText => problem.Slots.Grammar.Filler is { Length: > 0 } filler ? filler : "\0";

    private int Text(string text)
    {
        var at = texts.IndexOf(text);
        if (at >= 0) return at;
        texts.Add(text);
        return texts.Count - 1;
    }

    private int Asides(uint aside, uint fetched)
    {
        var at = asides.IndexOf((aside, fetched));
        if (at >= 0) return at;
        asides.Add((aside, fetched));
        return asides.Count - 1;
    }

    private static ulong Pack(Place place) => (ulong)place.At << 52 | (ulong)place.Aside << 34 | (ulong)place.Node << 22 | (uint)place.State;

    private static Place Unpack(ulong key) => new((int)(key >> 52), (int)(key >> 34 & 0x3FFFF), (int)(key >> 22 & 0xFFF), (int)(key & 0x3FFFFF));

    private void Reach(Place to, int cost, RepairOp op, int argument)
    {
        var total = currentCost + cost;
        var rest = to.State == SlotAutomaton.Start ? bound.AtStart(to.At, to.Node) : bound.Inside(to.At, to.Node);
        if (total + rest > MaxCost) return;
        var index = Find(Pack(to));
        ref var place = ref reached[index];
        if (total > place.Cost) return;
        if (stepCount == steps.Length) Array.Resize(ref steps, stepCount * 2);
        steps[stepCount] = new Step { Before = current, Op = op, Argument = argument, Next = total == place.Cost ? place.Step : None };
        var cheaper = total < place.Cost;
        (place.Cost, place.Step) = (total, stepCount++);
        if (!cheaper) return;
        if (waitingCount == waiting.Length) Array.Resize(ref waiting, waitingCount * 2);
        var queue = total + rest;
        while (queueEnd <= queue) queues[queueEnd++] = None;
        waiting[waitingCount] = (index, queues[queue]);
        queues[queue] = waitingCount++;
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
                reached[reachedCount] = new Reached { Key = key, Cost = int.MaxValue, Step = None };
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
        if (table.Length > 1 << 16) table = new int[4096];
        else Array.Clear(table);
        reachedCount = stepCount = waitingCount = queueEnd = 0;
        asides.Clear();
        goals.Clear();
        texts.Clear();
    }
}

/// <summary>One step of a repair as it is told.</summary>
/// <param name="From">Where in the name it begins; <paramref name="To"/> where it ends.</param>
/// <param name="Node">Where in the grammar it leads to.</param>
/// <param name="Text">What it writes; empty where it writes nothing.</param>
/// <param name="Argument">A part's or a mark's number, where the step is about one.</param>
internal sealed record RepairStep(RepairOp Op, int From, int To, int Node, string Text, int Argument);
