using System.Runtime.InteropServices;

namespace Chronotype.Core.Naming;

/// <summary>
/// The texts that one slot may hold, as a minimal deterministic automaton over the letters of <see cref="WordLetters"/>. They are finitely many, so it has no
/// cycle; a slot never holds nothing, so the state before the first character does not accept.
/// </summary>
internal sealed class SlotAutomaton
{
    public const int Letters = WordLetters.Count;
    public const int Start = 0,
        None = -1;

    private readonly byte[] classOf;
    private readonly int[] next;
    private readonly bool[] accepting;
    private readonly int classes;

    private SlotAutomaton(byte[] classOf, int classes, int[] next, bool[] accepting)
    {
        (this.classOf, this.classes, this.next, this.accepting) = (classOf, classes, next, accepting);
        Moves = new (char, int)[accepting.Length][];
        for (var state = 0; state < accepting.Length; state++)
        {
            var moves = new List<(char, int)>();
            for (var c = '\0'; c < Letters; c++)
            {
                if (NextByNumber(state, c) is var to && to != None)
                    moves.Add((c, to));
            }
            Moves[state] = [.. moves];
        }
    }

    /// <summary>How many states there are.</summary>
    public int Count => accepting.Length;

    /// <summary>The letters that lead on from each state, by their numbers, and where to.</summary>
    public (char Letter, int To)[][] Moves { get; }

    /// <summary>How many letters the shortest text has.</summary>
    public int Shortest
    {
        get
        {
            var reached = new HashSet<int> { Start };
            for (var length = 0; ; length++)
            {
                if (reached.Count == 0 || reached.Any(Accepts))
                    return length;
                reached = [.. reached.SelectMany(s => Moves[s].Select(m => m.To))];
            }
        }
    }

    public bool Accepts(int state) => accepting[state];

    /// <returns>The state after <paramref name="letter"/>, or <see cref="None"/>.</returns>
    public int Next(int state, char letter) =>
        letter < 128 ? next[state * classes + classOf[letter]]
        : WordLetters.Of(letter) is var number and > 0 ? NextByNumber(state, number)
        : None;

    /// <summary>The same for a letter's number.</summary>
    public int NextByNumber(int state, int number) => next[state * classes + classOf[number]];

    /// <summary>Letters of one class lead to the same state from every state.</summary>
    /// <param name="number">A letter's number.</param>
    public byte ClassOf(int number) => classOf[number];

    /// <summary>Where a text leads from the start.</summary>
    public int After(ReadOnlySpan<char> text)
    {
        var state = Start;
        for (var i = 0; i < text.Length && state != None; i++)
            state = Next(state, text[i]);
        return state;
    }

    public bool Holds(ReadOnlySpan<char> text) => After(text) is var state && state != None && accepting[state];

    /// <summary>An automaton as it is being made: a tree or any graph without cycles.</summary>
    internal sealed class Draft
    {
        private readonly List<Dictionary<char, int>> moves = [];
        private readonly List<bool> accepts = [];

        public Draft() => Add();

        public int Add(bool accepting = false)
        {
            moves.Add([]);
            accepts.Add(accepting);
            return moves.Count - 1;
        }

        public void Link(int from, char letter, int to) => moves[from][letter] = to;

        /// <summary>Adds one text. States on its way are copied, so that no other text changes with it.</summary>
        public void AddText(string text)
        {
            var state = Start;
            foreach (var letter in text)
            {
                var copy = Add();
                if (moves[state].TryGetValue(letter, out var there))
                {
                    foreach (var move in moves[there])
                        moves[copy].Add(move.Key, move.Value);
                    accepts[copy] = accepts[there];
                }
                moves[state][letter] = copy;
                state = copy;
            }
            accepts[state] = true;
        }

        /// <summary>Adds texts that nothing else shares states with yet, as a tree.</summary>
        public void AddTree(IEnumerable<string> texts)
        {
            foreach (var text in texts)
            {
                var state = Start;
                foreach (var letter in text)
                {
                    ref var to = ref CollectionsMarshal.GetValueRefOrAddDefault(moves[state], letter, out var known);
                    if (!known)
                        to = moves.Count;
                    state = to;
                    if (!known)
                        Add();
                }
                accepts[state] = true;
            }
        }

        /// <summary>Makes every state that a step function leads to.</summary>
        public static Draft Explore<T>(T start, Func<T, char, T?> step, Func<T, bool> accepts, string letters)
            where T : struct
        {
            var draft = new Draft();
            var numbers = new Dictionary<T, int> { [start] = Start };
            var open = new Queue<T>([start]);
            while (open.TryDequeue(out var state))
            {
                foreach (var letter in letters)
                {
                    if (step(state, letter) is not { } to)
                        continue;
                    if (!numbers.TryGetValue(to, out var number))
                    {
                        numbers[to] = number = draft.Add(accepts(to));
                        open.Enqueue(to);
                    }
                    draft.Link(numbers[state], letter, number);
                }
            }
            return draft;
        }

        /// <summary>
        /// The smallest automaton for the same texts: from the ends backwards, states that accept alike and lead alike are one
        /// (Revuz, "Minimisation of acyclic deterministic automata in linear time", 1992). States that lead nowhere are left out.
        /// </summary>
        public SlotAutomaton Build()
        {
            var merged = new int[moves.Count];
            var kept = new List<int>();
            var known = new Dictionary<int, List<int>>();
            foreach (var state in FromTheEnds())
            {
                var dead = new List<char>();
                foreach (var (letter, to) in moves[state])
                {
                    if (merged[to] == None)
                        dead.Add(letter);
                }
                foreach (var letter in dead)
                    moves[state].Remove(letter);
                if (!accepts[state] && moves[state].Count == 0 && state != Start)
                {
                    merged[state] = None;
                    continue;
                }
                var hash = accepts[state] ? 1 : 0;
                // Moves come in any order, so they are added up.
                foreach (var (letter, to) in moves[state])
                    hash += HashCode.Combine(letter, merged[to]);
                ref var alike = ref CollectionsMarshal.GetValueRefOrAddDefault(known, hash, out _);
                alike ??= [];
                // Nothing leads back to the start, so it is never merged away.
                var same = state == Start ? None : alike.FindIndex(other => Same(state, kept[other], merged));
                if (same != None)
                {
                    merged[state] = alike[same];
                    continue;
                }
                merged[state] = kept.Count;
                alike.Add(kept.Count);
                kept.Add(state);
            }
            // The start comes last from the ends, and first in the automaton.
            var last = kept.Count - 1;
            int Number(int state) => merged[state] == last ? Start : merged[state] + 1;

            var columns = new Dictionary<string, byte>();
            var classOf = new byte[Letters];
            var tables = new List<int[]>();
            for (var c = '\0'; c < Letters; c++)
            {
                var letter = c;
                var column = new int[kept.Count];
                Array.Fill(column, None);
                for (var k = 0; k < kept.Count; k++)
                {
                    if (moves[kept[k]].TryGetValue(letter, out var to))
                        column[k == last ? Start : k + 1] = Number(to);
                }
                var key = new string(MemoryMarshal.Cast<int, char>(column));
                if (!columns.TryGetValue(key, out classOf[c]))
                {
                    columns[key] = classOf[c] = (byte)tables.Count;
                    tables.Add(column);
                }
            }
            var next = new int[kept.Count * tables.Count];
            for (var state = 0; state < kept.Count; state++)
            {
                for (var k = 0; k < tables.Count; k++)
                    next[state * tables.Count + k] = tables[k][state];
            }
            var accepting = new bool[kept.Count];
            for (var k = 0; k < kept.Count; k++)
                accepting[k == last ? Start : k + 1] = accepts[kept[k]];
            return new SlotAutomaton(classOf, tables.Count, next, accepting);
        }

        private bool Same(int a, int b, int[] merged)
        {
            if (accepts[a] != accepts[b] || moves[a].Count != moves[b].Count)
                return false;
            foreach (var (letter, to) in moves[a])
            {
                if (!moves[b].TryGetValue(letter, out var other) || merged[other] != merged[to])
                    return false;
            }
            return true;
        }

        // Every state after all that it leads to, and the start last.
        private List<int> FromTheEnds()
        {
            var order = new List<int>();
            var seen = new bool[moves.Count];
            var way = new Stack<(int State, bool Left)>([(Start, false)]);
            while (way.TryPop(out var step))
            {
                if (step.Left)
                {
                    order.Add(step.State);
                    continue;
                }
                if (seen[step.State])
                    continue;
                seen[step.State] = true;
                way.Push((step.State, true));
                foreach (var to in moves[step.State].Values)
                {
                    if (!seen[to])
                        way.Push((to, false));
                }
            }
            return order;
        }
    }
}
