using System.Text;

namespace Chronotype.Core.Naming;

/// <summary>Which slots a kind of name has.</summary>
public enum NameForm
{
    /// <summary>The stable name of a piece, which other files refer to: no version, no hand.</summary>
    Current,

    /// <summary>The name of a numbered version.</summary>
    Working,

    /// <summary>The name of a milestone's copy.</summary>
    Milestone,

    /// <summary>The name of the native, layered, final file.</summary>
    Master,

    /// <summary>The name of a copy for use, made from a version.</summary>
    Output,

    /// <summary>The name of a file as received.</summary>
    Original,

    /// <summary>The name of a bundle that leaves the studio.</summary>
    HandOff,

    /// <summary>The name of a project's folder; it has no extension.</summary>
    Folder,
}

/// <summary>One place in a name.</summary>
/// <param name="Label">What the slot says, in a word of the trade; unique in its convention.</param>
/// <param name="Rule">What it may hold.</param>
/// <param name="Join">
/// The mark that joins it to the slot before: <c>_</c>, <c>-</c>, <c>.</c> or none. The first slot of a name writes none.
/// </param>
/// <param name="Optional">Whether a name may go without it. Slots that may be absent by their kind need not say so.</param>
public sealed record Slot(string Label, SlotRule Rule, string Join = "_", bool Optional = false)
{
    /// <summary>Whether a name may lack it.</summary>
    public bool MayBeAbsent => Optional || Rule.MayBeAbsent;
}

/// <summary>The studio's rule for names: ordered slots, the marks between them, and which of them each form has.</summary>
public sealed class Convention
{
    /// <summary>The list that names the hands of the studio, where it keeps one.</summary>
    public const string HandList = "hand";

    /// <summary>What stands in a slot whose value is not known yet, unless the studio says otherwise.</summary>
    public const string UsualFiller = "tbd";

    private readonly Dictionary<NameForm, IReadOnlyList<Slot>> forms;
    private readonly Lazy<NameGrammar> grammar;

    /// <param name="slots">All slots of all forms, in the order in which they stand in a name.</param>
    /// <param name="forms">The labels of each form's slots, in the order of the slots; at least one form.</param>
    /// <param name="lists">The codes of each list; a slot whose list is not there takes any code.</param>
    /// <param name="filler">What stands for a value that is not known yet; empty for a convention without.</param>
    /// <exception cref="ArgumentException">The parts break a rule of <see cref="ConventionRules"/>.</exception>
    public Convention(
        IReadOnlyList<Slot> slots,
        IReadOnlyDictionary<NameForm, IReadOnlyList<string>> forms,
        IReadOnlyDictionary<string, CodeList>? lists = null,
        string filler = UsualFiller
    )
    {
        Slots = slots;
        Lists = lists ?? new Dictionary<string, CodeList>();
        Filler = filler;
        var faults = ConventionRules.Check(slots, forms, Lists, filler);
        if (faults.Count > 0)
            throw new ArgumentException(string.Join(" ", faults.Select(f => f.ToString())));
        this.forms = forms
            .OrderBy(f => f.Key)
            .ToDictionary(f => f.Key, f => (IReadOnlyList<Slot>)[.. slots.Where(s => f.Value.Contains(s.Label))]);
        grammar = new(() => GrammarOf([.. this.forms.Keys]));
    }

    /// <summary>All slots, in the order of a name.</summary>
    public IReadOnlyList<Slot> Slots { get; }

    /// <summary>The lists of codes, by their names.</summary>
    public IReadOnlyDictionary<string, CodeList> Lists { get; }

    /// <summary>What stands for a value that is not known yet; empty for none.</summary>
    public string Filler { get; }

    /// <summary>The forms that the convention has.</summary>
    public IEnumerable<NameForm> Forms => forms.Keys;

    /// <summary>The labels of each form's slots.</summary>
    public IReadOnlyDictionary<NameForm, IReadOnlyList<string>> Labels =>
        forms.ToDictionary(f => f.Key, f => (IReadOnlyList<string>)[.. f.Value.Select(s => s.Label)]);

    /// <summary>Whether the convention names files in a form.</summary>
    public bool Has(NameForm form) => forms.ContainsKey(form);

    /// <summary>The slots of one form, in the order of a name.</summary>
    /// <exception cref="KeyNotFoundException">The convention has no such form.</exception>
    public IReadOnlyList<Slot> Form(NameForm form) => forms[form];

    /// <summary>The rule of the version slot; a convention without one numbers from 1 in three digits.</summary>
    public VersionRule Version => Slots.Select(s => s.Rule).OfType<VersionRule>().FirstOrDefault() ?? new VersionRule();

    /// <summary>The names of all forms as one automaton.</summary>
    public NameGrammar Grammar => grammar.Value;

    /// <summary>The names of some forms as one automaton. It takes a while to make; keep it for many names.</summary>
    public NameGrammar GrammarOf(params IReadOnlyList<NameForm> some) => new([.. some.Select(f => (f, forms[f]))], Lists, Filler);

    /// <summary>The same convention with other lists of codes.</summary>
    public Convention With(IReadOnlyDictionary<string, CodeList> lists) => new(Slots, Labels, lists, Filler);

    /// <summary>The same convention, its versions beginning at 0 or at 1.</summary>
    public Convention StartingAt(int start) =>
        new(
            [.. Slots.Select(s => s.Rule is VersionRule version ? s with { Rule = version with { Start = start } } : s)],
            Labels,
            Lists,
            Filler
        );

    /// <summary>Writes a name in one form from the values of its slots.</summary>
    /// <param name="form">The form to write; one that the convention has.</param>
    /// <param name="values">
    /// By label, as people know them: <c>"Moon pull"</c>, <c>"14"</c>; the filler stands for a value that is not known yet, and a slot
    /// that may be absent may be missing or empty. Values that the form lacks are passed over.
    /// </param>
    /// <param name="extension">With its dot, or empty; it is no slot and is not checked here.</param>
    public NameResult Format(NameForm form, IReadOnlyDictionary<string, string> values, string extension = "")
    {
        var segments = new List<NameSegment>();
        var faults = new List<ValueFault>();
        var cuts = new List<ValueCut>();
        var at = 0;
        foreach (var slot in forms[form])
        {
            var value = values.GetValueOrDefault(slot.Label, "");
            if (value.Length == 0)
            {
                if (!slot.MayBeAbsent)
                    faults.Add(new ValueFault(slot.Label, $"The {slot.Label} is missing."));
                continue;
            }
            var (text, fault, room) = Write(slot, value);
            if (text is null)
                faults.Add(new ValueFault(slot.Label, fault!));
            else
            {
                if (room > 0)
                    cuts.Add(new ValueCut(slot.Label, text, room));
                var join = segments.Count == 0 ? "" : slot.Join;
                segments.Add(new NameSegment(slot.Label, text, join, at + join.Length));
                at += join.Length + text.Length;
            }
        }
        if (faults.Count == 0 && segments.Count == 0)
            faults.Add(new ValueFault(forms[form][0].Label, "A name has at least one slot."));
        return new NameResult(faults.Count == 0 ? new FormattedName(segments, extension) { Cuts = cuts } : null, faults);
    }

    private SlotText Write(Slot slot, string value)
    {
        if (value == Filler && !slot.Rule.MayBeAbsent)
            return SlotText.Of(value);
        var written = slot.Rule.Write(slot.Label, value);
        return written.Text is { } text && NameGrammar.ListOf(slot.Rule, Lists) is { } list && !list.Has(text)
            ? SlotText.Wrong($"The {slot.Label} “{text}” is not on its list.")
            : written;
    }

    /// <summary>The convention that a studio begins with: <c>client_subject_function_hand_version</c>.</summary>
    /// <param name="start">The first version's number: 0 or 1.</param>
    public static Convention ForPlans(int start = 1)
    {
        ArgumentOutOfRangeException.ThrowIfGreaterThan((uint)start, 1u, nameof(start));
        return new Convention(
            [
                new Slot("client", new CodeRule("client"), ""),
                new Slot("subject", new WordsRule()),
                new Slot("function", new CodeRule("function")),
                new Slot("hand", new HandRule()),
                new Slot("version", new VersionRule(Start: start)),
                new Slot("milestone", new MilestoneRule()),
            ],
            new Dictionary<NameForm, IReadOnlyList<string>>
            {
                [NameForm.Current] = ["client", "subject", "function"],
                [NameForm.Working] = ["client", "subject", "function", "hand", "version"],
                [NameForm.Milestone] = ["client", "subject", "function", "milestone"],
            }
        );
    }
}

/// <summary>What is wrong with the value of one slot, in a sentence for the person who typed it.</summary>
public sealed record ValueFault(string Slot, string Message);

/// <summary>Words that a slot had no room for.</summary>
/// <param name="Slot">The slot's label.</param>
/// <param name="Text">What is left of them.</param>
/// <param name="Room">The most characters of the slot.</param>
public sealed record ValueCut(string Slot, string Text, int Room);

/// <summary>A name, or the faults that stand in its way; exactly one of the two is there.</summary>
public sealed record NameResult(FormattedName? Name, IReadOnlyList<ValueFault> Faults);

/// <summary>A legal name with its slots, so that it can be shown slot by slot.</summary>
public sealed record FormattedName(IReadOnlyList<NameSegment> Segments, string Extension)
{
    /// <summary>The slots whose words were cut to what they have room for; none of most names.</summary>
    public IReadOnlyList<ValueCut> Cuts { get; init; } = [];

    /// <summary>The name without its extension.</summary>
    public string Stem => Segments.Aggregate(new StringBuilder(), (b, s) => b.Append(s.Join).Append(s.Text)).ToString();

    /// <inheritdoc />
    public override string ToString() => Stem + Extension;
}
