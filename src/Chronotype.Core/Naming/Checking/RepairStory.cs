namespace Chronotype.Core.Naming;

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
            op is RepairOp.Keep or RepairOp.Case or RepairOp.Accent or RepairOp.Change or RepairOp.Add or RepairOp.Drop;
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
            run.Any(s => s.Op is RepairOp.Change or RepairOp.Add)
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
        var shown = Shown(source);
        switch (step.Op)
        {
            case RepairOp.Case or RepairOp.WholeCase:
                Fault(step, NameFaultCodes.Case, $"The {label} holds {shown} in the wrong case. It may hold {holds}.");
                Reasons.Add($"{shown} is written “{step.Text}”");
                break;
            case RepairOp.Accent:
                Fault(
                    step,
                    NameFaultCodes.Accent,
                    $"The {label} holds {shown}. Letters with accents are written plain, so that every file system takes them."
                );
                Reasons.Add($"{shown} is written “{step.Text}”");
                break;
            case RepairOp.OtherMark:
                Fault(step, NameFaultCodes.Mark, $"{shown} stands between words of the {label}, which are joined by “{step.Text}”.");
                Reasons.Add($"words of the {label} are joined by “{step.Text}”");
                break;
            case RepairOp.Fold:
                Fault(step, NameFaultCodes.Value, $"The {label} holds {shown}. It may hold {holds}.");
                Reasons.Add($"{shown} is written “{step.Text}”");
                break;
            case RepairOp.Shorten:
                Fault(step, NameFaultCodes.TooLong, $"The {label} has {source.Length:N0} characters. It may hold {holds}.");
                Reasons.Add($"the {label} is cut to {step.Text.Length} characters, at a word's end where there is one");
                break;
            case RepairOp.Change:
                Fault(step, CodeFor(slot), $"The {label} holds {shown}. It may hold {holds}.");
                Reasons.Add($"{shown} is nearest to {Meant(slot, step.Text)}");
                break;
            case RepairOp.Meaning:
                Fault(step, NameFaultCodes.NotOnList, $"The {label} holds {shown}. It may hold {holds}.");
                Reasons.Add($"{shown} is what “{step.Text}” means");
                break;
            case RepairOp.KnownInstead:
                Fault(step, CodeFor(slot), $"The {label} holds {shown}. It may hold {holds}.");
                Reasons.Add($"the {label} is known to be “{step.Text}”, not {shown}");
                break;
            case RepairOp.OpenInstead:
                Fault(step, CodeFor(slot), $"The {label} holds {shown}. It may hold {holds}.");
                Reasons.Add($"nothing like {shown} is a {label}, so it stands open as “{step.Text}”");
                break;
            case RepairOp.Number:
                Fault(step, NameFaultCodes.Number, $"The {label} holds {shown}. It may hold {holds}.");
                Reasons.Add($"the {label} {shown} is written “{step.Text}”");
                break;
            case RepairOp.Date:
                Fault(step, NameFaultCodes.Date, $"The {label} holds {shown}. It may hold {holds}.");
                Reasons.Add($"the date {shown} is written “{step.Text}”");
                break;
            case RepairOp.Drop:
                var between = index > 0 && steps[index - 1].Op is RepairOp.Join or RepairOp.JoinOther || source.All(NameMarks.IsSeparator);
                Fault(
                    step,
                    between ? NameFaultCodes.Extra : NameFaultCodes.Character,
                    between ? $"{shown} is one too many here." : $"{shown} cannot stand in the {label}. It may hold {holds}."
                );
                Reasons.Add($"{shown} is left out");
                break;
            case RepairOp.LeaveOut:
                var mark = problem.Marks[step.Argument];
                var text = Shown(problem.Name[mark.TextAt..mark.TextEnd]);
                var (code, message, reason) = mark.Kind switch
                {
                    NameMarkKind.Copy => (
                        NameFaultCodes.CopyMark,
                        $"{text} is a copy mark. Copies are told apart by their version.",
                        $"{text} is a copy mark, and is left out"
                    ),
                    NameMarkKind.Date => (
                        NameFaultCodes.Extra,
                        $"{text} is a date, and has no place here.",
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
                var left = Shown(problem.Name[part.At..part.End]);
                Fault(step with { From = part.At, To = part.End }, NameFaultCodes.Extra, $"{left} belongs to no slot of this form.");
                Reasons.Add($"{left} belongs to no slot, and is left out");
                break;
            case RepairOp.JoinOther:
                Fault(step, NameFaultCodes.Join, $"{shown} stands before the {label}, which is joined by “{step.Text}”.");
                Reasons.Add($"the {label} is joined by “{step.Text}”");
                break;
            case RepairOp.JoinAdd when !IsFilled(index - 1) && !IsFilled(index + 1):
                Fault(step, NameFaultCodes.Join, $"“{step.Text}” is missing before the {label}.");
                Reasons.Add($"“{step.Text}” is put before the {label}");
                break;
            case RepairOp.PutIn or RepairOp.Fetch:
                var moved = problem.Parts[step.Argument];
                var name = Shown(problem.Name[moved.At..moved.End]);
                Fault(
                    step with
                    {
                        From = moved.At,
                        To = moved.End,
                    },
                    NameFaultCodes.Order,
                    $"{name} is the {label}, and stands in the wrong place."
                );
                Reasons.Add($"{name} is moved to where the {label} stands");
                break;
            case RepairOp.Known or RepairOp.Open:
                Fault(step, NameFaultCodes.Missing, $"The {label} is missing. It may hold {holds}.");
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

    private static string CodeFor(Slot? slot) =>
        slot?.Rule switch
        {
            CodeRule or HandRule => NameFaultCodes.NotOnList,
            NumberRule => NameFaultCodes.Number,
            DateRule => NameFaultCodes.Date,
            _ => NameFaultCodes.Value,
        };

    // What a person cannot see is named, so that the sentence can be read.
    private static string Shown(string text) =>
        text.Any(FileSystemRules.IsUnseen)
            ? $"“{string.Concat(text.Select(c => FileSystemRules.IsUnseen(c) ? $"[U+{(int)c:X4}]" : c.ToString()))}”"
        : text == " " ? "A space"
        : $"“{(text.Length <= 60 ? text : text[..60] + "…")}”";
}
