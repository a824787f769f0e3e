using System.Text;

namespace Chronotype.Core.Naming.Checking;

internal sealed partial class PartAlignment
{
    private List<NameFault> Tell()
    {
        faults.Clear();
        var moved = Moved();
        for (var s = 0; s < way.Count; s++)
        {
            var told = way[s];
            var info = slots.Nodes[told.Node];
            var label = info.Node.Label;
            if (told.Step is Step.Take or Step.TakeInCase or Step.Misfit)
                TellJoin(told, label);
            var text = told.To > told.From ? name.AsSpan(words[told.From].At..words[told.To - 1].End) : default;
            if (moved.TryGetValue(s, out var home))
            {
                if (home >= 0)
                    Fault(
                        slots.Nodes[home].Node.Slot?.Label,
                        words[told.From].At,
                        text.Length,
                        NameFaultCodes.Order,
                        FaultWords.Order(slots.Nodes[home].Node.Label, FaultWords.Shown(text))
                    );
                continue;
            }
            switch (told.Step)
            {
                case Step.TakeInCase:
                    TellCase(told, info, text);
                    break;
                case Step.Misfit when info.IsWords:
                    TellWords(told, info);
                    break;
                case Step.Misfit:
                    Fault(
                        label,
                        words[told.From].At,
                        text.Length,
                        FaultWords.CodeFor(info.Node.Slot),
                        FaultWords.Misfit(label, FaultWords.Shown(text), info.Holds)
                    );
                    break;
                case Step.Missing:
                    var at = told.From == 0 ? 0 : words[told.From - 1].End;
                    Fault(label, at, 0, NameFaultCodes.Missing, FaultWords.Missing(label, info.Holds));
                    break;
                case Step.Mark:
                    TellMark(told);
                    break;
                case Step.Extra:
                    var stray = FaultWords.StrayPart(FaultWords.Shown(text));
                    Fault(info.Node.Slot?.Label, words[told.From].At, text.Length, NameFaultCodes.Extra, stray);
                    break;
            }
        }
        return [.. faults];
    }

    private void Fault(string? label, int at, int length, string code, string message) =>
        faults.Add(new NameFault(label, at, length, code, message));

    // What is in no slot, or in one that does not hold it, may be what another slot lacks. By step: the node where it belongs, or -1 for
    // a slot whose own text was found elsewhere.
    private Dictionary<int, int> Moved()
    {
        var moved = new Dictionary<int, int>();
        for (var open = 0; open < way.Count; open++)
        {
            if (moved.ContainsKey(open) && way[open].Step != Step.Misfit)
                continue;
            if (way[open].Step is not (Step.Missing or Step.Misfit) || IsAlmostRight(way[open]))
                continue;
            var node = way[open].Node;
            for (var s = 0; s < way.Count; s++)
            {
                if (s == open || moved.ContainsKey(s) || way[s].Step is not (Step.Extra or Step.Misfit) || IsAlmostRight(way[s]))
                    continue;
                if (How(way[s], node) == HeldTexts.NotHeld)
                    continue;
                moved[s] = node;
                if (way[open].Step == Step.Missing)
                    moved[open] = -1;
                break;
            }
        }
        // Two that stand where the other belongs, one of which is held there all the same: words hold nearly anything.
        for (var s = 0; s < way.Count; s++)
        {
            if (way[s].Step != Step.Misfit || moved.ContainsKey(s) || IsAlmostRight(way[s]))
                continue;
            var other = way.FindIndex(t =>
                t.Step is Step.Take or Step.TakeInCase
                && t.Node != way[s].Node
                && How(t, way[s].Node) == HeldTexts.AsItIs
                && How(way[s], t.Node) != HeldTexts.NotHeld
            );
            if (other < 0 || moved.ContainsKey(other))
                continue;
            (moved[s], moved[other]) = (way[other].Node, way[s].Node);
        }
        return moved;
    }

    private byte How(Told told, int node) =>
        told.To - told.From is var span && span > LongestSpan
            ? HeldTexts.NotHeld
            : texts.How(stands[told.From * LongestSpan + span - 1], node);

    // A number without its zeros, words in capitals: the slot's own, written otherwise.
    private bool IsAlmostRight(Told told) =>
        told.Step == Step.Misfit
        && slots.Nodes[told.Node].Node.Slot?.Rule switch
        {
            WordsRule or LineRule => true,
            NumberRule => IsLedNumber(Text(told.From)),
            DateRule => told.To - told.From == 3 || IsDigits(Text(told.From), 6, 8),
            CodeRule or HandRule => Means(told.From, told.To - told.From, told.Node),
            _ => false,
        };

    private void TellJoin(Told told, string label)
    {
        var between = Between(told.From);
        var at = words[told.From].At - between.Length;
        var join = told.Join.ToString();
        if (told.From == 0)
        {
            if (between.Length > 0)
                Fault(label, 0, between.Length, NameFaultCodes.Extra, FaultWords.OneTooMany(FaultWords.Shown(between)));
            return;
        }
        if (between.Length == 0)
        {
            Fault(label, at, 0, NameFaultCodes.Join, FaultWords.NoJoin(label, join));
            return;
        }
        if (told.Join == '\0')
            return;
        var own = between.LastIndexOf(told.Join);
        for (var i = 0; i < between.Length; i++)
        {
            var shown = FaultWords.Shown(between.Slice(i, 1));
            if (own < 0 && i == 0)
                Fault(label, at, 1, NameFaultCodes.Join, FaultWords.OtherJoin(label, shown, join));
            else if (i != Math.Max(own, 0))
                Fault(label, at + i, 1, NameFaultCodes.Extra, FaultWords.OneTooMany(shown));
        }
    }

    private void TellCase(Told told, RepairSlots.Info info, ReadOnlySpan<char> text)
    {
        // One letter is told by itself, and more of them as the whole.
        var toLower = texts.How(stands[told.From * LongestSpan + told.To - told.From - 1], told.Node) == HeldTexts.InLower;
        var (wrong, at) = (0, 0);
        for (var i = 0; i < text.Length; i++)
        {
            if ((toLower ? WordLetters.Lower(text[i]) : WordLetters.Upper(text[i])) == text[i])
                continue;
            (wrong, at) = (wrong + 1, i);
        }
        var shown = wrong == 1 ? text.Slice(at, 1) : text;
        Fault(
            info.Node.Label,
            words[told.From].At + (wrong == 1 ? at : 0),
            shown.Length,
            NameFaultCodes.Case,
            FaultWords.Case(info.Node.Label, FaultWords.Shown(shown), info.Holds)
        );
    }

    private void TellMark(Told told)
    {
        var mark = words[told.From].Mark!;
        var shown = FaultWords.Shown(name.AsSpan(mark.TextAt..mark.TextEnd));
        var (code, message) =
            mark.Kind == NameMarkKind.Copy
                ? (NameFaultCodes.CopyMark, FaultWords.CopyMark(shown))
                : (NameFaultCodes.Extra, FaultWords.StrayDate(shown));
        Fault(slots.Nodes[told.Node].Node.Slot?.Label, mark.At, mark.Length, code, message);
    }

    // What is wrong with words, letter by letter where that is little, and as a whole where it is much.
    private void TellWords(Told told, RepairSlots.Info info)
    {
        var (at, end, label) = (words[told.From].At, words[told.To - 1].End, info.Node.Label);
        var most = info.Node.Slot!.Rule is WordsRule rule ? rule.MaxLength : ((LineRule)info.Node.Slot.Rule).MaxLength;
        var text = name.AsSpan(at..end);
        var (before, cost) = (faults.Count, 0);
        for (var i = at; i < end; i++)
        {
            var c = name[i];
            var run = name.AsSpan(i, char.IsHighSurrogate(c) && i + 1 < end ? 2 : 1);
            var shown = FaultWords.Shown(run);
            if (NameMarks.IsSeparator(c))
            {
                if (c == info.Joiner)
                    continue;
                cost += RepairCosts.OtherMark;
                Fault(label, i, 1, NameFaultCodes.Mark, FaultWords.Mark(label, shown, info.Joiner == '\0' ? "" : info.Joiner.ToString()));
                continue;
            }
            var inWord = texts.How(texts.After(run), told.Node);
            if (inWord == HeldTexts.AsItIs)
                continue;
            if (inWord != HeldTexts.NotHeld)
            {
                cost += RepairCosts.Case;
                Fault(label, i, 1, NameFaultCodes.Case, FaultWords.Case(label, shown, info.Holds));
            }
            else if (Rune.TryGetRuneAt(name, i, out var letter) && Words.Plain(letter).Length > 0)
            {
                cost += RepairCosts.Accent;
                Fault(label, i, run.Length, NameFaultCodes.Accent, FaultWords.Accent(label, shown));
            }
            else
            {
                cost += RepairCosts.Character;
                Fault(label, i, run.Length, NameFaultCodes.Character, FaultWords.Character(label, shown, info.Holds));
            }
            i += run.Length - 1;
        }
        if (text.Length <= most && cost <= RepairCosts.Fold && faults.Count > before)
            return;
        faults.RemoveRange(before, faults.Count - before);
        if (text.Length > most)
            Fault(label, at, text.Length, NameFaultCodes.TooLong, FaultWords.TooLong(label, text.Length, info.Holds));
        else
            Fault(label, at, text.Length, NameFaultCodes.Value, FaultWords.Misfit(label, FaultWords.Shown(text), info.Holds));
    }
}
