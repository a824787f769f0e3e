using System.Globalization;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
using Chronotype.Core.Versions;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;

namespace Chronotype.Studio.Pieces;

/// <summary>The names of a piece under its project's convention.</summary>
public sealed class PieceNames
{
    private readonly Project record;
    private readonly IReadOnlyDictionary<string, string> own;

    private PieceNames(Convention convention, Project project, IReadOnlyDictionary<string, string> own) =>
        (Convention, record, this.own) = (convention, project, own);

    /// <param name="slots">By label, what the piece is called by: its subject, its function.</param>
    /// <param name="under">Null: the convention that the project holds.</param>
    public static PieceNames Of(Project project, IReadOnlyDictionary<string, string> slots, Convention? under = null) =>
        new(under ?? ConventionStore.Read(project.Convention), project, slots);

    public static PieceNames Of(Piece piece, Convention? under = null) => Of(piece.Project, SlotsOf(piece), under);

    public static IReadOnlyDictionary<string, string> SlotsOf(Piece piece) => RecordJson.Read<Dictionary<string, string>>(piece.Slots);

    public Convention Convention { get; }

    /// <summary>The alt whose names they are; empty for the main line.</summary>
    public string Alt { get; private init; } = "";

    /// <summary>The names of the same piece on one of its lines, so that no two lines ever share one.</summary>
    /// <param name="line">Its name; empty for the main line.</param>
    public PieceNames On(string line) => line == Alt ? this : new(Convention, record, own) { Alt = line };

    public NameResult Current(string extension = "") => Convention.Format(NameForm.Current, Values(NameForm.Current), extension);

    /// <param name="day">When it is kept, in the studio's own time.</param>
    public NameResult Working(string hand, VersionNumber number, DateOnly day, string extension) =>
        WithAlt(NameForm.Working, Convention.Format(NameForm.Working, Values(NameForm.Working, hand, number.Value, day: day), extension));

    /// <summary>A version's name without the alt's where that stands behind all others.</summary>
    /// <param name="name">With its extension.</param>
    /// <param name="alt">Empty for the main line.</param>
    public static string WithoutAlt(string name, string alt)
    {
        var (stem, behind) = (FileNames.Stem(name), $"_{alt}");
        return alt.Length > 0 && stem.EndsWith(behind, StringComparison.OrdinalIgnoreCase)
            ? stem[..^behind.Length] + FileNames.Extension(name)
            : name;
    }

    // A convention without a place for an alt's name has it behind all others.
    private NameResult WithAlt(NameForm form, NameResult result) =>
        Alt.Length == 0 || result.Name is not { } name || Convention.Form(form).Any(s => s.Rule is LineRule)
            ? result
            : new NameResult(Behind(name, "line", Alt), result.Faults);

    /// <param name="hand">Whose version is marked.</param>
    /// <param name="version">The version that is marked.</param>
    public NameResult Milestone(int number, VersionNumber version, string hand, DateOnly day, string extension) =>
        Convention.Format(NameForm.Milestone, Values(NameForm.Milestone, hand, version.Value, number, day), extension);

    /// <summary>What an output from a version is called.</summary>
    /// <param name="size">As it stands in names, such as <c>420x594mm</c>; for what has none, what tells it from others.</param>
    /// <returns>
    /// Under a convention without a form for outputs, or with one that has no place for what is not a size, the current name with that
    /// behind it.
    /// </returns>
    public FormattedName Output(string size, VersionNumber version, string hand, DateOnly day, string extension)
    {
        var isSize = SizeRule.IsSize(size);
        if (Convention.Has(NameForm.Output) && (isSize || !Convention.Form(NameForm.Output).Any(s => s.Rule is SizeRule)))
        {
            var values = Values(NameForm.Output, hand, version.Value, day: day);
            foreach (var slot in Convention.Form(NameForm.Output).Where(s => s.Rule is SizeRule))
                values[slot.Label] = size;
            if (WithAlt(NameForm.Output, Convention.Format(NameForm.Output, values, extension)).Name is { } name)
                return name;
        }
        var behind = Behind(Current(extension).Name!, isSize ? "size" : "recipe", size);
        return Alt.Length == 0 ? behind : Behind(behind, "line", Alt);
    }

    /// <summary>What a master is called, and the folder that it stands in where the convention names folders.</summary>
    /// <param name="day">When it is marked.</param>
    /// <returns>
    /// Under a convention without a form for masters, the current name with the mark and the day behind it. No folder where the convention
    /// has no form for folders.
    /// </returns>
    public (FormattedName Name, string? Folder) Master(VersionNumber version, string hand, DateOnly day, string extension)
    {
        var name =
            (Convention.Has(NameForm.Master) ? Of(NameForm.Master, extension) : null)
            ?? Behind(
                Behind(Current(extension).Name!, "state", new StateRule().Mark),
                "date",
                day.ToString("yyyyMMdd", CultureInfo.InvariantCulture)
            );
        // The folder says the same as the file in it.
        return (name, Convention.Has(NameForm.Master) && Convention.Has(NameForm.Folder) ? Of(NameForm.Folder, "")?.Stem : null);

        FormattedName? Of(NameForm form, string ending)
        {
            var values = Values(form, hand, version.Value, day: day);
            foreach (var slot in Convention.Form(form))
            {
                if (slot.Rule is StateRule state)
                    values[slot.Label] = state.Mark;
            }
            return Convention.Format(form, values, ending).Name;
        }
    }

    private static FormattedName Behind(FormattedName name, string label, string text) =>
        new([.. name.Segments, new NameSegment(label, text, "_", name.Stem.Length + 1)], name.Extension);

    /// <summary>A name of this piece that keeps what another name of it says of the version, the hand and the day.</summary>
    /// <param name="kept">By label, what the other name holds.</param>
    public NameResult Keeping(NameForm form, IReadOnlyDictionary<string, string> kept, string extension)
    {
        var values = Values(form);
        foreach (var slot in Convention.Form(form).Except(ConventionStore.OwnSlots(Convention)))
        {
            if (slot.Rule is not CodeRule && kept.TryGetValue(slot.Label, out var value))
                values[slot.Label] = value;
        }
        var result = Convention.Format(form, values, extension);
        return form == NameForm.Working ? WithAlt(form, result) : result;
    }

    /// <summary>What is known about a file that may be one of the piece's, for its name's repair.</summary>
    public NameKnowledge Known(string hand, VersionNumber next, DateOnly? fileDate) =>
        new(Values(NameForm.Working, hand, next.Value), fileDate);

    /// <summary>The number that the next keep gives.</summary>
    /// <param name="receivedName">Of the save that would be kept; a number in it counts when it is the piece's own name.</param>
    public VersionNumber Next(int? highest, string? receivedName = null) =>
        KeepRule.Number(
            highest is { } h ? new VersionNumber(h) : null,
            Convention.Version.Start,
            receivedName is null ? null : NumberByHand(receivedName)
        );

    /// <summary>The version that a file's name gives itself; null where it is not a version's name of this very piece.</summary>
    public VersionNumber? NumberByHand(string receivedName)
    {
        var name = FileNames.Received(receivedName);
        var place = Convention.Form(NameForm.Working).FirstOrDefault(s => s.Rule is LineRule);
        if (place is null && Alt.Length > 0)
        {
            var plain = WithoutAlt(name, Alt);
            if (plain == name)
                return null;
            name = plain;
        }
        if (Convention.Grammar.Read(name) is not { } reading || !reading.Forms.Contains(NameForm.Working))
            return null;
        var values = reading.Values();
        // A number of another line says nothing of this one.
        if (place is not null && !values.GetValueOrDefault(place.Label, "").Equals(Alt, StringComparison.OrdinalIgnoreCase))
            return null;
        return IsOwn(values) && int.TryParse(values[VersionLabel], CultureInfo.InvariantCulture, out var number)
            ? new VersionNumber(number)
            : null;
    }

    /// <summary>Whether what a name's slots hold is what this piece's current name holds.</summary>
    public bool IsOwn(IReadOnlyDictionary<string, string> values) =>
        Current().Name is { } current && Convention.Format(NameForm.Current, values).Name?.Stem == current.Stem;

    /// <summary>The label of the slot that holds the version's number.</summary>
    public string VersionLabel => Convention.Slots.First(s => s.Rule is VersionRule).Label;

    private Dictionary<string, string> Values(
        NameForm form,
        string hand = "",
        int? version = null,
        int? milestone = null,
        DateOnly? day = null
    )
    {
        var values = new Dictionary<string, string>();
        foreach (var slot in Convention.Form(form))
        {
            var value = slot.Rule switch
            {
                CodeRule { List: ConventionStore.ClientList } => record.Client.Code,
                CodeRule { List: ConventionStore.ProjectList } => record.Code,
                HandRule => hand,
                VersionRule => version?.ToString(CultureInfo.InvariantCulture),
                MilestoneRule => milestone?.ToString(CultureInfo.InvariantCulture),
                DateRule date => day?.ToString(date.IsMonth ? "yyyy-MM" : "yyyy-MM-dd", CultureInfo.InvariantCulture),
                LineRule => Alt,
                // A state is marked by the form that is for it alone.
                StateRule => "",
                _ => own.GetValueOrDefault(slot.Label),
            };
            // What is not known stands open; a name of the current form is not made before it is known.
            if (string.IsNullOrEmpty(value))
                value = slot.MayBeAbsent || form == NameForm.Current ? "" : Convention.Filler;
            values[slot.Label] = value;
        }
        return values;
    }
}
