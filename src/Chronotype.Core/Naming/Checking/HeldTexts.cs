using System.Runtime.InteropServices;

namespace Chronotype.Core.Naming.Checking;

/// <summary>
/// Which slots of a grammar hold a text, in its own case or another, for all of them in one walk over its letters. What the slots'
/// automata may stand at together is numbered as texts lead there (Rabin and Scott, 1959). Not for two threads at once.
/// </summary>
internal sealed class HeldTexts
{
    public const byte NotHeld = 0,
        AsItIs = 1,
        InLower = 2,
        InUpper = 3;

    /// <summary>Before a text's first letter; <see cref="Nowhere"/> is where no slot holds what begins so.</summary>
    public const int Start = 0,
        Nowhere = -1;

    private const int Unknown = -2;

    // Past so many a new table is begun, with the next name: some megabytes at the most.
    private const int MostStands = 4096;

    private readonly SlotAutomaton[] automata;
    private readonly int[] automatonOf;
    private readonly bool[] isStrict;
    private readonly Dictionary<string, int> known = [];
    private readonly List<int[]> stands = [];
    private byte[][] held = new byte[64][];
    private readonly List<bool> atHome = [];
    private int[] moves = [];

    public HeldTexts(RepairSlots slots)
    {
        automata = [.. slots.Nodes.Where(n => n.Node.Slot is not null).Select(n => n.Node.Automaton).Distinct()];
        automatonOf = [.. slots.Nodes.Select(n => n.Node.Slot is null ? -1 : Array.IndexOf(automata, n.Node.Automaton))];
        isStrict =
        [
            .. automata.Select(a =>
                slots.Nodes.Any(n =>
                    n.Node.Automaton == a && n.Node.Slot is { Rule: not (WordsRule or LineRule or NumberRule { Lead: "" }) }
                )
            ),
        ];
        Begin();
    }

    /// <summary>Makes room; what was told of stands before no longer holds.</summary>
    public void Begin()
    {
        if (stands.Count is > 0 and < MostStands)
            return;
        known.Clear();
        stands.Clear();
        atHome.Clear();
        moves = new int[64 * SlotAutomaton.Letters];
        Array.Fill(moves, Unknown);
        StandOf(new int[3 * automata.Length]);
    }

    public int Next(int stand, char c)
    {
        var letter = WordLetters.Of(c);
        // No slot holds the character of number nought.
        var next = moves[stand * SlotAutomaton.Letters + letter];
        return next != Unknown ? next : Follow(stand, c, letter);
    }

    /// <summary>The stand that a text leads to.</summary>
    public int After(ReadOnlySpan<char> text)
    {
        var stand = Start;
        for (var i = 0; i < text.Length && stand != Nowhere; i++)
            stand = Next(stand, text[i]);
        return stand;
    }

    /// <summary>How a node's slot holds what led to a stand.</summary>
    public byte How(int stand, int node) => stand == Nowhere || automatonOf[node] < 0 ? NotHeld : held[stand][automatonOf[node]];

    /// <summary>Whether what led to a stand is at home in a slot that holds few texts: not in words, nor as a bare number.</summary>
    public bool IsAtHome(int stand) => stand != Nowhere && atHome[stand];

    private int Follow(int stand, char c, int letter)
    {
        var from = stands[stand];
        var to = new int[from.Length];
        var (lower, upper) = (WordLetters.Lower(c), WordLetters.Upper(c));
        var isAlive = false;
        for (var a = 0; a < automata.Length; a++)
        {
            to[3 * a] = Step(a, from[3 * a], c);
            to[3 * a + 1] = Step(a, from[3 * a + 1], lower);
            to[3 * a + 2] = Step(a, from[3 * a + 2], upper);
            isAlive |= Math.Max(to[3 * a], Math.Max(to[3 * a + 1], to[3 * a + 2])) != SlotAutomaton.None;
        }
        return moves[stand * SlotAutomaton.Letters + letter] = isAlive ? StandOf(to) : Nowhere;
    }

    private int Step(int automaton, int state, char c) => state == SlotAutomaton.None ? state : automata[automaton].Next(state, c);

    private int StandOf(int[] states)
    {
        var key = new string(MemoryMarshal.Cast<int, char>(states));
        if (known.TryGetValue(key, out var number))
            return number;
        number = known[key] = stands.Count;
        stands.Add(states);
        if (number == held.Length)
            Array.Resize(ref held, 2 * number);
        held[number] = [.. Enumerable.Range(0, automata.Length).Select(a => HowOf(a, states))];
        atHome.Add(Enumerable.Range(0, automata.Length).Any(a => isStrict[a] && held[number][a] == AsItIs));
        if (stands.Count * SlotAutomaton.Letters > moves.Length)
        {
            var length = moves.Length;
            Array.Resize(ref moves, 2 * length);
            Array.Fill(moves, Unknown, length, length);
        }
        return number;
    }

    private byte HowOf(int a, int[] states)
    {
        bool Accepts(int state) => state != SlotAutomaton.None && automata[a].Accepts(state);
        return Accepts(states[3 * a]) ? AsItIs
            : Accepts(states[3 * a + 1]) ? InLower
            : Accepts(states[3 * a + 2]) ? InUpper
            : NotHeld;
    }
}
