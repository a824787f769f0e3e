using System.Diagnostics.CodeAnalysis;

namespace Chronotype.Core.Naming.Checking;

/// <summary>What a repair may do in each node of a grammar; made once and kept with it.</summary>
internal sealed class RepairSlots
{
    /// <summary>More than any repair costs.</summary>
    public const int Never = 1 << 20;

    private const int CodesNamed = 8;

    /// <param name="Node">The slot's place in the grammar.</param>
    /// <param name="FreeLetters">Whether letters may be put in and changed, since the list says which they can be.</param>
    /// <param name="Joiner">What stands between the words of the slot; <c>'\0'</c> for none.</param>
    /// <param name="MayStandOpen">Whether the filler may stand in it.</param>
    /// <param name="Holds">What the slot may hold, to end a sentence; of a long list, its first codes.</param>
    public sealed record Info(NameGrammar.Node Node, bool FreeLetters, char Joiner, bool MayStandOpen, string Holds)
    {
        public readonly bool IsRoot = Node.Slot is null && Node.Automaton.Count == 1;
        public readonly bool IsWords = Node.Slot?.Rule is WordsRule or LineRule;
        public readonly bool IsNumber = Node.Slot?.Rule is NumberRule;
        public readonly bool IsExtension = Node.Slot is null && Node.Automaton.Count > 1;

        /// <summary>Whether an extension may follow.</summary>
        public bool TakesExtension { get; init; }

        /// <summary>What the codes of a list look like.</summary>
        public required CodeShapes Codes { get; init; }

        /// <summary>The letters of the shortest text that the slot may hold.</summary>
        public readonly int Shortest = Node.Automaton.Shortest;

        /// <summary>The state of a slot that was filled as a whole.</summary>
        public readonly int Closed = Node.Automaton.Count;
    }

    public RepairSlots(NameGrammar grammar)
    {
        Grammar = grammar;
        Nodes = [.. grammar.Nodes.Select(n => Of(n, grammar))];
        HasDots =
            !Nodes.Any(n => n.IsExtension)
            || grammar.Nodes.Any(n =>
                n.Slot is { } slot
                && (
                    slot.Join == "."
                    || slot.Rule is WordsRule { Joiner: "." } or LineRule { Joiner: "." }
                    || slot.Rule is DateRule { Pattern: var pattern } && pattern.Contains('.')
                )
            );
        LetterCosts = new int[SlotAutomaton.Letters * Nodes.Length];
        for (var n = 0; n < Nodes.Length; n++)
            FillLetterCosts(n);
        Order = [.. FromTheEnds(grammar)];
        Parts = [.. grammar.Nodes.SelectMany(n => n.Next).Select(e => e.Join).Where(j => j != '\0').Distinct(), ' '];
        for (var n = 0; n < Nodes.Length; n++)
            AddMeanings(n);
        foreach (var letters in meanings.Keys)
            meaningLengths[letters[0] & 31] |= 1ul << (letters.Length & 63);
        LongestMeaning = meanings.Keys.Select(k => k.Length).DefaultIfEmpty(0).Max();
        EdgesFrom = new int[Nodes.Length + 1];
        for (var n = 0; n < Nodes.Length; n++)
            EdgesFrom[n + 1] = EdgesFrom[n] + grammar.Nodes[n].Next.Length;
        Edges = [.. grammar.Nodes.SelectMany(n => n.Next)];
        AreMarked = grammar.Nodes.Skip(1).SelectMany(n => n.Next).All(e => e.Join != '\0');
        EndsBare = [.. Nodes.Select(n => n.Node.Ends != 0)];
        EndsBeforeExtension = [.. Nodes.Select(n => n.TakesExtension)];
    }

    public NameGrammar Grammar { get; }
    public Info[] Nodes { get; }

    /// <summary>Whether a dot may stand in a name otherwise than before its extension, or names have none.</summary>
    public bool HasDots { get; }

    /// <summary>By ASCII letter and node, the least that reading the letter in the node's slot can cost.</summary>
    public int[] LetterCosts { get; }

    /// <summary>The nodes, each after all that it leads to.</summary>
    public int[] Order { get; }

    /// <summary>The characters at which a name falls into parts: the marks between slots, and the space.</summary>
    public char[] Parts { get; }

    public int LongestMeaning { get; }

    /// <summary>The codes that some letters run together mean, with the nodes that may hold them.</summary>
    public bool TryMeaning(ReadOnlySpan<char> letters, [NotNullWhen(true)] out List<(int Node, string Code)>? codes)
    {
        codes = null;
        // Most texts are told to mean nothing by their first letter and their length.
        return letters.Length > 0
            && (meaningLengths[letters[0] & 31] >> (letters.Length & 63) & 1) != 0
            && meanings.GetAlternateLookup<ReadOnlySpan<char>>().TryGetValue(letters, out codes);
    }

    /// <summary>The steps to the next slots, those of a node from its entry of <see cref="EdgesFrom"/> to the next one's.</summary>
    public NameGrammar.Edge[] Edges { get; }

    public int[] EdgesFrom { get; }

    /// <summary>Whether every slot is joined to the one before by a mark.</summary>
    public bool AreMarked { get; }

    /// <summary>By node, whether a name may end there, without an extension or before one.</summary>
    public bool[] EndsBare { get; }

    public bool[] EndsBeforeExtension { get; }

    private readonly Dictionary<string, List<(int Node, string Code)>> meanings = [];
    private readonly ulong[] meaningLengths = new ulong[32];

    private static Info Of(NameGrammar.Node node, NameGrammar grammar)
    {
        var list = node.Slot is { } slot ? NameGrammar.ListOf(slot.Rule, grammar.Lists) : null;
        var free = list is not null || node.Slot?.Rule is SizeRule or StateRule;
        var joiner = node.Slot?.Rule switch
        {
            WordsRule words => words.Joiner,
            LineRule line => line.Joiner,
            _ => "",
        };
        return new Info(
            node,
            free,
            joiner.Length > 0 ? joiner[0] : '\0',
            node.Slot is { Rule.MayBeAbsent: false },
            HoldsOf(node.Slot, list)
        )
        {
            Codes = new CodeShapes(list?.Codes.Select(c => c.Code) ?? [], node.Slot?.Rule is HandRule && list is null),
            TakesExtension = node.Next.Any(e => grammar.Nodes[e.Node] is { Slot: null }),
        };
    }

    private static string HoldsOf(Slot? slot, CodeList? list)
    {
        if (slot is null)
            return "1 to 16 letters and digits";
        if (list is null)
            return slot.Rule.Holds;
        var codes = string.Join(", ", list.Codes.Take(CodesNamed).Select(c => c.Code));
        return list.Codes.Count > CodesNamed ? $"{codes} or {list.Codes.Count - CodesNamed:N0} more" : codes;
    }

    private void FillLetterCosts(int node)
    {
        var info = Nodes[node];
        var letters = info.Node.Automaton.Moves.SelectMany(m => m.Select(x => x.Letter)).ToHashSet();
        for (var c = '\0'; c < SlotAutomaton.Letters; c++)
        {
            LetterCosts[c * Nodes.Length + node] =
                info.IsRoot ? Never
                : letters.Contains(c) ? 0
                : letters.Contains(c < 128 ? OtherCase(c) : (char)WordLetters.InOtherCase(c)) ? RepairCosts.Case
                : info.Joiner != '\0' && c < 128 && NameMarks.IsSeparator(c) ? RepairCosts.OtherMark
                : info.FreeLetters ? RepairCosts.Letter
                : Never;
        }
    }

    public static char OtherCase(char c) => WordLetters.Lower(c) is var lower && lower != c ? lower : WordLetters.Upper(c);

    private void AddMeanings(int node)
    {
        if (Nodes[node].Node.Slot is not { } slot || NameGrammar.ListOf(slot.Rule, Grammar.Lists) is not { } list)
            return;
        foreach (var (code, meaning) in list.Codes)
        {
            var letters = string.Concat(Words.Split(meaning));
            if (letters.Length == 0)
                continue;
            if (!meanings.TryGetValue(letters, out var codes))
                meanings[letters] = codes = [];
            codes.Add((node, code));
        }
    }

    private static List<int> FromTheEnds(NameGrammar grammar)
    {
        var order = new List<int>();
        var seen = new bool[grammar.Nodes.Count];
        void Visit(int node)
        {
            if (seen[node])
                return;
            seen[node] = true;
            foreach (var edge in grammar.Nodes[node].Next)
                Visit(edge.Node);
            order.Add(node);
        }
        Visit(0);
        return order;
    }
}

/// <summary>What the codes of a list look like, to tell quickly whether a text may be one of them with a slip.</summary>
internal sealed class CodeShapes
{
    private readonly uint firsts,
        lasts;
    private readonly int shortest,
        longest;

    /// <param name="codes">None where any code will do.</param>
    /// <param name="areInitials">Whether they are two to four capitals.</param>
    public CodeShapes(IEnumerable<string> codes, bool areInitials)
    {
        (shortest, longest) = areInitials ? (2, 4) : (int.MaxValue, 0);
        (firsts, lasts) = areInitials ? (~0u, ~0u) : (0, 0);
        foreach (var code in codes)
        {
            (shortest, longest) = (Math.Min(shortest, code.Length), Math.Max(longest, code.Length));
            (firsts, lasts) = (firsts | Bit(code[0]), lasts | Bit(code[^1]));
        }
    }

    /// <summary>Whether its length and its first or last letter are those of a code; a slip of one letter leaves one of them.</summary>
    public bool IsNear(ReadOnlySpan<char> text) =>
        text.Length >= shortest - 1 && text.Length <= longest + 1 && ((Bit(text[0]) & firsts) | (Bit(text[^1]) & lasts)) != 0;

    // Letters are told apart whatever their case, digits from letters, and no more.
    private static uint Bit(char c) =>
        char.IsAsciiLetter(c) ? 1u << ((c | 32) - 'a')
        : char.IsAsciiDigit(c) ? 1u << 26
        : 1u << 27;
}
