namespace Chronotype.Core.Naming.Checking;

/// <summary>
/// Finds the legal names that cost least to reach from a name: a cheapest path through the grammar's automaton paired with the
/// name (an error-correcting parse after Aho and Peterson, 1972, and Wagner, "Order-n correction for regular languages", 1974),
/// searched best first under <see cref="RepairBound"/>. Whole parts may also be taken out at one place and put in at another.
/// </summary>
internal sealed partial class RepairSearch
{
    /// <summary>So many places are looked at before a name is given up as beyond repair.</summary>
    public const int MaxPlaces = 30_000;

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

    // The parts that were taken out, and those that were fetched early, as bits; and two that are changing places.
    private readonly record struct Parted(uint Aside, uint Fetched, int Swapped = 0)
    {
        public static int Swap(int first, int second) => first << 8 | second;

        // The second of two always has a number above nought.
        public int First => Swapped >> 8;
        public int Second => Swapped == 0 ? None : Swapped & 0xFF;
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
    private readonly List<Parted> asides = [];
    private readonly Dictionary<Parted, int> asideNumbers = [];
    private readonly List<int> goals = [];
    private readonly List<string> accents = [];
    private RepairProblem problem = null!;
    private int current,
        currentCost,
        looking;

    /// <summary>What the best repair found costs; only after <see cref="Run"/> returned true.</summary>
    public int Cost { get; private set; }

    /// <param name="name">The name, prepared for these slots.</param>
    /// <param name="all">Whether every equally cheap repair is wanted, or any one.</param>
    /// <returns>False when there is none, or none was found in bounds.</returns>
    public bool Run(RepairProblem name, bool all)
    {
        problem = name;
        bound.Compute(name);
        Clear();
        Asides(new(0, 0));
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

    private int Asides(Parted parted)
    {
        if (asideNumbers.TryGetValue(parted, out var known))
            return known;
        asides.Add(parted);
        return asideNumbers[parted] = asides.Count - 1;
    }

    private void Reach(Place to, int cost, RepairOp op, int argument)
    {
        var total = currentCost + cost;
        Wait(
            to,
            total,
            total
                + (
                    to.State == SlotAutomaton.Start
                        ? bound.AtStart(to.At, to.Node, IsExchanging(to))
                        : bound.Inside(to.At, to.Node, IsExchanging(to))
                ),
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
