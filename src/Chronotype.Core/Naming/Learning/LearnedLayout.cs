namespace Chronotype.Core.Naming.Learning;

/// <summary>
/// The slots that one group of names showed, and what other names add to them: a mark that is there or is not, an alt, a form
/// without a version, words that take more than one field.
/// </summary>
internal sealed class LearnedLayout(char mark)
{
    private const int MostAdditions = 6;

    private static readonly HashSet<string> Stages = new(StringComparer.OrdinalIgnoreCase)
    {
        "sketch",
        "rough",
        "draft",
        "layout",
        "ink",
        "inks",
        "line",
        "lines",
        "clean",
        "colour",
        "color",
        "flat",
        "flats",
        "paint",
        "comp",
        "block",
        "blocking",
        "anim",
        "render",
        "edit",
        "mix",
        "premix",
        "final",
        "proof",
        "rev",
        "wip",
        "appr",
    };

    private sealed record Field(Slot Slot, ColumnGuess Guess, IReadOnlyCollection<string> Texts);

    private readonly List<Field> fields = [];
    private int fitting;
    private List<(Fit Fit, int Count)> additions = [];

    public IReadOnlyList<Slot> Slots => [.. fields.Select(f => f.Slot)];

    public void Add(ColumnGuess guess, IReadOnlyDictionary<string, int> texts) =>
        fields.Add(new(new Slot($"slot{fields.Count}", guess.Rule, fields.Count == 0 ? "" : mark.ToString()), guess, [.. texts.Keys]));

    /// <summary>Tells which of the numbers is the version, and makes the others numbers of scenes, shots, tracks or pages.</summary>
    /// <param name="rows">The names that have exactly these fields.</param>
    public void TellNumbers(IReadOnlyCollection<NameTable.Row> rows)
    {
        var numbers = Enumerable.Range(0, fields.Count).Where(i => fields[i].Guess.Rule is VersionRule).ToList();
        string Lead(int i) => ((VersionRule)fields[i].Guess.Rule).Lead;
        var others = Enumerable
            .Range(0, fields.Count)
            .Where(i => !(fields[i].Guess.Codes is { } codes && codes.All(HandRule.AreInitials)) && fields[i].Guess.Rule is not DateRule)
            .ToList();
        // Where two climb alike, what is written before them tells, and then which stands last.
        var version = numbers
            .Where(i => ClimbingNumber.Counted(Lead(i)) is null)
            .OrderByDescending(i =>
                (numbers.Count == 1 ? 0 : Math.Round(ClimbingNumber.Share(rows, i, [.. others.Where(o => o != i)], Lead(i)), 1))
                + (ClimbingNumber.IsVersion(Lead(i)) ? 1 : 0)
            )
            .ThenByDescending(i => i)
            .Select(i => (int?)i)
            .FirstOrDefault();
        foreach (var i in numbers.Where(i => i != version))
        {
            var rule = new CountRule(((VersionRule)fields[i].Guess.Rule).Width, Lead(i), ClimbingNumber.Step(fields[i].Texts, Lead(i)));
            var automaton = ColumnGuess.AutomatonOf(rule);
            fields[i] = fields[i] with
            {
                Slot = fields[i].Slot with { Rule = rule },
                Guess = fields[i].Guess with { Rule = rule, Holds = t => automaton.Holds(t) },
            };
        }
    }

    /// <summary>Gives every slot its likely label, tells hands from codes, and finds the words that the pieces are called by.</summary>
    public void Settle()
    {
        if (!fields.Exists(f => f.Guess.Rule is WordsRule))
            MakeWords();
        var version = fields.FindIndex(f => f.Guess.Rule is VersionRule);
        var words = fields.FindIndex(f => f.Guess.Rule is WordsRule);
        for (var i = 1; i < fields.Count; i++)
        {
            var besideVersion = version >= 0 && Math.Abs(i - version) == 1;
            if (
                fields[i].Guess.Codes is { } codes
                && codes.Count(HandRule.AreInitials) >= codes.Count * 0.9
                && codes.Average(c => c.Length) <= 3
                && (besideVersion || (words >= 0 && i > words))
            )
            {
                fields[i] = fields[i] with
                {
                    Slot = fields[i].Slot with { Rule = new HandRule() },
                    Guess = fields[i].Guess with { Holds = HandRule.AreInitials },
                };
                break;
            }
        }
        for (var i = 0; i < fields.Count; i++)
        {
            var label = Label(i, fields.Take(i).Select(f => f.Slot.Label).ToList());
            var slot = fields[i].Slot with { Label = label };
            fields[i] = fields[i] with { Slot = slot.Rule is CodeRule ? slot with { Rule = new CodeRule(label) } : slot };
        }
    }

    /// <summary>Finds what the names of another pattern have in common with the slots.</summary>
    /// <returns>The names that stay unexplained.</returns>
    public List<string> Learn(IReadOnlyList<NameTable.Row> rows)
    {
        var least = Math.Max(2, rows.Count / 100);
        var frequent = rows.SelectMany(r => r.Fields).CountBy(f => f).Where(f => f.Value >= least).Select(f => f.Key).ToHashSet();
        var alignment = new FieldAlignment(fields.ConvertAll(f => f.Guess), frequent);
        var kinds = new Dictionary<Fit, List<string>>();
        var left = new List<string>();
        foreach (var row in rows)
        {
            if (alignment.FitOf(row.Fields) is not { } fit)
            {
                left.Add(row.Name);
                continue;
            }
            if (fit == Fit.Whole)
            {
                fitting++;
                continue;
            }
            if (!kinds.TryGetValue(fit, out var names))
                kinds[fit] = names = [];
            names.Add(row.Name);
        }
        foreach (var (fit, names) in kinds.OrderByDescending(k => k.Value.Count))
        {
            if (names.Count < least || additions.Count == MostAdditions)
                left.AddRange(names);
            else
                additions.Add((fit, names.Count));
        }
        return left;
    }

    /// <summary>What the slots and the names under them cost, in bits.</summary>
    public double Bits
    {
        get
        {
            var explained = fitting + additions.Sum(a => a.Count);
            // What the others' texts cost is taken to be what those of the group do.
            return fields.Count * 20.0
                + fields.Sum(f => f.Guess.Bits) * Math.Max(1, (double)explained / Math.Max(1, fitting))
                + additions.Sum(a => 40 + a.Count * 3.0);
        }
    }

    /// <summary>The same without what was added last; null when nothing was.</summary>
    public LearnedLayout? Simpler()
    {
        if (additions.Count == 0)
            return null;
        var simpler = new LearnedLayout(mark) { additions = additions[..^1] };
        simpler.fields.AddRange(fields);
        return simpler;
    }

    /// <returns>Null when the parts make no convention.</returns>
    public Convention? Convention()
    {
        var slots = fields.ConvertAll(f => f.Slot);
        var own = slots.ConvertAll(s => s.Label);
        var working = FormOf(slots);
        var forms = new Dictionary<NameForm, HashSet<string>> { [working] = [.. own] };
        foreach (var (fit, _) in additions)
        {
            if (fit.Absorbs >= 0)
                Replace(slots, own[fit.Absorbs], s => s with { Rule = (WordsRule)s.Rule with { Joiner = mark.ToString() } });
            var labels = own.Where((_, i) => (fit.Skipped >> i & 1) == 0).ToList();
            if (fit.NewAt >= 0)
                labels.Add(Insert(slots, own, fit));
            if (fit.Skipped == 0 && (fit.NewAt < 0 || fit.NewKind is "state" or "line"))
                forms[working].UnionWith(labels);
            else if (FormOf([.. slots.Where(s => labels.Contains(s.Label))]) is var form && forms.TryAdd(form, [.. labels])) { }
            else if (System.Numerics.BitOperations.PopCount(fit.Skipped) == 1 && fit.NewAt < 0)
                Replace(slots, own[System.Numerics.BitOperations.TrailingZeroCount(fit.Skipped)], s => s with { Optional = true });
        }
        var ordered = forms.ToDictionary(f => f.Key, f => (IReadOnlyList<string>)[.. slots.Select(s => s.Label).Where(f.Value.Contains)]);
        var lists = fields
            .Where(f => f.Slot.Rule is CodeRule)
            .ToDictionary(f => ((CodeRule)f.Slot.Rule).List, f => CodeList.Of(f.Guess.Codes!.Order(StringComparer.Ordinal)));
        var filler = lists.Values.Any(l =>
            l.Codes.Any(c => c.Code.Equals(Naming.Convention.UsualFiller, StringComparison.OrdinalIgnoreCase))
        )
            ? ""
            : Naming.Convention.UsualFiller;
        if (slots.Count > 0)
            slots[0] = slots[0] with { Join = "" };
        return ConventionRules.Check(slots, ordered, lists, filler).Count > 0 ? null : new Convention(slots, ordered, lists, filler);
    }

    public IReadOnlyDictionary<string, string> Why() =>
        fields.ToDictionary(
            f => f.Slot.Label,
            f =>
                f.Slot.Rule switch
                {
                    CodeRule => f.Guess.Codes!.Count == 1
                        ? $"always “{f.Guess.Codes[0]}”"
                        : $"{f.Guess.Codes.Count:N0} short texts that come again: {Some(f.Guess.Codes)}",
                    HandRule => $"two to four capitals beside the version or behind the words: {Some(f.Guess.Codes!)}",
                    WordsRule => $"{f.Texts.Count:N0} different texts, such as {Some(f.Texts.Where(f.Guess.Holds))}",
                    CountRule { Step: > 1 } count =>
                        $"numbers {(count.Lead.Length > 0 ? $"after “{count.Lead}” " : "")}in steps of {count.Step}, such as "
                            + $"{Some(f.Texts.Where(f.Guess.Holds))}",
                    NumberRule number =>
                        $"numbers {(number.Lead.Length > 0 ? $"after “{number.Lead}” " : "")}in {number.Width} digits, such as "
                            + $"{Some(f.Texts.Where(f.Guess.Holds))}",
                    DateRule date => $"days of the calendar written {date.Pattern}, such as {Some(f.Texts.Where(f.Guess.Holds))}",
                    _ => $"such as {Some(f.Texts.Where(f.Guess.Holds))}",
                }
        );

    private static string Some(IEnumerable<string> texts) => string.Join(", ", texts.Take(3));

    private static void Replace(List<Slot> slots, string label, Func<Slot, Slot> by)
    {
        var at = slots.FindIndex(s => s.Label == label);
        slots[at] = by(slots[at]);
    }

    private string Insert(List<Slot> slots, List<string> own, Fit fit)
    {
        SlotRule rule = fit.NewKind switch
        {
            "state" => new StateRule(fit.NewText),
            "milestone" => new MilestoneRule(fit.NewText.Count(char.IsAsciiDigit), fit.NewText.TrimEnd("0123456789".ToCharArray())),
            "date" => new DateRule(fit.NewText),
            _ => new LineRule(),
        };
        if (slots.FirstOrDefault(s => s.Rule == rule) is { } there)
            return there.Label;
        var label = Unique(fit.NewKind, slots.ConvertAll(s => s.Label));
        var at = fit.NewAt == own.Count ? slots.Count : slots.FindIndex(s => s.Label == own[fit.NewAt]);
        slots.Insert(at, new Slot(label, rule, mark.ToString()));
        return label;
    }

    private static NameForm FormOf(IReadOnlyList<Slot> slots) =>
        slots.Any(s => s.Rule is MilestoneRule) ? NameForm.Milestone
        : slots.Any(s => s.Rule is VersionRule) ? NameForm.Working
        : slots.Any(s => s.Rule is StateRule or DateRule) ? NameForm.Master
        : slots.Any(s => ConventionRules.Changes(s.Rule)) ? NameForm.Output
        : NameForm.Current;

    // A studio's pieces are called by words: the field that varies most among the longest.
    private void MakeWords()
    {
        var at = -1;
        for (var i = 0; i < fields.Count; i++)
        {
            if (fields[i].Guess.Codes is { } codes && codes.All(c => !c.Any(char.IsAsciiLetterUpper)) && (at < 0 || Weight(i) > Weight(at)))
                at = i;
        }
        if (at < 0)
            return;
        var rule = new WordsRule();
        var automaton = ColumnGuess.AutomatonOf(rule);
        fields[at] = fields[at] with
        {
            Slot = fields[at].Slot with { Rule = rule },
            Guess = fields[at].Guess with { Rule = rule, Holds = t => automaton.Holds(t), Codes = null },
        };

        double Weight(int i) => fields[i].Guess.Codes!.Count * fields[i].Guess.Codes!.Average(c => c.Length);
    }

    private string Label(int at, List<string> taken) =>
        Unique(
            fields[at].Slot.Rule switch
            {
                CodeRule when fields[at].Guess.Codes!.Count(Stages.Contains) * 2 >= fields[at].Guess.Codes!.Count => taken.Contains(
                    "function"
                )
                    ? "stage"
                    : "function",
                CodeRule when fields[at].Guess.Codes!.Count(c => c.Any(char.IsAsciiLetterUpper)) * 2 > fields[at].Guess.Codes!.Count =>
                    taken.Contains("client") ? "project" : "client",
                CodeRule => taken.Contains("function") ? "part" : "function",
                CountRule count => ClimbingNumber.Counted(count.Lead) ?? "number",
                WordsRule => taken.Contains("subject") ? "detail" : "subject",
                var rule => rule.Kind,
            },
            taken
        );

    private static string Unique(string label, IReadOnlyCollection<string> taken)
    {
        if (!taken.Contains(label))
            return label;
        for (var n = 2; ; n++)
        {
            if (!taken.Contains($"{label}-{n}"))
                return $"{label}-{n}";
        }
    }
}
