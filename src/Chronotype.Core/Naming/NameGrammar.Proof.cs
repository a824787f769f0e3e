namespace Chronotype.Core.Naming;

public sealed partial class NameGrammar
{
    /// <summary>
    /// Looks for a shortest name with two readings, by walking the automaton paired with itself: two walks over the same letters
    /// that part once and both end are two readings of one name. None found is a proof that there is none.
    /// (The product construction of Book, Even, Greibach and Ott, "Ambiguity in graphs and expressions", 1971.)
    /// </summary>
    public Ambiguity? FindAmbiguity()
    {
        var start = new Pair(0, 0, false);
        var cameFrom = new Dictionary<Pair, (Pair Before, char Letter)> { [start] = default };
        var queue = new Queue<Pair>([start]);
        List<int> first = [],
            second = [];
        var letters = Representatives();
        while (queue.TryDequeue(out var pair))
        {
            if (pair.Parted && IsEnd(pair.First) && IsEnd(pair.Second))
                return Show(pair, start, cameFrom);
            foreach (var letter in letters)
            {
                After(pair.First, letter, first);
                if (first.Count == 0)
                    continue;
                var others = pair.First == pair.Second ? first : second;
                if (others != first)
                    After(pair.Second, letter, second);
                foreach (var a in first)
                {
                    foreach (var b in others)
                    {
                        // In which order two walks are named does not matter.
                        var to = a <= b ? new Pair(a, b, pair.Parted || a != b) : new Pair(b, a, true);
                        if (cameFrom.TryAdd(to, (pair, letter)))
                            queue.Enqueue(to);
                    }
                }
            }
        }
        return null;
    }

    private readonly record struct Pair(int First, int Second, bool Parted)
    {
        public override int GetHashCode() => (First * 486187739 + Second) * 2 + (Parted ? 1 : 0);
    }

    // The letter is its number.
    private void After(int place, char letter, List<int> to)
    {
        to.Clear();
        var node = nodes[nodeOf[place]];
        var state = place - node.Offset;
        var within = node.Automaton.NextByNumber(state, letter);
        if (within != SlotAutomaton.None)
            to.Add(node.Offset + within);
        if (!node.Automaton.Accepts(state) && place != 0)
            return;
        foreach (var edge in node.Next)
        {
            var next = nodes[edge.Node];
            if (edge.Join == letter)
                to.Add(next.Offset);
            else if (
                edge.Join == '\0'
                && next.Automaton.NextByNumber(SlotAutomaton.Start, letter) is var into
                && into != SlotAutomaton.None
            )
                to.Add(next.Offset + into);
        }
    }

    // One letter of each class that a name may hold stands for all of them.
    private List<char> Representatives() =>
        [.. Enumerable.Range(' ', SlotAutomaton.Letters - ' ').Select(c => (char)c).DistinctBy(c => classOf.Value[c])];

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
        // A pair names its walks in no order, so each is traced by the step that leads to it.
        var (a, b) = (new int[walk.Count], new int[walk.Count]);
        (a[^1], b[^1]) = (end.First, end.Second);
        List<int> to = [];
        for (var i = walk.Count - 2; i >= 0; i--)
        {
            var pair = walk[i];
            After(pair.First, name[i], to);
            var straight = to.Contains(a[i + 1]);
            After(pair.Second, name[i], to);
            straight = straight && to.Contains(b[i + 1]);
            (a[i], b[i]) = straight ? (pair.First, pair.Second) : (pair.Second, pair.First);
        }
        name = string.Concat(name.Select(n => WordLetters.SampleOf(n)));
        return new Ambiguity(name, ReadingOf(name, a), ReadingOf(name, b));
    }
}
