using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;

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
}

/// <summary>One place in a name.</summary>
/// <param name="Label">What the slot says, in one word of the trade; unique in its convention.</param>
/// <param name="Rule">What it may hold.</param>
/// <param name="Join">The mark that joins it to the slot before: <c>_</c>, <c>-</c>, <c>.</c> or none.</param>
public sealed record Slot(string Label, SlotRule Rule, string Join = "_");

/// <summary>The studio's rule for names: ordered slots, the marks between them, and which of them each form has.</summary>
public sealed class Convention
{
    private readonly Dictionary<string, Slot> slots;
    private readonly Dictionary<NameForm, IReadOnlyList<Slot>> forms;

    /// <exception cref="ArgumentException">A label stands twice, or a form names a slot that is not there.</exception>
    public Convention(IReadOnlyList<Slot> slots, IReadOnlyDictionary<NameForm, IReadOnlyList<string>> forms)
    {
        Slots = slots;
        this.slots = slots.ToDictionary(s => s.Label);
        this.forms = forms.ToDictionary(
            f => f.Key,
            f => (IReadOnlyList<Slot>)f.Value.Select(label => this.slots.TryGetValue(label, out var slot)
                ? slot
                : throw new ArgumentException($"The {f.Key} form names the slot '{label}', which the convention does not have.")).ToList());
    }

    public IReadOnlyList<Slot> Slots { get; }

    /// <summary>The slots of one form, in the order of a name.</summary>
    public IReadOnlyList<Slot> Form(NameForm form) => forms[form];

    /// <summary>The rule of the version slot; a convention without one numbers from 1 in three digits.</summary>
    public VersionRule Version => Slots.Select(s => s.Rule).OfType<VersionRule>().FirstOrDefault() ?? new VersionRule();

    /// <summary>Writes a name in one form from the values of its slots.</summary>
    /// <param name="form">The form to write.</param>
    /// <param name="values">By label, as people know them: <c>"Moon pull"</c>, <c>"14"</c>. Values that the form lacks are passed over.</param>
    /// <param name="extension">With its dot, or empty; it is no slot and is not checked here.</param>
    public NameResult Format(NameForm form, IReadOnlyDictionary<string, string> values, string extension = "")
    {
        var segments = new List<NameSegment>();
        var faults = new List<NameFault>();
        foreach (var slot in forms[form])
        {
            if (!values.TryGetValue(slot.Label, out var value) || value.Length == 0)
            {
                faults.Add(new NameFault(slot.Label, $"The {slot.Label} is missing."));
                continue;
            }
            var (text, fault) = slot.Rule.Write(slot.Label, value);
            if (text is null) faults.Add(new NameFault(slot.Label, fault!));
            else segments.Add(new NameSegment(slot.Label, text, segments.Count == 0 ? "" : slot.Join));
        }
        return new NameResult(faults.Count == 0 ? new FormattedName(segments, extension) : null, faults);
    }

    /// <summary>The convention that a folder plan begins with: <c>client_subject_function_hand_version</c>.</summary>
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
            });
    }

    /// <summary>The convention as JSON, for a project's record. <see cref="FromJson"/> reads it back.</summary>
    public string ToJson() => JsonSerializer.Serialize(
        new Record(Slots, forms.ToDictionary(f => f.Key, f => f.Value.Select(s => s.Label).ToList())), Json);

    /// <exception cref="JsonException">The text is no convention.</exception>
    public static Convention FromJson(string json)
    {
        var record = JsonSerializer.Deserialize<Record>(json, Json) ?? throw new JsonException("A convention is an object, not null.");
        return new Convention(record.Slots, record.Forms.ToDictionary(f => f.Key, f => (IReadOnlyList<string>)f.Value));
    }

    private sealed record Record(IReadOnlyList<Slot> Slots, Dictionary<NameForm, List<string>> Forms);

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase), new SlotRuleJson() },
    };
}

/// <summary>One slot as it stands in a name, with the mark before it.</summary>
public sealed record NameSegment(string Label, string Text, string Join);

/// <summary>What is wrong with the value of one slot, in a sentence for the person who typed it.</summary>
public sealed record NameFault(string Slot, string Message);

/// <summary>A name, or the faults that stand in its way; exactly one of the two is there.</summary>
public sealed record NameResult(FormattedName? Name, IReadOnlyList<NameFault> Faults);

/// <summary>A legal name with its slots, so that it can be shown slot by slot.</summary>
public sealed record FormattedName(IReadOnlyList<NameSegment> Segments, string Extension)
{
    /// <summary>The name without its extension.</summary>
    public string Stem => Segments.Aggregate(new StringBuilder(), (b, s) => b.Append(s.Join).Append(s.Text)).ToString();

    public override string ToString() => Stem + Extension;
}
