namespace Chronotype.Core.Naming.Checking;

// What a repair may do at each place.
internal sealed partial class RepairSearch
{
    private void Expand(Place place)
    {
        var info = problem.Slots.Nodes[place.Node];
        if (place.At < problem.Name.Length && !IsExchanged(place) && !Moves(place))
            Read(place, info);
        if (info.IsRoot || place.State == info.Closed || info.Node.Automaton.Accepts(place.State))
            Cross(place, info);
        if (place.State == SlotAutomaton.Start && info.Node.Slot is not null)
            Fill(place, info);
        if (info.FreeLetters && place.State < info.Closed)
            Bundle(place, RepairOp.Add);
    }

    // Letters put in or changed: one entry for all of them, at the cost that all of them have.
    private void Bundle(Place place, RepairOp op)
    {
        if (problem.Slots.Nodes[place.Node].Node.Automaton.Moves[place.State].Length == 0)
            return;
        var on = op == RepairOp.Change ? place.At + problem.Letters[place.At].Length : place.At;
        Wait(
            place,
            currentCost,
            currentCost + RepairCosts.Letter + bound.Inside(on, place.Node, IsExchanging(place)),
            op,
            0,
            isBundle: true
        );
    }

    private void Unfold(Place place, RepairOp op)
    {
        var on = op == RepairOp.Change ? place.To(place.At + problem.Letters[place.At].Length) : place;
        foreach (var (letter, to) in problem.Slots.Nodes[place.Node].Node.Automaton.Moves[place.State])
        {
            if (op == RepairOp.Add || letter != problem.Name[place.At])
                Reach(on.In(to), RepairCosts.Letter, op, letter);
        }
    }

    // A part that was fetched before is passed over where it stood; any other may be taken out here, or left out.
    private bool Moves(Place place)
    {
        var p = problem.Letters[place.At].PartFrom;
        if (p < 0)
            return false;
        var parted = asides[place.Aside];
        var part = problem.Parts[p];
        var bit = 1u << p;
        if ((parted.Fetched & bit) != 0)
        {
            Reach(
                place.To(part.To).With(Asides(parted with { Fetched = parted.Fetched & ~bit })),
                RepairCosts.MoveHalf,
                RepairOp.Fetched,
                p
            );
            return true;
        }
        if (problem.MayMove(p) && asides.Count < MaxAsides)
            Reach(place.To(part.To).With(Asides(parted with { Aside = parted.Aside | bit })), RepairCosts.MoveHalf, RepairOp.TakeOut, p);
        Reach(place.To(part.To), RepairCosts.Part, RepairOp.LeaveOutPart, p);
        return false;
    }

    private void Read(Place place, RepairSlots.Info info)
    {
        var c = problem.Name[place.At];
        ref readonly var letter = ref problem.Letters[place.At];
        // Two numbers are never run together into one.
        if (
            letter.DropCost != RepairCosts.Glue
            || !letter.IsSeparator
            || !info.IsNumber
            || place.State is SlotAutomaton.Start
            || place.State == info.Closed
        )
            Reach(place.To(place.At + letter.Length), letter.DropCost, RepairOp.Drop, 0);
        for (var m = 0; letter.Marks && m < problem.Marks.Length; m++)
        {
            var mark = problem.Marks[m];
            if (mark.At == place.At)
                Reach(place.To(mark.End), RepairProblem.MarkCost(mark.Kind), RepairOp.LeaveOut, m);
        }
        if (info.IsRoot || place.State == info.Closed)
            return;
        var automaton = info.Node.Automaton;
        var on = place.To(place.At + letter.Length);
        if (WordLetters.Of(c) > 0)
        {
            var kept = automaton.Next(place.State, c);
            if (kept != SlotAutomaton.None)
                Reach(on.In(kept), 0, RepairOp.Keep, c);
            var other = RepairSlots.OtherCase(c);
            if (other != c && automaton.Next(place.State, other) is var cased && cased != SlotAutomaton.None)
                Reach(on.In(cased), RepairCosts.Case, RepairOp.Case, other);
        }
        if (letter.Plain.Length > 0)
            Accent(on, automaton, place.State, letter.Plain);
        if (
            info.Joiner != '\0'
            && c != info.Joiner
            && letter.IsSeparator
            && problem.MayJoinWords(place.At)
            && automaton.Next(place.State, info.Joiner) is var joined
            && joined != SlotAutomaton.None
        )
            Reach(on.In(joined), RepairCosts.OtherMark, RepairOp.OtherMark, info.Joiner);
        if (!info.FreeLetters)
            return;
        Bundle(place, RepairOp.Change);
        if (
            c < 128
            && place.At + 1 < problem.Name.Length
            && problem.Name[place.At + 1] is var second and < (char)128
            && second != c
            && automaton.Next(place.State, second) is var between and not SlotAutomaton.None
            && automaton.Next(between, c) is var both and not SlotAutomaton.None
        )
            Reach(place.To(place.At + 2).In(both), RepairCosts.Transposed, RepairOp.Transpose, second << 8 | c);
    }

    // Its plain letters stand for it, in whichever case the slot takes them.
    private void Accent(Place on, SlotAutomaton automaton, int state, string plain)
    {
        Span<char> letters = stackalloc char[plain.Length];
        for (var i = 0; i < plain.Length; i++)
        {
            letters[i] = plain[i];
            var to = automaton.Next(state, plain[i]);
            if (to == SlotAutomaton.None)
                to = automaton.Next(state, letters[i] = RepairSlots.OtherCase(plain[i]));
            if (to == SlotAutomaton.None)
                return;
            state = to;
        }
        accents.Add(letters.ToString());
        Reach(on.In(state), RepairCosts.Accent, RepairOp.Accent, accents.Count - 1);
    }

    private void Cross(Place place, RepairSlots.Info info)
    {
        var c = place.At < problem.Name.Length ? problem.Name[place.At] : '\0';
        var separator = problem.Letters[place.At].IsSeparator && !IsFetched(place);
        foreach (var edge in info.Node.Next)
        {
            var to = place.Enter(edge.Node);
            if (edge.Join == '\0')
                Reach(to, 0, RepairOp.Enter, 0);
            else
            {
                var extension = problem.Slots.Nodes[edge.Node].IsExtension;
                if (separator && c == edge.Join)
                    Reach(to.To(place.At + 1), 0, RepairOp.Join, edge.Join);
                else if (separator && !extension)
                    Reach(to.To(place.At + 1), RepairCosts.OtherMark, RepairOp.JoinOther, edge.Join);
                if (!extension)
                    Reach(to, problem.Letters[place.At].JoinCost, RepairOp.JoinAdd, edge.Join);
            }
        }
    }

    private bool IsExchanging(Place place) => place.Aside != 0 && asides[place.Aside].Swapped != 0;

    // Where the second of two that change places stands, only the first is read.
    private bool IsExchanged(Place place) =>
        place.Aside != 0 && asides[place.Aside].Second is var second && second != None && problem.Parts[second].At == place.At;

    private bool IsFetched(Place place)
    {
        var fetched = place.Aside == 0 ? 0 : asides[place.Aside].Fetched;
        for (var p = 0; fetched >> p != 0; p++)
        {
            if ((fetched >> p & 1) != 0 && problem.Parts[p].From == place.At)
                return true;
        }
        return false;
    }

    private void Fill(Place place, RepairSlots.Info info)
    {
        var closed = place.In(info.Closed);
        var known = problem.Known[place.Node];
        if (known is not null)
            Reach(closed, RepairCosts.Known, RepairOp.Known, 0);
        if (info.MayStandOpen)
            Reach(closed, RepairCosts.Open, RepairOp.Open, 0);
        var parted = asides[place.Aside];
        var here = problem.Letters[place.At].PartAt;
        if (here >= 0 && here == parted.Second)
        {
            if (problem.IsHeldBy(parted.First, place.Node, out var inCase) && inCase == 0)
            {
                var after = closed.To(problem.Parts[here].End).With(Asides(parted with { Swapped = 0 }));
                Reach(after, 0, RepairOp.Exchanged, parted.First);
            }
            return;
        }
        var mayExchange = here >= 0 && (parted.Fetched >> here & 1) == 0 && parted.Second == None && problem.MayExchange(here, place.Node);
        if (here >= 0 && (parted.Fetched >> here & 1) == 0)
        {
            var end = problem.Parts[here].End;
            if (known is not null)
                Reach(closed.To(end), RepairCosts.KnownInstead, RepairOp.KnownInstead, 0);
            if (info.MayStandOpen)
                Reach(closed.To(end), RepairCosts.OpenInstead, RepairOp.OpenInstead, 0);
        }
        for (var p = 0; p < problem.Parts.Length; p++)
        {
            if (!problem.IsHeldBy(p, place.Node, out var cost) || !problem.MayMove(p) || asides.Count >= MaxAsides)
                continue;
            var bit = 1u << p;
            var beside = (parted.Aside & bit) != 0;
            if (!beside && ((parted.Fetched & bit) != 0 || problem.Parts[p].From < place.At))
                continue;
            if (mayExchange && p > here && cost == 0)
            {
                var swapped = Asides(parted with { Swapped = Parted.Swap(here, p) });
                Reach(closed.To(problem.Parts[here].End).With(swapped), RepairCosts.Exchange, RepairOp.Exchange, p);
            }
            var masks = Asides(beside ? parted with { Aside = parted.Aside & ~bit } : parted with { Fetched = parted.Fetched | bit });
            Reach(closed.With(masks), RepairCosts.MoveHalf + cost, beside ? RepairOp.PutIn : RepairOp.Fetch, p);
        }
        if (problem.Letters[place.At].Replacements is var r && r >= 0 && !IsFetched(place.To(place.At - 1)) && !IsFetched(place))
        {
            for (; r >= 0; r = problem.ReplacementOf(r).Next)
            {
                var replacement = problem.ReplacementOf(r);
                if (replacement.Node == place.Node)
                    Reach(closed.To(replacement.End), replacement.Cost, replacement.Op, r);
            }
        }
    }
}
