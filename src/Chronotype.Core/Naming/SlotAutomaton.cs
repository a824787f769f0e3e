namespace Chronotype.Core.Naming;

/// <summary>
/// The texts that one slot may hold, as a deterministic automaton over ASCII. A slot never holds nothing, so the state
/// before the first character is not accepting.
/// </summary>
internal sealed class SlotAutomaton
{
    public const int Letters = 128;
    public const int Start = 0, None = -1;

    private readonly List<int[]> next = [];
    private readonly List<bool> accepting = [];

    private SlotAutomaton() => Add(false);

    public int Count => next.Count;

    public bool Accepts(int state) => accepting[state];

    /// <returns>The state after <paramref name="letter"/>, or <see cref="None"/>.</returns>
    public int Next(int state, char letter) => letter < Letters ? next[state][letter] : None;

    /// <param name="codes">The codes of a list; null where the studio does not say, which stands for any code.</param>
    public static SlotAutomaton Of(SlotRule rule, Func<string, IReadOnlyCollection<string>?> codes) => rule switch
    {
        CodeRule code => codes(code.List) is { } list ? Codes(list) : Repeat(char.IsAsciiLetterOrDigit, 1, CodeRule.MaxLength),
        WordsRule words => Words(words),
        VersionRule version => Digits(version.Lead, version.Width),
        MilestoneRule milestone => Digits(milestone.Lead, milestone.Width),
        HandRule => Repeat(char.IsAsciiLetterUpper, 2, 4),
        _ => throw new NotSupportedException($"No automaton is known for {rule.GetType().Name}."),
    };

    private static SlotAutomaton Codes(IReadOnlyCollection<string> codes)
    {
        var trie = new SlotAutomaton();
        foreach (var code in codes)
        {
            var state = Start;
            foreach (var letter in code)
            {
                var to = trie.Next(state, letter);
                state = to != None ? to : trie.next[state][letter] = trie.Add(false);
            }
            trie.accepting[state] = true;
        }
        return trie;
    }

    private static SlotAutomaton Repeat(Func<char, bool> letter, int least, int most)
    {
        var chain = new SlotAutomaton();
        for (var length = 1; length <= most; length++) chain.Link(length - 1, letter, chain.Add(length >= least));
        return chain;
    }

    // One state for each length that ends in a letter, and one that ends in the joiner, which needs room for a letter more.
    private static SlotAutomaton Words(WordsRule rule)
    {
        static bool Letter(char c) => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c);
        var words = new SlotAutomaton();
        var last = Start;
        var joined = None;
        for (var length = 1; length <= rule.MaxLength; length++)
        {
            var letter = words.Add(true);
            words.Link(last, Letter, letter);
            if (joined != None) words.Link(joined, Letter, letter);
            joined = None;
            if (last != Start && length < rule.MaxLength)
            {
                joined = words.Add(false);
                words.next[last][rule.Joiner] = joined;
            }
            last = letter;
        }
        return words;
    }

    // A number has its width, with zeros before it, or it has grown past it, and then begins with no zero.
    private static SlotAutomaton Digits(string lead, int width)
    {
        var digits = new SlotAutomaton();
        var state = Start;
        foreach (var letter in lead) state = digits.next[state][letter] = digits.Add(false);
        var padded = digits.Add(width == 1);
        digits.next[state]['0'] = padded;
        var free = digits.Add(width == 1);
        digits.Link(state, c => c is >= '1' and <= '9', free);
        for (var length = 2; length <= width; length++)
        {
            var (morePadded, moreFree) = (digits.Add(length == width), digits.Add(length == width));
            digits.Link(padded, char.IsAsciiDigit, morePadded);
            digits.Link(free, char.IsAsciiDigit, moreFree);
            (padded, free) = (morePadded, moreFree);
        }
        digits.Link(free, char.IsAsciiDigit, digits.accepting[free] ? digits.Grown(free) : free);
        return digits;
    }

    private int Grown(int free)
    {
        var grown = Add(true);
        Link(grown, char.IsAsciiDigit, grown);
        return grown;
    }

    private void Link(int from, Func<char, bool> letter, int to)
    {
        for (var c = '\0'; c < Letters; c++)
        {
            if (letter(c)) next[from][c] = to;
        }
    }

    private int Add(bool accepts)
    {
        var row = new int[Letters];
        Array.Fill(row, None);
        next.Add(row);
        accepting.Add(accepts);
        return next.Count - 1;
    }
}
