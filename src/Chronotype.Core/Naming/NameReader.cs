namespace Chronotype.Core.Naming;

/// <summary>What a name says: the text of each slot, in order.</summary>
public sealed record NameReading(IReadOnlyList<NameSegment> Segments)
{
    /// <summary>The text of a slot; null where the form has no such slot.</summary>
    public string? this[string label] => Segments.FirstOrDefault(s => s.Label == label)?.Text;

    public override string ToString() => string.Join(", ", Segments.Select(s => $"{s.Label} “{s.Text}”"));
}

/// <summary>A name that one form reads in two ways: why a convention is refused.</summary>
public sealed record Ambiguity(string Name, NameReading First, NameReading Second);

/// <summary>
/// Reads the names of one form, and decides whether any name has two readings. The form is an automaton: the slots'
/// automata in a row, which is deterministic within a slot, so that a path through it is a reading.
/// </summary>
public sealed class NameReader
{
    /// <summary>No file system takes a longer name; beyond it a name is refused without being read.</summary>
    public const int MaxLength = 255;

    private readonly IReadOnlyList<Slot> slots;
    private readonly SlotAutomaton[] automata;
    private readonly int[] offsets;

    /// <param name="slots">A form's slots, in order; at least one. A join mark is one ASCII character or none.</param>
    /// <param name="codes">The codes of a list by its name; null where any code will do.</param>
    public NameReader(IReadOnlyList<Slot> slots, Func<string, IReadOnlyCollection<string>?> codes)
    {
        if (slots.Count == 0) throw new ArgumentException("A form has at least one slot.", nameof(slots));
        this.slots = slots;
        automata = [.. slots.Select(s => SlotAutomaton.Of(s.Rule, codes))];
        offsets = new int[slots.Count + 1];
        for (var i = 0; i < slots.Count; i++) offsets[i + 1] = offsets[i] + automata[i].Count;
    }

    /// <summary>Reads a name without its extension, in time linear in its length.</summary>
    /// <returns>Null when the name is not of this form.</returns>
    public NameReading? Read(string name)
    {
        if (name.Length is 0 or > MaxLength) return null;
        // Every place in the automaton that the first letters lead to, each with the step that led there.
        var steps = new List<Step>[name.Length + 1];
        steps[0] = [new Step(Place(0, SlotAutomaton.Start), None)];
        var seen = new HashSet<int>();
        for (var i = 0; i < name.Length; i++)
        {
            seen.Clear();
            var after = new List<Step>();
            for (var k = 0; k < steps[i].Count; k++)
            {
                foreach (var place in After(steps[i][k].Place, name[i]))
                {
                    if (seen.Add(place)) after.Add(new Step(place, k));
                }
            }
            if (after.Count == 0) return null;
            steps[i + 1] = after;
        }
        var end = steps[^1].FindIndex(s => IsEnd(s.Place));
        return end < 0 ? null : Trace(name, steps, end);
    }

    /// <summary>
    /// Looks for a shortest name with two readings, by walking the automaton in pairs: two walks over the same letters that
    /// part once and both end are two readings of one name. None found is a proof that there is none.
    /// </summary>
    public Ambiguity? FindAmbiguity()
    {
        var start = new Pair(Place(0, SlotAutomaton.Start), Place(0, SlotAutomaton.Start), false);
        var cameFrom = new Dictionary<Pair, (Pair Before, char Letter)> { [start] = default };
        var queue = new Queue<Pair>([start]);
        var letters = Alphabet();
        while (queue.TryDequeue(out var pair))
        {
            if (pair.Parted && IsEnd(pair.First) && IsEnd(pair.Second)) return Show(pair, start, cameFrom);
            foreach (var letter in letters)
            {
                foreach (var first in After(pair.First, letter))
                {
                    foreach (var second in After(pair.Second, letter))
                    {
                        // Before they part the two walks are one; in which order they part does not matter.
                        if (!pair.Parted && first > second) continue;
                        var to = new Pair(first, second, pair.Parted || first != second);
                        if (cameFrom.TryAdd(to, (pair, letter))) queue.Enqueue(to);
                    }
                }
            }
        }
        return null;
    }

    private const int None = -1;

    private readonly record struct Step(int Place, int Before);

    private readonly record struct Pair(int First, int Second, bool Parted);

    private int Place(int slot, int state) => offsets[slot] + state;

    private int SlotOf(int place)
    {
        var at = Array.BinarySearch(offsets, place);
        return at >= 0 ? at : ~at - 1;
    }

    private bool IsEnd(int place)
    {
        var slot = SlotOf(place);
        return slot == slots.Count - 1 && automata[slot].Accepts(place - offsets[slot]);
    }

    // Within the slot; and where the slot may end, over the join mark, or straight into the next slot where there is none.
    private IEnumerable<int> After(int place, char letter)
    {
        var slot = SlotOf(place);
        var state = place - offsets[slot];
        var within = automata[slot].Next(state, letter);
        if (within != SlotAutomaton.None) yield return Place(slot, within);
        if (slot + 1 == slots.Count || !automata[slot].Accepts(state)) yield break;
        var join = slots[slot + 1].Join;
        if (join.Length == 0)
        {
            var into = automata[slot + 1].Next(SlotAutomaton.Start, letter);
            if (into != SlotAutomaton.None) yield return Place(slot + 1, into);
        }
        else if (join[0] == letter) yield return Place(slot + 1, SlotAutomaton.Start);
    }

    // Letters that every slot and every mark treat alike are one letter to the proof.
    private List<char> Alphabet()
    {
        var classes = new Dictionary<string, char>();
        for (var c = ' '; c < SlotAutomaton.Letters; c++)
        {
            var letter = c;
            var column = string.Join(',', automata.SelectMany(a => Enumerable.Range(0, a.Count).Select(s => a.Next(s, letter)))
                .Concat(slots.Select(s => s.Join.Length > 0 && s.Join[0] == letter ? 1 : 0)));
            classes.TryAdd(column, letter);
        }
        return [.. classes.Values];
    }

    private NameReading Trace(string name, List<Step>[] steps, int end)
    {
        var places = new int[name.Length + 1];
        for (var (i, k) = (name.Length, end); i >= 0; i--)
        {
            places[i] = steps[i][k].Place;
            k = steps[i][k].Before;
        }
        return ReadingOf(name, places);
    }

    /// <param name="places">Where the walk stood before each letter, and after the last.</param>
    private NameReading ReadingOf(string name, int[] places)
    {
        var segments = new List<NameSegment>();
        var from = 0;
        for (var i = 1; i <= name.Length; i++)
        {
            var (slot, before) = (SlotOf(places[i]), SlotOf(places[i - 1]));
            if (slot == before) continue;
            segments.Add(Segment(before, name[from..(i - 1)]));
            from = slots[slot].Join.Length == 0 ? i - 1 : i;
        }
        segments.Add(Segment(slots.Count - 1, name[from..]));
        return new NameReading(segments);
    }

    private NameSegment Segment(int slot, string text) => new(slots[slot].Label, text, slot == 0 ? "" : slots[slot].Join);

    private Ambiguity Show(Pair end, Pair start, Dictionary<Pair, (Pair Before, char Letter)> cameFrom)
    {
        var letters = new List<char>();
        var walk = new List<Pair> { end };
        while (walk[^1] != start)
        {
            var (before, letter) = cameFrom[walk[^1]];
            letters.Add(letter);
            walk.Add(before);
        }
        letters.Reverse();
        walk.Reverse();
        var name = string.Concat(letters);
        return new Ambiguity(name, ReadingOf(name, [.. walk.Select(p => p.First)]), ReadingOf(name, [.. walk.Select(p => p.Second)]));
    }
}
