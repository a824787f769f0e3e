namespace Chronotype.Core.Naming.Checking;

/// <summary>Tells the steps of a repair: as the faults of the name, each with its place, and as the reasons of its repair.</summary>
internal sealed class RepairStory
{
    private readonly RepairProblem problem;
    private readonly List<RepairStep> steps;

    public RepairStory(RepairProblem problem, List<RepairStep> steps)
    {
        this.problem = problem;
        this.steps = Merged(steps);
        for (var i = 0; i < this.steps.Count; i++)
            Tell(i);
    }

    public List<NameFault> Faults { get; } = [];
    public List<string> Reasons { get; } = [];

    // What befalls neighbouring letters in one slot is told once; a listed code that was spelt wrong is told as a whole.
    private List<RepairStep> Merged(List<RepairStep> all)
    {
        var merged = new List<RepairStep>();
        for (var i = 0; i < all.Count; )
        {
            if (CodeRun(all, i) is var end && end > i)
            {
                merged.Add(Joined(all, i, end, RepairOp.Change));
                i = end;
                continue;
            }
            var last = i + 1;
            while (
                all[i].Op is RepairOp.Drop or RepairOp.Case or RepairOp.Accent or RepairOp.Keep
                && last < all.Count
                && all[last].Op == all[i].Op
                && all[last].Node == all[i].Node
            )
                last++;
            merged.Add(Joined(all, i, last, all[i].Op));
            i = last;
        }
        return merged;
    }

    private int CodeRun(List<RepairStep> all, int from)
    {
        static bool IsLetter(RepairOp op) =>
            op
                is RepairOp.Keep
                    or RepairOp.Case
                    or RepairOp.Accent
                    or RepairOp.Change
                    or RepairOp.Transpose
                    or RepairOp.Add
                    or RepairOp.Drop;
        if (!problem.Slots.Nodes[all[from].Node].FreeLetters || !IsLetter(all[from].Op))
            return from;
        var end = from;
        while (end < all.Count && all[end].Node == all[from].Node && IsLetter(all[end].Op))
            end++;
        // What is left out after the code is told by itself.
        while (end > from && all[end - 1].Op == RepairOp.Drop)
            end--;
        if (end > from && all[from].Op == RepairOp.Drop)
            return from;
        var run = all[from..end];
        return
            run.Any(s => s.Op is RepairOp.Change or RepairOp.Transpose or RepairOp.Add)
            || (run.Any(s => s.Op == RepairOp.Drop) && run.Any(s => s.Op == RepairOp.Keep))
            ? end
            : from;
    }

    private static RepairStep Joined(List<RepairStep> all, int from, int end, RepairOp op) =>
        end == from + 1
            ? all[from] with
            {
                Op = op,
            }
            : new(
                op,
                all[from].From,
                all[end - 1].To,
                all[from].Node,
                string.Concat(all[from..end].Select(s => s.Text)),
                all[from].Argument
            );

    private void Tell(int index)
    {
        var step = steps[index];
        if (step.Op is RepairOp.Keep or RepairOp.Join or RepairOp.Enter)
            return;
        var slot = problem.Slots.Nodes[step.Node].Node.Slot;
        var label = slot?.Label ?? NameGrammar.ExtensionLabel;
        var holds = problem.Slots.Nodes[step.Node].Holds;
        var source = problem.Name[step.From..step.To];
        var shown = FaultWords.Shown(source);
        switch (step.Op)
        {
            case RepairOp.Case or RepairOp.WholeCase:
                Fault(step, NameFaultCodes.Case, FaultWords.Case(label, shown, holds));
                Reasons.Add($"{shown} is written “{step.Text}”");
                break;
            case RepairOp.Accent:
                Fault(step, NameFaultCodes.Accent, FaultWords.Accent(label, shown));
                Reasons.Add($"{shown} is written “{step.Text}”");
                break;
            case RepairOp.OtherMark:
                Fault(step, NameFaultCodes.Mark, FaultWords.Mark(label, shown, step.Text));
                Reasons.Add($"words of the {label} are joined by “{step.Text}”");
                break;
            case RepairOp.Fold:
                Fault(step, NameFaultCodes.Value, FaultWords.Misfit(label, shown, holds));
                Reasons.Add($"{shown} is written “{step.Text}”");
                break;
            case RepairOp.Shorten:
                Fault(step, NameFaultCodes.TooLong, FaultWords.TooLong(label, source.Length, holds));
                Reasons.Add($"the {label} is cut to {step.Text.Length} characters, at a word's end where there is one");
                break;
            case RepairOp.Change:
                Fault(step, FaultWords.CodeFor(slot), FaultWords.Misfit(label, shown, holds));
                Reasons.Add($"{shown} is nearest to {Meant(slot, step.Text)}");
                break;
            case RepairOp.Meaning:
                Fault(step, NameFaultCodes.NotOnList, FaultWords.Misfit(label, shown, holds));
                Reasons.Add($"{shown} is what “{step.Text}” means");
                break;
            case RepairOp.KnownInstead:
                Fault(step, FaultWords.CodeFor(slot), FaultWords.Misfit(label, shown, holds));
                Reasons.Add($"the {label} is known to be “{step.Text}”, not {shown}");
                break;
            case RepairOp.OpenInstead:
                Fault(step, FaultWords.CodeFor(slot), FaultWords.Misfit(label, shown, holds));
                Reasons.Add($"nothing like {shown} is a {label}, so it stands open as “{step.Text}”");
                break;
            case RepairOp.Number:
                Fault(step, NameFaultCodes.Number, FaultWords.Misfit(label, shown, holds));
                Reasons.Add($"the {label} {shown} is written “{step.Text}”");
                break;
            case RepairOp.Date:
                Fault(step, NameFaultCodes.Date, FaultWords.Misfit(label, shown, holds));
                Reasons.Add($"the date {shown} is written “{step.Text}”");
                break;
            case RepairOp.Drop:
                var between = index > 0 && steps[index - 1].Op is RepairOp.Join or RepairOp.JoinOther || source.All(NameMarks.IsSeparator);
                Fault(
                    step,
                    between ? NameFaultCodes.Extra : NameFaultCodes.Character,
                    between ? FaultWords.OneTooMany(shown) : FaultWords.Character(label, shown, holds)
                );
                Reasons.Add($"{shown} is left out");
                break;
            case RepairOp.LeaveOut:
                var mark = problem.Marks[step.Argument];
                var text = FaultWords.Shown(problem.Name.AsSpan(mark.TextAt..mark.TextEnd));
                var (code, message, reason) = mark.Kind switch
                {
                    NameMarkKind.Copy => (NameFaultCodes.CopyMark, FaultWords.CopyMark(text), $"{text} is a copy mark, and is left out"),
                    NameMarkKind.Date => (
                        NameFaultCodes.Extra,
                        FaultWords.StrayDate(text),
                        $"the date {text} has no place in this form, and is left out"
                    ),
                    _ => (
                        NameFaultCodes.Extra,
                        $"{text} only says that a number follows.",
                        $"{text} only says that a number follows, and is left out"
                    ),
                };
                Fault(step, code, message);
                Reasons.Add(reason);
                break;
            case RepairOp.LeaveOutPart:
                var part = problem.Parts[step.Argument];
                var left = FaultWords.Shown(problem.Name.AsSpan(part.At..part.End));
                Fault(step with { From = part.At, To = part.End }, NameFaultCodes.Extra, FaultWords.StrayPart(left));
                Reasons.Add($"{left} belongs to no slot, and is left out");
                break;
            case RepairOp.JoinOther:
                Fault(step, NameFaultCodes.Join, FaultWords.OtherJoin(label, shown, step.Text));
                Reasons.Add($"the {label} is joined by “{step.Text}”");
                break;
            case RepairOp.JoinAdd when !IsFilled(index - 1) && !IsFilled(index + 1):
                Fault(step, NameFaultCodes.Join, FaultWords.NoJoin(label, step.Text));
                Reasons.Add($"“{step.Text}” is put before the {label}");
                break;
            case RepairOp.PutIn or RepairOp.Fetch or RepairOp.Exchange or RepairOp.Exchanged:
                var moved = problem.Parts[step.Argument];
                var name = FaultWords.Shown(problem.Name.AsSpan(moved.At..moved.End));
                Fault(step with { From = moved.At, To = moved.End }, NameFaultCodes.Order, FaultWords.Order(label, name));
                if (step.Op == RepairOp.Exchange)
                    Reasons.Add($"{shown} and {name} change places");
                else if (step.Op != RepairOp.Exchanged)
                    Reasons.Add($"{name} is moved to where the {label} stands");
                break;
            case RepairOp.Known or RepairOp.Open:
                Fault(step, NameFaultCodes.Missing, FaultWords.Missing(label, holds));
                Reasons.Add(
                    step.Op == RepairOp.Known
                        ? $"the {label} is known to be “{step.Text}”"
                        : $"the {label} is not known, so it stands open as “{step.Text}”"
                );
                break;
        }
    }

    private void Fault(RepairStep step, string code, string message) =>
        Faults.Add(new NameFault(problem.Slots.Nodes[step.Node].Node.Slot?.Label, step.From, step.To - step.From, code, message));

    private bool IsFilled(int index) =>
        index >= 0 && index < steps.Count && steps[index].Op is RepairOp.Known or RepairOp.Open or RepairOp.PutIn or RepairOp.Fetch;

    private string Meant(Slot? slot, string code) =>
        slot is not null
        && NameGrammar.ListOf(slot.Rule, problem.Slots.Grammar.Lists)?.Codes.FirstOrDefault(c => c.Code == code)
            is { Meaning.Length: > 0 } known
            ? $"“{code}” ({known.Meaning})"
            : $"“{code}”";
}
