namespace Chronotype.Core.Naming;

public sealed partial class NameGrammar
{
    // One per thread, so that reading takes no memory but its answer's.
    [ThreadStatic] private static ReadingRoom? room;

    /// <summary>
    /// Reads a name with its extension, in time linear in its length: every place that the letters so far may have led to is
    /// followed at once, and none twice.
    /// </summary>
    /// <returns>Null when it is no name of these forms.</returns>
    public NameReading? Read(string name)
    {
        var length = name.Length;
        if (length is 0 or > MaxLength) return null;
        var all = room ??= new ReadingRoom();
        all.Prepare(nodeOf.Length);
        all.Add(0, None);
        all.Starts[1] = 1;
        for (var i = 0; i < length; i++)
        {
            var letter = name[i];
            var (from, to) = (all.Starts[i], all.Starts[i + 1]);
            if (letter >= SlotAutomaton.Letters) return null;
            all.Next(to - from == 1);
            for (var k = from; k < to; k++)
            {
                var place = all.Places[k];
                var node = nodes[nodeOf[place]];
                var state = place - node.Offset;
                var within = node.Automaton.Next(state, letter);
                if (within != SlotAutomaton.None) all.Add(node.Offset + within, k);
                // The root is left before its first letter; any other slot only where it is complete.
                if (!node.Automaton.Accepts(state) && place != 0) continue;
                foreach (var edge in node.Next)
                {
                    if (edge.Join == letter) all.Add(nodes[edge.Node].Offset, k);
                    else if (edge.Join == '\0')
                    {
                        var next = nodes[edge.Node];
                        var into = next.Automaton.Next(SlotAutomaton.Start, letter);
                        if (into != SlotAutomaton.None) all.Add(next.Offset + into, k);
                    }
                }
            }
            if (all.Count == to) return null;
            all.Starts[i + 2] = all.Count;
        }
        for (var k = all.Starts[length]; k < all.Count; k++)
        {
            if (IsEnd(all.Places[k])) return Trace(name, all, k);
        }
        return null;
    }

    private const int None = -1;

    private bool IsEnd(int place)
    {
        var node = nodes[nodeOf[place]];
        return node.Ends != 0 && node.Automaton.Accepts(place - node.Offset);
    }

    private NameReading Trace(string name, ReadingRoom all, int end)
    {
        Span<int> places = stackalloc int[name.Length + 1];
        for (var (i, k) = (name.Length, end); i >= 0; i--)
        {
            places[i] = all.Places[k];
            k = all.Before[k];
        }
        return ReadingOf(name, places);
    }

    /// <param name="places">Where the walk stood before each letter, and after the last.</param>
    private NameReading ReadingOf(string name, ReadOnlySpan<int> places)
    {
        Span<int> marks = stackalloc int[2 * (name.Length + 1)];
        var count = 0;
        var before = 0;
        for (var i = 1; i <= name.Length; i++)
        {
            var node = nodeOf[places[i]];
            if (node == before) continue;
            // Over a mark the slot begins behind it; with no mark its first letter has been read already.
            marks[count++] = node;
            marks[count++] = places[i] == nodes[node].Offset ? i : i - 1;
            before = node;
        }
        return new NameReading(this, name, marks[..count].ToArray());
    }

    /// <summary>The places that the letters so far may have led to, letter after letter, each with the one before it.</summary>
    private sealed class ReadingRoom
    {
        public int[] Places = new int[1024], Before = new int[1024];
        public readonly int[] Starts = new int[MaxLength + 2];
        private int[] seenAt = [];
        private int stamp;
        private bool alone;

        public int Count { get; private set; }

        public void Prepare(int places)
        {
            if (seenAt.Length < places) seenAt = new int[places];
            Count = 0;
            Starts[0] = 0;
            Next(false);
        }

        /// <param name="fromOne">Whether the letter is read from one place only: its steps then all lead to different ones.</param>
        public void Next(bool fromOne)
        {
            alone = fromOne;
            if (!fromOne) stamp++;
        }

        public void Add(int place, int before)
        {
            if (!alone)
            {
                if (seenAt[place] == stamp) return;
                seenAt[place] = stamp;
            }
            if (Count == Places.Length)
            {
                Array.Resize(ref Places, Count * 2);
                Array.Resize(ref Before, Count * 2);
            }
            Places[Count] = place;
            Before[Count++] = before;
        }
    }
}
