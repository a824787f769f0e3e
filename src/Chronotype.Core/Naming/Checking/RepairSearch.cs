namespace Chronotype.Core.Naming;

/// <summary>
/// Finds the legal names that cost least to reach from a name: a cheapest path through the grammar's automaton paired with the
/// name (an error-correcting parse after Aho and Peterson, 1972, and Wagner, "Order-n correction for regular languages", 1974),
/// searched best first under <see cref="RepairBound"/>. Whole parts may also be taken out at one place and put in at another.
/// </summary>
internal sealed partial class RepairSearch
{
    /// <summary>So many places are looked at before a name is given up as beyond repair.</summary>
    public const int MaxPlaces = 150_000;

    private const int MaxCost = 4095,
        MaxAsides = 200_000,
        None = -1;

    // A place of the search: how far the name is read, which parts lie beside or were fetched early, the node, the slot's state.
    // All in one word, which is its key.
    private readonly record struct Place(ulong Key)
    {
        private const ulong AtMask = 0xFFFUL << 52,
            AsideMask = 0x3FFFFUL << 34,
            NodeMask = 0xFFFUL << 22,
            StateMask = 0x3FFFFFUL;

        public int At => (int)(Key >> 52);
        public int Aside => (int)((Key & AsideMask) >> 34);
        public int Node => (int)((Key & NodeMask) >> 22);
        public int State => (int)(Key & StateMask);

        public Place To(int at) => new((Key & ~AtMask) | ((ulong)at << 52));

        public Place In(int state) => new((Key & ~StateMask) | (uint)state);

        public Place With(int aside) => new((Key & ~AsideMask) | ((ulong)aside << 34));

        /// <summary>Before the first character of another slot.</summary>
        public Place Enter(int node) => new((Key & ~(NodeMask | StateMask)) | ((ulong)node << 22));
    }

    private struct Reached
    {
        public ulong Key;
        public int Cost,
            Way;
    }

    // A way to a place. It waits in the queue of its cost, and then stands in the list of the place that it led to.
    private struct Way
    {
        public ulong Key;
        public int Before,
            Next,
            Argument;
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
    private int current,
        currentCost,
        looking;

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
        (current, currentCost, looking) = (None, 0, 0);
        Reach(new Place(0), 0, RepairOp.Enter, 0);
        var found = false;
        for (var total = 0; total < queueEnd; total++)
        {
            if (found && total > Cost)
                break;
            looking = total;
            while (queues[total] != None)
            {
                var way = queues[total];
                queues[total] = ways[way].Next;
                var at = new Place(ways[way].Key);
                if (ways[way].IsBundle)
                {
                    (current, currentCost) = (ways[way].Before, ways[way].Cost);
                    Unfold(at, ways[way].Op);
                    continue;
                }
                if (!Arrive(way))
                    continue;
                if (IsGoal(at))
                {
                    (found, Cost) = (true, total);
                    if (!goals.Contains(current))
                        goals.Add(current);
                    if (!all)
                        return true;
                }
                if (reachedCount > MaxPlaces)
                    return found;
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
        if (opens)
            (place.Cost, place.Way) = (ways[way].Cost, None);
        else if (ways[way].Cost > place.Cost)
            return false;
        ways[way].Next = place.Way;
        place.Way = way;
        (current, currentCost) = (index, place.Cost);
        return opens;
    }

    private bool IsGoal(Place place) =>
        place.At == problem.Name.Length
        && place.Aside == 0
        && problem.Slots.Nodes[place.Node] is var info
        && problem.Ends[place.Node]
        && (place.State == info.Closed || info.Node.Automaton.Accepts(place.State));

    private void Expand(Place place)
    {
        var info = problem.Slots.Nodes[place.Node];
        if (place.At < problem.Name.Length && !Moves(place))
            Read(place, info);
        if (info.IsRoot || place.State == info.Closed || info.Node.Automaton.Accepts(place.State))
            Cross(place, info);
        if (place.State == SlotAutomaton.Start && info.Node.Slot is not null)
            Fill(place, info);
        if (info.FreeLetters && place.State < info.Closed)
            Bundle(place, RepairOp.Add);
    }

    // Letters put in or changed: one entry for all of them, at the cost that all of them have.
    private void Bundle(Place place, RepairOp op)
    {
        if (problem.Slots.Nodes[place.Node].Node.Automaton.Moves[place.State].Length == 0)
            return;
        var on = op == RepairOp.Change ? place.At + problem.Letters[place.At].Length : place.At;
        Wait(place, currentCost, currentCost + RepairCosts.Letter + bound.Inside(on, place.Node), op, 0, isBundle: true);
    }

    private void Unfold(Place place, RepairOp op)
    {
        var on = op == RepairOp.Change ? place.To(place.At + problem.Letters[place.At].Length) : place;
        foreach (var (letter, to) in problem.Slots.Nodes[place.Node].Node.Automaton.Moves[place.State])
        {
            if (op == RepairOp.Add || letter != problem.Name[place.At])
                Reach(on.In(to), RepairCosts.Letter, op, letter);
        }
    }

    // A part that was fetched before is passed over where it stood; any other may be taken out here, or left out.
    private bool Moves(Place place)
    {
        var p = problem.Letters[place.At].PartFrom;
        if (p < 0)
            return false;
        var (aside, fetched) = asides[place.Aside];
        var part = problem.Parts[p];
        var bit = 1u << p;
        if ((fetched & bit) != 0)
        {
            Reach(place.To(part.To).With(Asides(aside, fetched & ~bit)), RepairCosts.MoveHalf, RepairOp.Fetched, p);
            return true;
        }
        if (problem.IsAtHomeSomewhere(p) && asides.Count < MaxAsides)
            Reach(place.To(part.To).With(Asides(aside | bit, fetched)), RepairCosts.MoveHalf, RepairOp.TakeOut, p);
        Reach(place.To(part.To), RepairCosts.Part, RepairOp.LeaveOutPart, p);
        return false;
    }

    private void Read(Place place, RepairSlots.Info info)
    {
        var c = problem.Name[place.At];
        ref readonly var letter = ref problem.Letters[place.At];
        Reach(place.To(place.At + letter.Length), letter.DropCost, RepairOp.Drop, 0);
        for (var m = 0; letter.Marks && m < problem.Marks.Length; m++)
        {
            var mark = problem.Marks[m];
            if (mark.At == place.At)
                Reach(place.To(mark.End), RepairProblem.MarkCost(mark.Kind), RepairOp.LeaveOut, m);
        }
        if (info.IsRoot || place.State == info.Closed)
            return;
        var automaton = info.Node.Automaton;
        var on = place.To(place.At + letter.Length);
        if (c < 128)
        {
            var kept = automaton.Next(place.State, c);
            if (kept != SlotAutomaton.None)
                Reach(on.In(kept), 0, RepairOp.Keep, c);
            var other = RepairSlots.OtherCase(c);
            if (other != c && automaton.Next(place.State, other) is var cased && cased != SlotAutomaton.None)
                Reach(on.In(cased), RepairCosts.Case, RepairOp.Case, other);
        }
        else if (letter.Plain.Length > 0)
            Accent(on, automaton, place.State, letter.Plain);
        if (
            info.Joiner != '\0'
            && c != info.Joiner
            && letter.IsSeparator
            && problem.MayJoinWords(place.At)
            && automaton.Next(place.State, info.Joiner) is var joined
            && joined != SlotAutomaton.None
        )
            Reach(on.In(joined), RepairCosts.OtherMark, RepairOp.OtherMark, info.Joiner);
        if (info.FreeLetters)
            Bundle(place, RepairOp.Change);
    }

    // Its plain letters stand for it, in whichever case the slot takes them.
    private void Accent(Place on, SlotAutomaton automaton, int state, string plain)
    {
        Span<char> letters = stackalloc char[plain.Length];
        for (var i = 0; i < plain.Length; i++)
        {
            letters[i] = plain[i];
            var to = automaton.Next(state, plain[i]);
            if (to == SlotAutomaton.None)
                to = automaton.Next(state, letters[i] = RepairSlots.OtherCase(plain[i]));
            if (to == SlotAutomaton.None)
                return;
            state = to;
        }
        accents.Add(letters.ToString());
        Reach(on.In(state), RepairCosts.Accent, RepairOp.Accent, accents.Count - 1);
    }

    private void Cross(Place place, RepairSlots.Info info)
    {
        var c = place.At < problem.Name.Length ? problem.Name[place.At] : '\0';
        var separator = problem.Letters[place.At].IsSeparator && !IsFetched(place);
        foreach (var edge in info.Node.Next)
        {
            var to = place.Enter(edge.Node);
            if (edge.Join == '\0')
                Reach(to, 0, RepairOp.Enter, 0);
            else
            {
                var extension = problem.Slots.Nodes[edge.Node].IsExtension;
                if (separator && c == edge.Join)
                    Reach(to.To(place.At + 1), 0, RepairOp.Join, edge.Join);
                else if (separator && !extension)
                    Reach(to.To(place.At + 1), RepairCosts.OtherMark, RepairOp.JoinOther, edge.Join);
                if (!extension)
                    Reach(to, problem.Letters[place.At].JoinCost, RepairOp.JoinAdd, edge.Join);
            }
        }
    }

    private bool IsFetched(Place place)
    {
        var fetched = place.Aside == 0 ? 0 : asides[place.Aside].Fetched;
        for (var p = 0; fetched >> p != 0; p++)
        {
            if ((fetched >> p & 1) != 0 && problem.Parts[p].From == place.At)
                return true;
        }
        return false;
    }

    private void Fill(Place place, RepairSlots.Info info)
    {
        var closed = place.In(info.Closed);
        var known = problem.Known[place.Node];
        if (known is not null)
            Reach(closed, RepairCosts.Known, RepairOp.Known, 0);
        if (info.MayStandOpen)
            Reach(closed, RepairCosts.Open, RepairOp.Open, 0);
        var (aside, fetched) = asides[place.Aside];
        if (problem.Letters[place.At].PartAt is var here && here >= 0 && (fetched >> here & 1) == 0)
        {
            var end = problem.Parts[here].End;
            if (known is not null)
                Reach(closed.To(end), RepairCosts.KnownInstead, RepairOp.KnownInstead, 0);
            if (info.MayStandOpen)
                Reach(closed.To(end), RepairCosts.OpenInstead, RepairOp.OpenInstead, 0);
        }
        for (var p = 0; p < problem.Parts.Length; p++)
        {
            if (!problem.IsHeldBy(p, place.Node, out var cost) || asides.Count >= MaxAsides)
                continue;
            var bit = 1u << p;
            var beside = (aside & bit) != 0;
            if (!beside && ((fetched & bit) != 0 || problem.Parts[p].From < place.At))
                continue;
            var masks = beside ? Asides(aside & ~bit, fetched) : Asides(aside, fetched | bit);
            Reach(closed.With(masks), RepairCosts.MoveHalf + cost, beside ? RepairOp.PutIn : RepairOp.Fetch, p);
        }
        if (problem.Letters[place.At].Replacements is var r && r >= 0 && !IsFetched(place.To(place.At - 1)) && !IsFetched(place))
        {
            for (; r >= 0; r = problem.ReplacementOf(r).Next)
            {
                var replacement = problem.ReplacementOf(r);
                if (replacement.Node == place.Node)
                    Reach(closed.To(replacement.End), replacement.Cost, replacement.Op, r);
            }
        }
    }

    private int Asides(uint aside, uint fetched)
    {
        if (asideNumbers.TryGetValue((aside, fetched), out var known))
            return known;
        asides.Add((aside, fetched));
        return asideNumbers[(aside, fetched)] = asides.Count - 1;
    }

    private void Reach(Place to, int cost, RepairOp op, int argument)
    {
        var total = currentCost + cost;
        Wait(
            to,
            total,
            total + (to.State == SlotAutomaton.Start ? bound.AtStart(to.At, to.Node) : bound.Inside(to.At, to.Node)),
            op,
            argument
        );
    }

    private void Wait(Place to, int cost, int atLeast, RepairOp op, int argument, bool isBundle = false)
    {
        // The bound may fall on the way, but what comes behind a place costs no less than what was told before it (L. Mérő, 1984).
        atLeast = Math.Max(atLeast, looking);
        if (atLeast > MaxCost)
            return;
        if (wayCount == ways.Length)
            Array.Resize(ref ways, wayCount * 2);
        while (queueEnd <= atLeast)
            queues[queueEnd++] = None;
        ways[wayCount] = new Way
        {
            Key = to.Key,
            Before = current,
            Next = queues[atLeast],
            Argument = argument,
            Cost = (short)cost,
            Op = op,
            IsBundle = isBundle,
        };
        queues[atLeast] = wayCount++;
    }

    // An open table with linear probing; an entry is a place's index plus one.
    private int Find(ulong key)
    {
        if (reachedCount * 2 >= table.Length)
            Grow();
        var mask = table.Length - 1;
        for (var slot = Hash(key) & mask; ; slot = (slot + 1) & mask)
        {
            if (table[slot] == 0)
            {
                if (reachedCount == reached.Length)
                    Array.Resize(ref reached, reachedCount * 2);
                reached[reachedCount].Key = key;
                table[slot] = ++reachedCount;
                return reachedCount - 1;
            }
            if (reached[table[slot] - 1].Key == key)
                return table[slot] - 1;
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
            while (table[slot] != 0)
                slot = (slot + 1) & mask;
            table[slot] = i + 1;
        }
    }

    private void Clear()
    {
        if (table.Length > 1 << 16)
            (table, reached, ways) = (new int[4096], new Reached[1024], new Way[2048]);
        else
            Array.Clear(table);
        reachedCount = wayCount = queueEnd = 0;
        asides.Clear();
        asideNumbers.Clear();
        goals.Clear();
        accents.Clear();
    }
}
