using System.Text;

namespace Chronotype.Core.Naming.Checking;

// Text that a slot may read as another: numbers, dates, folded words, meanings.
internal sealed partial class RepairProblem
{
    private void FillReplacements(int node)
    {
        var info = Slots.Nodes[node];
        switch (info.Node.Slot?.Rule)
        {
            case null:
                return;
            case NumberRule number:
                Numbers(node, number);
                break;
            case DateRule date:
                Dates(node, date);
                break;
            case WordsRule or LineRule:
                FoldedWords(node);
                break;
        }
        for (var p = 0; p < Parts.Length; p++)
        {
            if (IsHeldBy(p, node, out var cost) && cost > 0)
                Add(Parts[p].At, Parts[p].End, node, TextHeldBy(p, node), RepairCosts.Case, RepairOp.WholeCase);
        }
    }

    private void Add(int at, int end, int node, string value, int cost, RepairOp op)
    {
        replacements.Add(new(end, node, value, cost, op, letters[at].Replacements));
        letters[at].Replacements = replacements.Count - 1;
    }

    private void Numbers(int node, NumberRule rule)
    {
        for (var i = 0; i < Name.Length; i++)
        {
            if (!char.IsAsciiDigit(Name[i]) || (i > 0 && char.IsAsciiDigit(Name[i - 1])))
                continue;
            var end = i;
            while (end < Name.Length && char.IsAsciiDigit(Name[end]))
                end++;
            // The number of a copy is no version.
            if (IsOfCopy(i) || end - i > 32 || rule.Write("", Name[i..end]).Text is not { } text)
                continue;
            Add(i, end, node, text, RepairCosts.Rewrite, RepairOp.Number);
            foreach (var mark in Marks)
            {
                if (mark.Kind == NameMarkKind.NumberWord && mark.End == i)
                    Add(mark.At, end, node, text, RepairCosts.Rewrite, RepairOp.Number);
            }
        }
    }

    private void Dates(int node, DateRule rule)
    {
        foreach (var mark in Marks)
        {
            if (mark.Kind != NameMarkKind.Date)
                continue;
            foreach (var text in mark.Dates.Select(rule.Text).Distinct())
            {
                if (Slots.Nodes[node].Node.Automaton.Holds(text))
                    Add(mark.TextAt, mark.TextEnd, node, text, RepairCosts.Rewrite, RepairOp.Date);
            }
        }
    }

    // All the words between two marks, folded at once: what is typed with capitals, spaces and accents throughout.
    private void FoldedWords(int node)
    {
        var slot = Slots.Nodes[node].Node.Slot!;
        var most = slot.Rule is WordsRule words ? words.MaxLength : ((LineRule)slot.Rule).MaxLength;
        for (var first = 0; first < Parts.Length; first++)
        {
            if (first > 0 && IsWithinWords(Parts[first].At - 1))
                continue;
            var last = first;
            while (last + 1 < Parts.Length && IsWithinWords(Parts[last].End) && Parts[last + 1].At == Parts[last].End + 1)
                last++;
            // One part that the slot holds, in one case or the other, is written more cheaply than by folding it.
            if (first == last && IsHeldBy(first, node, out _))
                continue;
            var text = Name[Parts[first].At..Parts[last].End];
            if (slot.Rule.Write("", text).Text is not { } folded)
                continue;
            var op = text.Length > most ? RepairOp.Shorten : RepairOp.Fold;
            Add(Parts[first].At, Parts[last].End, node, folded, op == RepairOp.Fold ? RepairCosts.Fold : RepairCosts.Shorten, op);
        }
    }

    private bool IsWithinWords(int at) => Name[at] == ' ' && MayJoinWords(at);

    private void FillMeanings()
    {
        Span<char> letters = stackalloc char[Slots.LongestMeaning];
        for (var first = 0; first < Parts.Length; first++)
        {
            var count = 0;
            for (var last = first; last < Parts.Length && last < first + 3; last++)
            {
                if (!AddLetters(Parts[last], letters, ref count))
                    break;
                if (!Slots.TryMeaning(letters[..count], out var codes))
                    continue;
                foreach (var (node, code) in codes)
                    Add(Parts[first].At, Parts[last].End, node, code, RepairCosts.Meaning, RepairOp.Meaning);
            }
        }
    }

    // The part's words in plain lower-case letters, run together, as long as they have room.
    private bool AddLetters(Part part, Span<char> letters, ref int count)
    {
        var text = Name.AsSpan(part.At..part.End);
        if (!Ascii.IsValid(text))
            text = string.Concat(Words.Split(text.ToString()));
        foreach (var c in text)
        {
            if (!char.IsAsciiLetterOrDigit(c))
                continue;
            if (count == letters.Length)
                return false;
            letters[count++] = char.ToLowerInvariant(c);
        }
        return true;
    }
}
