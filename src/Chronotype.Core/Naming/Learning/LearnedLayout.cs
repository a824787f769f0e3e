namespace Chronotype.Core.Naming;

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

    /// <summary>What a field's text may be: which slots hold it, as bits, and which new one it may show.</summary>
    private readonly record struct Sort(uint Holds, string NewKind, string NewText);

    /// <summary>How the fields of a name stand to the slots.</summary>
    /// <param name="Skipped">The slots that it lacks, as bits.</param>
    /// <param name="Absorbs">The words that take more than one field; -1 for none.</param>
    /// <param name="NewAt">Before which slot a new one stands; -1 for none.</param>
    private readonly record struct Fit(uint Skipped, int Absorbs, int NewAt, string NewKind, string NewText);

    private readonly List<Field> fields = [];
    private static readonly Fit Whole = new(0, -1, -1, "", "");

    private readonly Dictionary<string, char> sortOf = [];
    private readonly List<Sort> sorts = [];
    private readonly Dictionary<Sort, char> numbers = [];
    private readonly HashSet<string> frequent = [];
    private readonly Dictionary<string, Fit?> known = [];
    private int fitting;
    private List<(Fit Fit, int Count)> additions = [];

    public IReadOnlyList<Slot> Slots => [.. fields.Select(f => f.Slot)];

    public void Add(ColumnGuess guess, IReadOnlyDictionary<string, int> texts) =>
        fields.Add(new(new Slot($"slot{fields.Count}", guess.Rule, fields.Count == 0 ? "" : mark.ToString()), guess, [.. texts.Keys]));

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
        frequent.UnionWith(rows.SelectMany(r => r.Fields).CountBy(f => f).Where(f => f.Value >= least).Select(f => f.Key));
        var kinds = new Dictionary<Fit, List<string>>();
        var left = new List<string>();
        foreach (var row in rows)
        {
            if (FitOf(row.Fields) is not { } fit)
            {
                left.Add(row.Name);
                continue;
            }
            if (fit == Whole)
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

    // Names whose fields are of the same sorts are laid out alike, and there are few sorts.
    private Fit? FitOf(IReadOnlyList<string> row)
    {
        if (row.Count > 2 * fields.Count + 2 || fields.Count > ConventionRules.MaxSlots)
            return null;
        Span<char> key = stackalloc char[row.Count];
        for (var i = 0; i < row.Count; i++)
        {
            if (!sortOf.TryGetValue(row[i], out key[i]))
                sortOf[row[i]] = key[i] = Number(SortOf(row[i]));
        }
        var found = known.GetAlternateLookup<ReadOnlySpan<char>>();
        return found.TryGetValue(key, out var fit) ? fit : found[key] = Align([.. key.ToArray().Select(k => sorts[k])]);
    }

    private char Number(Sort sort)
    {
        if (numbers.TryGetValue(sort, out var known))
            return known;
        sorts.Add(sort);
        return numbers[sort] = (char)(sorts.Count - 1);
    }

    private Sort SortOf(string text)
    {
        var holds = 0u;
        for (var j = 0; j < fields.Count; j++)
            holds |= fields[j].Guess.Holds(text) ? 1u << j : 0;
        return KindOf(text) is var (kind, shown) ? new(holds, kind, shown) : new(holds, "", "");
    }

    // The cheapest way to lay a name's fields along the slots: one left out, one more put in, or words that take several.
    private Fit? Align(IReadOnlyList<Sort> row)
    {
        const int far = 1000,
            skip = 2,
            absorb = 2,
            add = 3,
            most = 9;
        var (n, m) = (row.Count, fields.Count);
        var cost = new (int Cost, Fit Fit)[n + 1, m + 1, 2];
        for (var i = 0; i <= n; i++)
        for (var j = 0; j <= m; j++)
        for (var a = 0; a < 2; a++)
            cost[i, j, a] = (far, default);
        cost[0, 0, 0] = (0, Whole);
        void Reach(int i, int j, int a, int total, Fit fit)
        {
            if (total < cost[i, j, a].Cost)
                cost[i, j, a] = (total, fit);
        }
        for (var i = 0; i <= n; i++)
        {
            for (var j = 0; j <= m; j++)
            {
                for (var a = 0; a < 2; a++)
                {
                    var (sofar, fit) = cost[i, j, a];
                    if (sofar > most)
                        continue;
                    if (j < m)
                        Reach(i, j + 1, a, sofar + skip, fit with { Skipped = fit.Skipped | 1u << j });
                    if (i == n)
                        continue;
                    if (j < m && (row[i].Holds >> j & 1) != 0)
                        Reach(i + 1, j + 1, a, sofar, fit);
                    if (
                        j > 0
                        && (fit.Skipped >> (j - 1) & 1) == 0
                        && fields[j - 1].Guess.Rule is WordsRule
                        && fit.NewAt != j
                        && (fit.Absorbs < 0 || fit.Absorbs == j - 1)
                        && (row[i].Holds >> (j - 1) & 1) != 0
                    )
                        Reach(i + 1, j, a, sofar + (fit.Absorbs < 0 ? absorb : 0), fit with { Absorbs = j - 1 });
                    if (a == 0 && row[i].NewKind.Length > 0)
                        Reach(i + 1, j, 1, sofar + add, fit with { NewAt = j, NewKind = row[i].NewKind, NewText = row[i].NewText });
                }
            }
        }
        var (least, best) = cost[n, m, 0].Cost <= cost[n, m, 1].Cost ? cost[n, m, 0] : cost[n, m, 1];
        return least <= most && System.Numerics.BitOperations.PopCount(best.Skipped) < m ? best : null;
    }

    // What a field that no slot takes may be.
    private (string Kind, string Text)? KindOf(string text)
    {
        if (text.Length is 0 or > 20 || !text.All(c => char.IsAsciiLetterOrDigit(c) || c == '-'))
            return null;
        var lead = text.TrimEnd("0123456789".ToCharArray());
        if (lead.Length < text.Length && text.Length - lead.Length <= 3 && lead.ToUpperInvariant() is "M" or "MS")
            return ("milestone", lead + new string('0', text.Length - lead.Length));
        if (text.Length == 8 && text.All(char.IsAsciiDigit))
            return ("date", "yyyyMMdd");
        if (text.All(char.IsAsciiLetterUpper) && text.Length is >= 2 and <= 16 && frequent.Contains(text))
            return ("state", text);
        return
            text.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c == '-')
            && char.IsAsciiLetterLower(text[0])
            && text[^1] != '-'
            ? ("line", "")
            : null;
    }

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
