namespace Chronotype.Core.Naming;

/// <summary>
/// The names of one or several forms as one automaton. Its nodes are slots in the order that names have them, each with the
/// automaton of what it may hold; one way through the nodes is one choice of slots, whichever forms it belongs to, so that two
/// readings of a name are two ways that spell the same letters.
/// </summary>
public sealed partial class NameGrammar
{
    /// <summary>The most characters that file systems take in a name; a longer one is refused without being read.</summary>
    public const int MaxLength = 255;

    internal const string ExtensionLabel = "extension";

    /// <summary>A step to the next slot, over its mark or straight into it.</summary>
    /// <param name="Node">The slot that it leads to.</param>
    /// <param name="Join">The mark, or <c>'\0'</c> for none.</param>
    internal readonly record struct Edge(int Node, char Join);

    /// <param name="Slot">Null for the root, which holds nothing, and for the extension.</param>
    /// <param name="Automaton">What the slot may hold.</param>
    /// <param name="Offset">Added to a state of the slot's automaton, it is a place in the whole.</param>
    /// <param name="Next">Where a name may go on.</param>
    /// <param name="Ends">The forms whose names may end here, as bits.</param>
    internal sealed record Node(Slot? Slot, SlotAutomaton Automaton, int Offset, Edge[] Next, uint Ends)
    {
        public string Label => Slot?.Label ?? ExtensionLabel;
    }

    private static readonly SlotAutomaton Nothing = new SlotAutomaton.Draft().Build();

    private readonly List<Node> nodes = [];
    private readonly List<NameForm> forms = [];
    private readonly Dictionary<string, SlotAutomaton> automata = [];
    private readonly Dictionary<(string Label, uint Forms), int> numbers = [];
    private readonly int[] nodeOf;

    /// <param name="forms">The slots of each form, in order, at least one; the same slot in two forms is the same object or equal.</param>
    /// <param name="lists">The codes of each list; a slot whose list is not there takes any code.</param>
    /// <param name="filler">What stands in a slot whose value is not known yet; empty for none.</param>
    public NameGrammar(
        IReadOnlyList<(NameForm Form, IReadOnlyList<Slot> Slots)> forms,
        IReadOnlyDictionary<string, CodeList> lists,
        string filler = ""
    )
    {
        if (forms.Count == 0 || forms.Any(f => f.Slots.Count == 0))
            throw new ArgumentException("A form has at least one slot.", nameof(forms));
        Filler = filler;
        foreach (var (form, slots) in forms)
        {
            this.forms.Add(form);
            foreach (var slot in slots)
            {
                if (!automata.ContainsKey(slot.Label))
                    automata[slot.Label] = SlotLanguages.Of(slot.Rule, ListOf(slot.Rule, lists), filler);
            }
        }
        Lists = lists;
        classOf = new(FindClasses);
        var size = 0;
        Add(null, uint.MaxValue >> (32 - forms.Count), forms, ref size);
        nodeOf = new int[size];
        for (var n = 0; n < nodes.Count; n++)
            Array.Fill(nodeOf, n, nodes[n].Offset, nodes[n].Automaton.Count);
    }

    internal string Filler { get; }

    internal IReadOnlyDictionary<string, CodeList> Lists { get; }

    internal IReadOnlyList<Node> Nodes => nodes;

    internal int NodeOf(int place) => nodeOf[place];

    /// <summary>The forms of a set of bits, in the order they were given.</summary>
    internal IReadOnlyList<NameForm> FormsOf(uint bits) => [.. forms.Where((_, i) => (bits >> i & 1) == 1)];

    internal static CodeList? ListOf(SlotRule rule, IReadOnlyDictionary<string, CodeList> lists) =>
        rule switch
        {
            CodeRule code => lists.GetValueOrDefault(code.List),
            HandRule => lists.GetValueOrDefault(Convention.HandList),
            _ => null,
        };

    // A node is a slot and the forms that are still possible when it is reached.
    private int Add(Slot? slot, uint alive, IReadOnlyList<(NameForm Form, IReadOnlyList<Slot> Slots)> all, ref int size)
    {
        var key = (slot?.Label ?? "", alive);
        if (numbers.TryGetValue(key, out var known))
            return known;
        var number = numbers[key] = nodes.Count;
        var automaton = slot is null ? Nothing : automata[slot.Label];
        nodes.Add(new Node(slot, automaton, size, [], 0));
        size += automaton.Count;

        var (ends, withExtension) = (0u, 0u);
        var next = new List<(Slot Slot, uint Forms)>();
        for (var f = 0; f < all.Count; f++)
        {
            if ((alive >> f & 1) == 0)
                continue;
            var slots = all[f].Slots;
            var from = slot is null ? 0 : IndexOf(slots, slot.Label) + 1;
            var i = from;
            for (; i < slots.Count; i++)
            {
                var at = next.FindIndex(n => n.Slot.Label == slots[i].Label);
                if (at < 0)
                    next.Add((slots[i], 1u << f));
                else
                    next[at] = (next[at].Slot, next[at].Forms | 1u << f);
                if (!slots[i].MayBeAbsent)
                    break;
            }
            if (i < slots.Count || slot is null)
                continue;
            ends |= 1u << f;
            if (all[f].Form != NameForm.Folder)
                withExtension |= 1u << f;
        }
        var edges = new List<Edge>();
        foreach (var (to, alsoAlive) in next)
            edges.Add(new Edge(Add(to, alsoAlive, all, ref size), slot is null || to.Join.Length == 0 ? '\0' : to.Join[0]));
        if (withExtension != 0)
            edges.Add(new Edge(AddExtension(withExtension, ref size), '.'));
        nodes[number] = nodes[number] with { Next = [.. edges], Ends = ends };
        return number;
    }

    private int AddExtension(uint ends, ref int size)
    {
        var key = ("." + ExtensionLabel, ends);
        if (numbers.TryGetValue(key, out var known))
            return known;
        nodes.Add(new Node(null, SlotLanguages.Extension, size, [], ends));
        size += SlotLanguages.Extension.Count;
        return numbers[key] = nodes.Count - 1;
    }

    private static int IndexOf(IReadOnlyList<Slot> slots, string label)
    {
        for (var i = 0; i < slots.Count; i++)
        {
            if (slots[i].Label == label)
                return i;
        }
        throw new InvalidOperationException($"The form has no slot {label}.");
    }
}
