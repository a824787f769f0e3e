using Chronotype.Core.Naming.Checking;

namespace Chronotype.Core.Naming.Renaming;

/// <summary>What names of one convention become under another.</summary>
/// <param name="Renames">Each name that changes.</param>
/// <param name="Same">Names that both conventions have.</param>
/// <param name="Unread">Names that are not of the first convention, and stay as they are.</param>
/// <param name="Obstacles">Names that the second convention has no place for.</param>
public sealed record NameTranslation(
    IReadOnlyList<Rename> Renames,
    IReadOnlyList<string> Same,
    IReadOnlyList<string> Unread,
    IReadOnlyList<RenameObstacle> Obstacles
)
{
    /// <param name="from">The convention that the names are of.</param>
    /// <param name="to">The one that they are to be of.</param>
    /// <param name="names">The names of one folder, each once.</param>
    /// <param name="known">What is known beside a name, for slots that only the second convention has; null for nothing.</param>
    public static NameTranslation Between(
        Convention from,
        Convention to,
        IEnumerable<string> names,
        Func<string, NameKnowledge>? known = null
    )
    {
        List<Rename> renames = [];
        List<string> same = [],
            unread = [];
        List<RenameObstacle> obstacles = [];
        foreach (var name in names)
        {
            if (from.Grammar.Read(name) is not { } reading)
            {
                unread.Add(name);
                continue;
            }
            var (translated, fault) = Translate(reading, from, to, known?.Invoke(name) ?? NameKnowledge.Nothing);
            if (translated is null)
                obstacles.Add(new([name], $"“{name}” has no name under the new convention: {fault}"));
            else if (translated == name)
                same.Add(name);
            else
                renames.Add(new(name, translated));
        }
        return new(renames, same, unread, obstacles);
    }

    /// <summary>The renames in a safe order, or why there is none.</summary>
    public RenamePlan Plan() => Obstacles.Count > 0 ? new([], Obstacles) : RenamePlan.Of(Renames, Same.Concat(Unread));

    /// <summary>A name's values written under another convention, in the same form; slots are the same where their labels are.</summary>
    /// <returns>The name, or the sentence that says what stands in its way.</returns>
    public static (string? Name, string? Fault) Translate(NameReading reading, Convention from, Convention to, NameKnowledge known)
    {
        var forms = reading.Forms.Where(to.Has).ToList();
        if (forms.Count == 0)
            return (null, $"it has no {ConventionFile.KeyOf(reading.Form)} form.");
        var values = new Dictionary<string, string>();
        foreach (var (label, value) in reading.Values())
        {
            // Where both conventions have a filler, what stands open stays open under the new one's.
            values[label] = value == from.Filler && from.Filler.Length > 0 && reading.Pending.Contains(label) ? to.Filler : value;
        }
        foreach (var slot in to.Form(forms[0]))
        {
            if (values.GetValueOrDefault(slot.Label, "").Length > 0)
                continue;
            var value = known.Values.GetValueOrDefault(slot.Label, "");
            if (value.Length == 0 && slot.Rule is DateRule date && known.FileDate is { } day)
                value = day.ToString(date.IsMonth ? "yyyy-MM" : "yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture);
            if (value.Length == 0 && !slot.MayBeAbsent)
                value = to.Filler;
            values[slot.Label] = value;
        }
        var lost = reading.Segments.FirstOrDefault(s => !to.Form(forms[0]).Any(t => t.Label == s.Label) && IsTold(s.Label, from));
        if (lost is not null)
            return (null, $"its {ConventionFile.KeyOf(forms[0])} form has no {lost.Label}, which tells versions and lines apart.");
        var (name, faults) = to.Format(forms[0], values, reading.Extension);
        if (name is null)
            return (null, faults[0].Message);
        var text = name.ToString();
        return text.Length > NameGrammar.MaxLength
                ? (null, $"it would have {text.Length:N0} characters; file systems take {NameGrammar.MaxLength}.")
            : to.Grammar.Read(text) is null ? (null, $"“{text}” would not be read back.")
            : (text, null);
    }

    private static bool IsTold(string label, Convention from) => from.Slots.First(s => s.Label == label).Rule is NumberRule or LineRule;
}
