namespace Chronotype.Core.Naming;

public sealed partial class NameGrammar
{
    private const int None = -1;

    [ThreadStatic]
    private static Turn[]? turnsOfThread;

    private readonly Lazy<byte[]> classOf;
    private volatile ReadTable? table;

    /// <summary>
    /// Reads a name with its extension, in time linear in its length. All places that the letters so far may have led to are
    /// followed at once; each set of them is worked out when a name first leads to it, and remembered (the subset construction of
    /// Rabin and Scott, "Finite automata and their decision problems", 1959, done as far as names ask for it).
    /// </summary>
    /// <returns>Null when it is no name of these forms.</returns>
    public NameReading? Read(string name)
    {
        if (name.Length is 0 or > MaxLength)
            return null;
        var at = table ??= new ReadTable(this);
        if (at.IsFull)
            table = at = new ReadTable(this);
        var turns = turnsOfThread ??= new Turn[MaxLength];
        var count = 0;
        var classes = at.ClassOf;
        var moves = at.Moves;
        var stand = 0;
        for (var i = 0; i < name.Length; i++)
        {
            var letter = name[i];
            if (letter >= 128 && (letter = (char)WordLetters.Of(letter)) == 0)
                return null;
            var cell = stand + classes[letter];
            var move = moves[cell];
            if (move == ReadTable.Unknown)
            {
                at.Follow(cell, letter);
                moves = at.Moves;
                move = moves[cell];
            }
            if (move == ReadTable.Nowhere)
                return null;
            if ((move & 1) != 0)
                turns[count++] = new Turn(cell, i);
            stand = move >> 1;
        }
        var end = at.EndOf(stand);
        return end == None ? null : Trace(name, at, turns.AsSpan(0, count), end);
    }

    private bool IsEnd(int place)
    {
        var node = nodes[nodeOf[place]];
        return node.Ends != 0 && node.Automaton.Accepts(place - node.Offset);
    }

    // Backwards from the end, where each place came from says where slots were entered.
    private NameReading Trace(string name, ReadTable at, ReadOnlySpan<Turn> turns, int end)
    {
        var steps = at.Steps;
        Span<int> marks = stackalloc int[2 * turns.Length];
        var first = marks.Length;
        for (int i = turns.Length - 1, k = end; i >= 0; i--)
        {
            var (cell, letter) = turns[i];
            var step = steps[cell]!;
            if (step.Enters[k] is var node && node != None)
            {
                marks[--first] = letter + step.Behind[k];
                marks[--first] = node;
            }
            k = step.From[k];
        }
        return new NameReading(this, name, marks[first..].ToArray());
    }

    /// <param name="name">A name that the grammar has.</param>
    /// <param name="places">Where the walk stood before each letter, and after the last.</param>
    private NameReading ReadingOf(string name, ReadOnlySpan<int> places)
    {
        var marks = new List<int>();
        var before = 0;
        for (var i = 1; i <= name.Length; i++)
        {
            var node = nodeOf[places[i]];
            if (node == before)
                continue;
            marks.Add(node);
            marks.Add(places[i] == nodes[node].Offset ? i : i - 1);
            before = node;
        }
        return new NameReading(this, name, [.. marks]);
    }

    // Letters that every slot and every mark treat alike are one class.
    private byte[] FindClasses()
    {
        var all = nodes.Select(n => n.Automaton).Distinct().ToList();
        var joins = nodes.SelectMany(n => n.Next).Select(e => e.Join).ToHashSet();
        var known = new Dictionary<string, byte>();
        var classes = new byte[SlotAutomaton.Letters];
        var key = new char[all.Count + 1];
        for (var c = '\0'; c < classes.Length; c++)
        {
            for (var a = 0; a < all.Count; a++)
                key[a] = (char)all[a].ClassOf(c);
            key[^1] = c != '\0' && joins.Contains(c) ? c : '\0';
            var text = new string(key);
            if (!known.TryGetValue(text, out classes[c]))
                known[text] = classes[c] = (byte)known.Count;
        }
        return classes;
    }

    /// <summary>A letter's step from one set of places to the next.</summary>
    /// <param name="From">For each place there, which place it was reached from.</param>
    /// <param name="Enters">For each place there, the node that the letter leads into; <see cref="None"/> within one.</param>
    /// <param name="Behind">Whether the slot begins behind the letter, which is its mark (1), or with it (0).</param>
    private sealed record Step(int[] From, int[] Enters, int[] Behind)
    {
        /// <summary>Every place comes from the one of the same number, and none leads into another slot.</summary>
        public bool IsStraight => From.Select((k, i) => k == i).All(same => same) && Enters.All(n => n == None);
    }

    /// <summary>Where the table holds a step that is not straight, and the number of its letter.</summary>
    private readonly record struct Turn(int Cell, int Letter);

    /// <summary>
    /// The sets of places that names led to so far, numbered, with the step of each class of letters. Any thread reads it without
    /// a lock, since what is written once never changes; those that add to it wait for one another.
    /// </summary>
    private sealed class ReadTable
    {
        public const int Unknown = 0,
            Nowhere = 1;

        /// <summary>Past so many sets a new table is begun, with the next name: a few megabytes at the most.</summary>
        private const int MostStands = 4096;

        private readonly NameGrammar grammar;
        private readonly int classes;
        private readonly Dictionary<string, int> known = [];
        private readonly Lock adding = new();
        private int[] moves;
        private Step?[] steps;
        private int[] ends = new int[64];
        private readonly List<int[]> stands = [];
        private int count;

        public ReadTable(NameGrammar grammar)
        {
            this.grammar = grammar;
            ClassOf = grammar.classOf.Value;
            classes = ClassOf.Max() + 1;
            moves = new int[64 * classes];
            steps = new Step?[64 * classes];
            StandOf([0]);
        }

        public byte[] ClassOf { get; }

        /// <summary>By a set's number and a letter's class: twice the number of the next set, and one more where the step turns.</summary>
        public int[] Moves => Volatile.Read(ref moves);

        /// <summary>The steps of the moves that turn; a move that is seen has its step here.</summary>
        public Step?[] Steps => Volatile.Read(ref steps);

        /// <summary>One name more adds no more sets than it has letters.</summary>
        public bool IsFull => Volatile.Read(ref count) >= MostStands;

        /// <summary>Which place of a set ends a name; <see cref="None"/> where none does.</summary>
        public int EndOf(int stand) => Volatile.Read(ref ends)[stand / classes];

        /// <summary>The number of a set of places, counted in cells.</summary>
        public int StandOf(int[] places)
        {
            lock (adding)
            {
                var key = new string(System.Runtime.InteropServices.MemoryMarshal.Cast<int, char>(places));
                if (known.TryGetValue(key, out var number))
                    return number;
                number = stands.Count * classes;
                if (number + classes > moves.Length)
                {
                    var (moreMoves, moreSteps) = (new int[moves.Length * 2], new Step?[moves.Length * 2]);
                    moves.CopyTo(moreMoves, 0);
                    steps.CopyTo(moreSteps, 0);
                    Array.Resize(ref ends, ends.Length * 2);
                    Volatile.Write(ref steps, moreSteps);
                    Volatile.Write(ref moves, moreMoves);
                }
                ends[stands.Count] = Array.FindIndex(places, grammar.IsEnd);
                stands.Add(places);
                Volatile.Write(ref count, stands.Count);
                return known[key] = number;
            }
        }

        /// <summary>Works out where a letter leads.</summary>
        public void Follow(int cell, char letter)
        {
            lock (adding)
            {
                if (moves[cell] != Unknown)
                    return;
                List<int> places = [],
                    from = [],
                    enters = [],
                    behind = [],
                    after = [];
                var before = stands[cell / classes];
                for (var k = 0; k < before.Length; k++)
                {
                    grammar.After(before[k], letter, after);
                    foreach (var place in after)
                    {
                        if (places.Contains(place))
                            continue;
                        places.Add(place);
                        from.Add(k);
                        var node = grammar.nodeOf[place];
                        enters.Add(node == grammar.nodeOf[before[k]] ? None : node);
                        behind.Add(place == grammar.nodes[node].Offset ? 1 : 0);
                    }
                }
                if (places.Count == 0)
                {
                    moves[cell] = Nowhere;
                    return;
                }
                var step = new Step([.. from], [.. enters], [.. behind]);
                var to = StandOf([.. places]);
                steps[cell] = step;
                Volatile.Write(ref moves[cell], to << 1 | (step.IsStraight ? 0 : 1));
            }
        }
    }
}
