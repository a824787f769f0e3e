namespace Chronotype.Core.Naming.Checking;

/// <summary>
/// Finds the faults of a name by laying its words, as its marks cut them, along the slots of the form at the least cost (an alignment
/// after Needleman and Wunsch, 1970): a slot holds words or does not, lacks them, or stands where another should. Letters are looked at
/// only where a slot does not hold what stands there. Much quicker than the search for the cheapest repair, and it tells the faults that
/// a person sees; where several tellings lie near each other, the repair's may be another. Not for two threads at once.
/// </summary>
internal sealed partial class PartAlignment(RepairSlots slots, HeldTexts texts)
{
    private const int MostWords = 40,
        LongestSpan = 10,
        LongestMeaning = 3,
        Far = 1 << 20;

    private enum Step : byte
    {
        Take,
        TakeInCase,
        Misfit,
        Missing,
        Extra,
        Mark,
        Extension,
    }

    /// <param name="At">In UTF-16 units; <paramref name="End"/> is behind the last.</param>
    /// <param name="End">Behind the last UTF-16 unit.</param>
    /// <param name="Mark">The copy mark or date that begins here; null where none does.</param>
    /// <param name="MarkEnd">The number of the word behind it.</param>
    private readonly record struct Word(int At, int End, NameMark? Mark = null, int MarkEnd = 0);

    /// <summary>A step of the way: from one word to another, into a node.</summary>
    private readonly record struct Told(Step Step, int From, int To, int Node, char Join);

    private readonly Word[] words = new Word[MostWords + 1];
    private readonly int[] stands = new int[MostWords * LongestSpan];
    private readonly List<(int Node, string Code)>?[] meanings = new List<(int Node, string Code)>?[MostWords * LongestMeaning];
    private readonly List<Told> way = [];
    private readonly List<NameFault> faults = [];
    private int[] costs = [],
        before = [];
    private Told[] steps = [];
    private string name = "";
    private int count,
        most;

    /// <returns>Null where a name cannot be laid along the slots: some follow each other without a mark, or it has too many words.</returns>
    public IReadOnlyList<NameFault>? Faults(string text)
    {
        if (!slots.AreMarked)
            return null;
        texts.Begin();
        var extension = RepairProblem.ExtensionOf(slots, text);
        name = text[..^extension.Length];
        if (!Cut())
            return null;
        var ends = extension.Length > 0 ? slots.EndsBeforeExtension : slots.EndsBare;
        // Most names are near to a legal one, and what costs more need not be looked at.
        foreach (var enough in (ReadOnlySpan<int>)[12, 36, Far - 1])
        {
            most = enough;
            if (Lay(ends, extension.Length == 0))
                return Tell();
        }
        return null;
    }

    private bool Cut()
    {
        count = 0;
        var mayBeMarked = false;
        for (var i = 0; i < name.Length; )
        {
            if (NameMarks.IsSeparator(name[i]))
            {
                i++;
                continue;
            }
            if (count == MostWords)
                return false;
            var at = i++;
            while (i < name.Length && !NameMarks.IsSeparator(name[i]) && name[i] is not ('(' or '['))
                i++;
            words[count++] = new(at, i);
            mayBeMarked |= name[at] is '(' or '[' || IsCopyWord(name.AsSpan(at..i));
        }
        for (var first = 0; first < count; first++)
        {
            var stand = HeldTexts.Start;
            var at = words[first].At;
            for (var span = 0; span < LongestSpan; span++)
            {
                if (first + span == count)
                    stand = HeldTexts.Nowhere;
                for (; stand != HeldTexts.Nowhere && at < words[first + span].End; at++)
                    stand = texts.Next(stand, name[at]);
                stands[first * LongestSpan + span] = stand;
            }
            mayBeMarked |= IsDigits(Text(first), 4, 8) && !texts.IsAtHome(stands[first * LongestSpan]);
        }
        if (mayBeMarked)
            FindMarks();
        FindMeanings();
        return true;
    }

    private static bool IsCopyWord(ReadOnlySpan<char> word) => NameMarks.IsCopyWord(word.TrimEnd("0123456789"));

    private void FindMarks()
    {
        foreach (var mark in NameMarks.Find(name))
        {
            if (mark.Kind == NameMarkKind.NumberWord)
                continue;
            var first = 0;
            while (first < count && words[first].At < mark.TextAt)
                first++;
            var last = first;
            while (last < count && words[last].End <= mark.TextEnd)
                last++;
            if (last > words[first].MarkEnd && last > first && words[first].At == mark.TextAt)
                words[first] = words[first] with { Mark = mark, MarkEnd = last };
        }
    }

    private bool Lay(bool[] ends, bool mayReadExtension)
    {
        var nodes = slots.Nodes.Length;
        var cells = (count + 1) * nodes;
        if (costs.Length < cells)
            (costs, before, steps) = (new int[cells], new int[cells], new Told[cells]);
        Array.Fill(costs, Far, 0, cells);
        costs[0] = 0;
        for (var word = 0; word <= count; word++)
        {
            for (var o = slots.Order.Length - 1; o >= 0; o--)
            {
                var node = slots.Order[o];
                if (costs[word * nodes + node] < Far)
                    Expand(word, node, mayReadExtension);
            }
        }
        var best = -1;
        for (var n = 0; n < nodes; n++)
        {
            if (ends[n] && costs[count * nodes + n] < Far && (best < 0 || costs[count * nodes + n] < costs[count * nodes + best]))
                best = n;
        }
        way.Clear();
        if (best < 0)
            return false;
        for (var cell = count * nodes + best; cell != 0; cell = before[cell])
            way.Add(steps[cell]);
        way.Reverse();
        return true;
    }

    private void Expand(int word, int node, bool mayReadExtension)
    {
        var here = word * slots.Nodes.Length + node;
        var cost = costs[here];
        if (word < count)
        {
            Reach(here, cost + RepairCosts.Part, Step.Extra, word, word + 1, node, '\0');
            if (words[word].Mark is { } mark)
                Reach(here, cost + RepairProblem.MarkCost(mark.Kind), Step.Mark, word, words[word].MarkEnd, node, '\0');
        }
        for (var e = slots.EdgesFrom[node]; e < slots.EdgesFrom[node + 1]; e++)
        {
            var (to, join) = slots.Edges[e];
            var info = slots.Nodes[to];
            if (info.IsExtension)
            {
                if (mayReadExtension && word == count - 1 && word > 0 && Between(word) is "." && info.Node.Automaton.Holds(Text(word)))
                    Reach(here, cost, Step.Extension, word, word + 1, to, join);
                continue;
            }
            if (info.MayStandOpen)
                Reach(here, cost + RepairCosts.Open, Step.Missing, word, word, to, join);
            if (word == count)
                continue;
            var joined = cost + JoinCost(word, join);
            if (joined > most)
                continue;
            for (var span = 0; span < LongestSpan && stands[word * LongestSpan + span] is var stand and not HeldTexts.Nowhere; span++)
            {
                var how = texts.How(stand, to);
                if (how == HeldTexts.AsItIs)
                    Reach(here, joined, Step.Take, word, word + span + 1, to, join);
                else if (how != HeldTexts.NotHeld)
                    Reach(here, joined + RepairCosts.Case, Step.TakeInCase, word, word + span + 1, to, join);
            }
            // What the slot holds as it is cannot be wrong in it; words may be more than the first.
            if (texts.How(stands[word * LongestSpan], to) != HeldTexts.AsItIs || info.IsWords || info.FreeLetters)
                Misfits(here, joined, word, to, join);
        }
    }

    private void Reach(int here, int cost, Step step, int from, int to, int node, char join)
    {
        var cell = to * slots.Nodes.Length + node;
        if (cost >= costs[cell] || cost > most)
            return;
        (costs[cell], before[cell]) = (cost, here);
        steps[cell] = new(step, from, to, node, join);
    }

    private ReadOnlySpan<char> Text(int word) => name.AsSpan(words[word].At..words[word].End);

    private ReadOnlySpan<char> Between(int word) => name.AsSpan((word == 0 ? 0 : words[word - 1].End)..words[word].At);

    private int JoinCost(int word, char join)
    {
        var between = Between(word);
        return word == 0 ? between.Length
            : join == '\0' ? 0
            : between.Length == 0 ? RepairCosts.Join
            : between.Contains(join) ? between.Length - 1
            : between.Length;
    }

    // What a slot does not hold may be its value all the same: written otherwise, or wrong.
    private void Misfits(int here, int cost, int word, int node, char join)
    {
        var slot = slots.Nodes[node].Node.Slot!;
        var text = Text(word);
        // What is at home in another slot was put in the wrong place.
        var wrong = texts.IsAtHome(stands[word * LongestSpan]) ? RepairCosts.Exchange : RepairCosts.OpenInstead;
        void Misfit(int more, int span) => Reach(here, cost + more, Step.Misfit, word, word + span, node, join);
        switch (slot.Rule)
        {
            case NumberRule:
                Misfit(IsLedNumber(text) ? RepairCosts.Rewrite : wrong, 1);
                return;
            case DateRule:
                if (IsDigits(text, 6, 8))
                    Misfit(RepairCosts.Rewrite, 1);
                else if (word + 2 < count && IsDigits(text, 1, 4) && IsDigits(Text(word + 1), 1, 2) && IsDigits(Text(word + 2), 2, 4))
                    Misfit(RepairCosts.Rewrite, 3);
                break;
            case WordsRule or LineRule:
                WordsAsTheyAre(here, cost, word, node, join);
                return;
            case CodeRule or HandRule:
                for (var span = 1; span <= LongestMeaning; span++)
                {
                    if (Means(word, span, node))
                        Misfit(RepairCosts.Meaning, span);
                }
                if (texts.How(stands[word * LongestSpan], node) != HeldTexts.AsItIs)
                    Misfit(slots.Nodes[node].Codes.IsNear(text) ? RepairCosts.Letter + 1 : wrong, 1);
                return;
        }
        Misfit(slot.Rule is SizeRule ? RepairCosts.Letter + 1 : wrong, 1);
    }

    private static bool IsDigits(ReadOnlySpan<char> text, int least, int most) =>
        text.Length >= least && text.Length <= most && !text.ContainsAnyExceptInRange('0', '9');

    // "v14", "014", "sc7": letters and then digits.
    private static bool IsLedNumber(ReadOnlySpan<char> text)
    {
        var digits = text.Length;
        while (digits > 0 && char.IsAsciiDigit(text[digits - 1]))
            digits--;
        return digits < text.Length
            && text.Length - digits <= NumberRule.MaxDigits
            && digits <= ConventionRules.MaxLead
            && System.Text.Ascii.IsValid(text)
            && !text[..digits].ContainsAnyExcept(Letters);
    }

    private static readonly System.Buffers.SearchValues<char> Letters = System.Buffers.SearchValues.Create(
        "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ"
    );

    // Up to three words may say what a code means.
    private void FindMeanings()
    {
        Span<char> letters = stackalloc char[slots.LongestMeaning];
        for (var word = 0; word < count; word++)
        {
            var (length, at) = (0, words[word].At);
            for (var span = 1; span <= LongestMeaning; span++)
            {
                meanings[word * LongestMeaning + span - 1] = null;
                if (word + span > count)
                    continue;
                for (; at < words[word + span - 1].End && length <= letters.Length; at++)
                {
                    if (!char.IsAsciiLetterOrDigit(name[at]))
                        continue;
                    if (length < letters.Length)
                        letters[length] = char.ToLowerInvariant(name[at]);
                    length++;
                }
                if (length > letters.Length)
                    continue;
                if (slots.TryMeaning(letters[..length], out var codes))
                    meanings[word * LongestMeaning + span - 1] = codes;
            }
        }
    }

    private bool Means(int word, int span, int node)
    {
        if (span > LongestMeaning || meanings[word * LongestMeaning + span - 1] is not { } codes)
            return false;
        foreach (var (at, _) in codes)
        {
            if (at == node)
                return true;
        }
        return false;
    }

    // Words under other marks, in another case or with accents: each at its price, and never at more than all of them folded at once.
    private void WordsAsTheyAre(int here, int cost, int word, int node, char join)
    {
        var info = slots.Nodes[node];
        // Spaces are folded with the words; every other mark counts.
        var (more, others) = (0, 0);
        for (var last = word; last < count && last < word + LongestSpan; last++)
        {
            if (last > word)
            {
                var between = Between(last);
                foreach (var c in between)
                    (more, others) = c == ' ' ? (more + 1, others) : (more, others + (c == info.Joiner ? 0 : 1));
            }
            more += texts.How(stands[last * LongestSpan], node) switch
            {
                HeldTexts.AsItIs => 0,
                HeldTexts.NotHeld => WordCost(last),
                _ => RepairCosts.Case,
            };
            if (others > 4 || cost + others > most)
                return;
            // Where each word is held and each mark is right, the whole may only be too long.
            Reach(
                here,
                cost + Math.Max(RepairCosts.Case, others + Math.Min(more, RepairCosts.Fold)),
                Step.Misfit,
                word,
                last + 1,
                node,
                join
            );
        }
    }

    private int WordCost(int word)
    {
        var cost = 0;
        for (var i = words[word].At; i < words[word].End && cost < RepairCosts.Fold; i++)
            cost +=
                name[i] >= 128 ? RepairCosts.Accent
                : char.IsAsciiLetterUpper(name[i]) || !char.IsAsciiLetterOrDigit(name[i]) ? 1
                : 0;
        return Math.Max(1, cost);
    }
}
