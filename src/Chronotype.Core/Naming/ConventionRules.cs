using Chronotype.Core.Content;

namespace Chronotype.Core.Naming;

/// <summary>The rules that a convention keeps whatever its names; that no name has two readings is proved apart.</summary>
public static class ConventionRules
{
    /// <summary>The most slots, codes of a list, and characters of each text.</summary>
    public const int MaxSlots = 24,
        MaxLabel = 24,
        MaxLead = 8,
        MaxFiller = 12,
        MaxCodes = 10_000,
        MaxMeaning = 200;

    /// <summary>The marks that may join slots or words; the empty one joins them without a mark.</summary>
    public static readonly IReadOnlyList<string> Marks = ["_", "-", ".", ""];

    /// <returns>Every fault; none for a convention that holds together.</returns>
    public static IReadOnlyList<SettingFault> Check(
        IReadOnlyList<Slot> slots,
        IReadOnlyDictionary<NameForm, IReadOnlyList<string>> forms,
        IReadOnlyDictionary<string, CodeList> lists,
        string filler
    )
    {
        var faults = new List<SettingFault>();
        void Fault(string place, string message) => faults.Add(new SettingFault(place, message));

        if (slots.Count == 0)
            Fault("slots", "A convention has at least one slot.");
        if (slots.Count > MaxSlots)
            Fault("slots", $"A convention has at most {MaxSlots} slots; this one has {slots.Count}.");
        for (var i = 0; i < slots.Count; i++)
        {
            var (slot, place) = (slots[i], $"slots[{i}]");
            if (!IsLabel(slot.Label))
                Fault(
                    $"{place}.label",
                    $"A label has 1 to {MaxLabel} lower-case letters, digits and hyphens, and begins with a letter; "
                        + $"“{Shown(slot.Label)}” does not."
                );
            else if (slot.Label == NameGrammar.ExtensionLabel)
                Fault($"{place}.label", "“extension” is what every file has at its end. Choose another label.");
            else if (slots.Take(i).Any(s => s.Label == slot.Label))
                Fault($"{place}.label", $"Two slots are called “{slot.Label}”. Give one of them another label.");
            if (!Marks.Contains(slot.Join))
                Fault($"{place}.join", $"A slot is joined by “_”, “-”, “.” or nothing, not by “{Shown(slot.Join)}”.");
            CheckRule(slot.Rule, place, Fault);
        }
        if (filler.Length > MaxFiller || !filler.All(char.IsAsciiLetterOrDigit))
            Fault("filler", $"The filler has at most {MaxFiller} letters and digits, or is empty.");
        CheckForms(slots, forms, Fault);
        foreach (var (name, list) in lists)
            CheckList(name, list, slots, filler, Fault);
        return faults;
    }

    /// <summary>What a studio's own names need beyond that: one current file for each piece, and a number in each version's name.</summary>
    public static IReadOnlyList<SettingFault> CheckForStudio(Convention convention)
    {
        var faults = new List<SettingFault>();
        if (!convention.Has(NameForm.Current))
            faults.Add(new("forms.current", "There is no current form, which names the piece itself."));
        if (!convention.Has(NameForm.Working))
            faults.Add(new("forms.working", "There is no working form, which names the versions."));
        if (!convention.Has(NameForm.Milestone))
            faults.Add(new("forms.milestone", "There is no milestone form, which names marked copies."));
        if (faults.Count > 0)
            return faults;
        var current = convention.Form(NameForm.Current);
        foreach (var (form, key) in new[] { (NameForm.Working, "working"), (NameForm.Milestone, "milestone") })
        {
            if (current.FirstOrDefault(s => !convention.Form(form).Contains(s)) is { } lost)
                faults.Add(
                    new(
                        $"forms.{key}",
                        $"The {key} form lacks the {lost.Label} of the current form, so two pieces could have the same name."
                    )
                );
        }
        if (convention.Filler.Length == 0)
        {
            foreach (var (form, key) in new[] { (NameForm.Working, "working"), (NameForm.Milestone, "milestone") })
            {
                if (convention.Form(form).FirstOrDefault(s => !current.Contains(s) && !s.MayBeAbsent && !Changes(s.Rule)) is { } open)
                    faults.Add(
                        new(
                            $"forms.{key}",
                            $"The {key} form has the {open.Label}, which the current form has not, so it may not be known: give the "
                                + $"convention a filler, or make the slot optional."
                        )
                    );
            }
        }
        if (!convention.Form(NameForm.Working).Any(s => s.Rule is VersionRule && !s.MayBeAbsent))
            faults.Add(new("forms.working", "The working form has no version, so all versions would have one name."));
        if (!convention.Form(NameForm.Milestone).Any(s => s.Rule is MilestoneRule && !s.MayBeAbsent))
            faults.Add(new("forms.milestone", "The milestone form has no milestone, so all milestones would have one name."));
        if (current.All(s => s.MayBeAbsent || s.Rule is not WordsRule))
            faults.Add(new("forms.current", "The current form has no words, so a piece could not be called anything."));
        return faults;
    }

    /// <summary>The kinds that change while a piece is worked on, and so cannot stand in the name that other files refer to.</summary>
    public static bool Changes(SlotRule rule) => rule is VersionRule or MilestoneRule or DateRule or HandRule or StateRule;

    private static void CheckRule(SlotRule rule, string place, Action<string, string> fault)
    {
        switch (rule)
        {
            case CodeRule code when code.List.Length is 0 or > MaxLabel:
                fault($"{place}.list", $"A code slot names its list, in 1 to {MaxLabel} characters.");
                break;
            case WordsRule words:
                Length(words.MaxLength);
                Joiner(words.Joiner);
                break;
            case LineRule line:
                Length(line.MaxLength);
                Joiner(line.Joiner);
                break;
            case NumberRule number:
                if (number.Width is < 1 or > NumberRule.MaxDigits)
                    fault($"{place}.width", $"A number has a width of 1 to {NumberRule.MaxDigits} digits, not {number.Width}.");
                if (number is CountRule { Step: < 1 or > CountRule.MaxStep } count)
                    fault($"{place}.step", $"Numbers lie 1 to {CountRule.MaxStep} apart, not {count.Step}.");
                if (number.Start is not (0 or 1))
                    fault($"{place}.start", $"Numbers start at 0 or 1, not {number.Start}.");
                if (number.Lead.Length > MaxLead || !number.Lead.All(char.IsAsciiLetter))
                    fault($"{place}.lead", $"A lead has at most {MaxLead} letters, A to Z.");
                break;
            case DateRule date when date.Pattern.Length > 16 || DateRule.Split(date.Pattern) is null:
                fault(
                    $"{place}.pattern",
                    $"“{Shown(date.Pattern)}” is no pattern of a date. Use yyyy or yy, MM and dd, each once, with “-”, “_”, “.” or "
                        + $"nothing between."
                );
                break;
            case StateRule state when state.Mark.Length is 0 or > 16 || !state.Mark.All(char.IsAsciiLetterOrDigit):
                fault($"{place}.mark", "A state's mark has 1 to 16 letters and digits.");
                break;
        }

        void Length(int length)
        {
            if (length is < 1 or > 100)
                fault($"{place}.maxLength", $"Words have room for 1 to 100 characters, not {length}.");
        }

        void Joiner(string joiner)
        {
            if (!Marks.Contains(joiner))
                fault($"{place}.joiner", $"Words are joined by “_”, “-”, “.” or nothing, not by “{Shown(joiner)}”.");
        }
    }

    private static void CheckForms(
        IReadOnlyList<Slot> slots,
        IReadOnlyDictionary<NameForm, IReadOnlyList<string>> forms,
        Action<string, string> fault
    )
    {
        if (forms.Count == 0)
            fault("forms", "A convention has at least one form.");
        foreach (var (form, labels) in forms)
        {
            var place = $"forms.{ConventionFile.KeyOf(form)}";
            if (labels.Count == 0)
                fault(place, "A form has at least one slot.");
            var last = -1;
            for (var i = 0; i < labels.Count; i++)
            {
                var at = slots.ToList().FindIndex(s => s.Label == labels[i]);
                if (at < 0)
                {
                    fault($"{place}[{i}]", $"There is no slot “{Shown(labels[i])}”.");
                    continue;
                }
                if (at == last || labels.Take(i).Contains(labels[i]))
                    fault($"{place}[{i}]", $"The form has “{labels[i]}” twice.");
                else if (at < last)
                    fault($"{place}[{i}]", $"“{labels[i]}” stands before “{slots[last].Label}” in the convention, and so in every form.");
                else
                    last = at;
                if (form == NameForm.Current && Changes(slots[at].Rule))
                    fault(
                        $"{place}[{i}]",
                        $"The current form cannot have the {slots[at].Rule.Kind} “{labels[i]}”: it names what other files refer to, "
                            + $"and must not change while the piece is worked on."
                    );
            }
        }
    }

    private static void CheckList(string name, CodeList list, IReadOnlyList<Slot> slots, string filler, Action<string, string> fault)
    {
        var place = $"lists.{Shown(name)}";
        if (list.Codes.Count == 0)
            fault(place, "The list is empty, so no name could be legal. Add a code, or take the slot out.");
        if (list.Codes.Count > MaxCodes)
            fault(place, $"A list has at most {MaxCodes:N0} codes; this one has {list.Codes.Count:N0}.");
        var joins = slots.Select(s => s.Join).Where(j => j.Length > 0).ToHashSet();
        var known = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        for (var i = 0; i < list.Codes.Count; i++)
        {
            var (code, meaning) = list.Codes[i];
            var at = $"{place}[{i}].code";
            if (joins.FirstOrDefault(code.Contains) is { } join)
                fault(at, $"The code “{Shown(code)}” contains “{join}”, which joins slots here, so names with it could not be read.");
            else if (!CodeRule.IsCode(code))
                fault(at, $"A code has 1 to {CodeRule.MaxLength} letters and digits, with hyphens inside; “{Shown(code)}” does not.");
            else if (name == Convention.HandList && !HandRule.AreInitials(code))
                fault(at, $"A hand is 2 to 4 capitals; “{code}” is not.");
            else if (filler.Length > 0 && code.Equals(filler, StringComparison.OrdinalIgnoreCase))
                fault(at, $"“{code}” is the filler, which says that a code is not known yet.");
            else if (!known.TryAdd(code, code))
                fault(at, $"“{code}” and “{known[code]}” are one code, or differ only in case, which file systems may not tell apart.");
            if (meaning.Length > MaxMeaning)
                fault($"{place}[{i}].meaning", $"A meaning has at most {MaxMeaning} characters.");
        }
    }

    private static bool IsLabel(string label) =>
        label.Length is >= 1 and <= MaxLabel
        && char.IsAsciiLetterLower(label[0])
        && label.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c == '-');

    private static string Shown(string text) => text.Length <= 40 ? text : text[..40] + "…";
}
