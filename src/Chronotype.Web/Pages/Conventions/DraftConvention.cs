using System.Globalization;
using System.Text.Json.Nodes;
using Chronotype.Core.Naming;
using Chronotype.Web.Words;

namespace Chronotype.Web.Pages.Conventions;

/// <summary>One slot as it is being written: any text in any setting.</summary>
public sealed class DraftSlot
{
    public string Label { get; set; } = "";
    public string Kind { get; set; } = "words";
    public string Join { get; set; } = "_";
    public bool Optional { get; set; }
    public Dictionary<string, string> Settings { get; } = [];
}

/// <summary>A convention as it is being written on the screen. It may be wrong in any way; <see cref="Read"/> says how.</summary>
public sealed class DraftConvention
{
    /// <summary>The kinds in the order they are offered, each with its settings; those with a number are whole numbers.</summary>
    public static readonly IReadOnlyList<(string Kind, string Says, string[] Settings)> Kinds =
    [
        ("code", "a code from a list", ["list"]),
        ("words", "free words", ["case", "letters", "joiner", "maxLength"]),
        ("version", "version number", ["width", "start", "lead"]),
        ("number", "scene, shot, page", ["width", "lead", "step"]),
        ("line", "name of an alt", ["joiner", "maxLength"]),
        ("milestone", "milestone number", ["width", "lead"]),
        ("date", "date", ["pattern"]),
        ("hand", "initials", []),
        ("size", "size with its unit", []),
        ("state", "a mark or nothing", ["mark"]),
    ];

    public const int MaxSlots = ConventionRules.MaxSlots;

    private static readonly string[] Numbers = ["maxLength", "width", "start", "step"];

    public List<DraftSlot> Slots { get; } = [];

    /// <summary>The slots of each form, by their number.</summary>
    public Dictionary<NameForm, HashSet<int>> Forms { get; } = [];

    public string Filler { get; set; } = Convention.UsualFiller;

    /// <summary>Lists of codes that came with a file, as JSON; null where none did.</summary>
    public string? Lists { get; set; }

    public static DraftConvention Of(Convention convention, bool withLists = false) => Parse(ConventionFile.Write(convention, withLists))!;

    /// <returns>Null when the text is no object at all; what else is wrong with it is told by <see cref="Read"/>.</returns>
    public static DraftConvention? Parse(string json)
    {
        try
        {
            if (JsonNode.Parse(json) is not JsonObject root)
                return null;
            var draft = new DraftConvention { Filler = Text(root["filler"]), Lists = (root["lists"] as JsonObject)?.ToJsonString() };
            foreach (var node in (root["slots"] as JsonArray ?? []).OfType<JsonObject>().Take(MaxSlots))
            {
                var slot = new DraftSlot
                {
                    Label = Text(node["label"]),
                    Kind = Text(node["kind"]),
                    Join = Text(node["join"] ?? "_"),
                    Optional = Text(node["optional"]) == "true",
                };
                foreach (var setting in SettingsOf(slot.Kind))
                    if (node[setting] is { } value)
                        slot.Settings[setting] = Text(value);
                draft.Slots.Add(slot);
            }
            foreach (var (key, labels) in root["forms"] as JsonObject ?? [])
            {
                if (ConventionFile.FormOf(key) is { } form)
                    draft.Forms[form] =
                    [
                        .. (labels as JsonArray ?? []).Select(l => draft.Slots.FindIndex(s => s.Label == Text(l))).Where(i => i >= 0),
                    ];
            }
            return draft;
        }
        catch (Exception e) when (e is System.Text.Json.JsonException or InvalidOperationException or FormatException or ArgumentException)
        {
            return null;
        }
    }

    /// <summary>What the screen's form holds, with the step that its button asks for.</summary>
    public static DraftConvention From(IFormCollection fields)
    {
        if (Notice(fields["load"]) is { Length: > 0 and < ConventionFile.MaxBytes } loaded && Parse(loaded) is { } other)
            return other;
        var draft = new DraftConvention { Filler = fields["filler"].ToString().Trim(), Lists = ListsOf(fields["lists"].ToString()) };
        for (var i = 0; i < MaxSlots && fields.ContainsKey($"s.{i}.kind"); i++)
        {
            var slot = new DraftSlot
            {
                Label = fields[$"s.{i}.label"].ToString().Trim(),
                Kind = fields[$"s.{i}.kind"].ToString(),
                Join = fields[$"s.{i}.join"].ToString(),
                Optional = fields.ContainsKey($"s.{i}.optional"),
            };
            foreach (var setting in SettingsOf(slot.Kind))
                if (fields.TryGetValue($"s.{i}.{setting}", out var value))
                    slot.Settings[setting] = value.ToString().Trim();
            draft.Slots.Add(slot);
        }
        foreach (var form in Enum.GetValues<NameForm>())
        {
            var chosen = fields[$"f.{ConventionFile.KeyOf(form)}"]
                .Select(v => int.TryParse(v, CultureInfo.InvariantCulture, out var i) ? i : -1)
                .Where(i => i >= 0 && i < draft.Slots.Count)
                .ToHashSet();
            if (chosen.Count > 0)
                draft.Forms[form] = chosen;
        }
        draft.Do(Notice(fields["op"]));
        // What changes while a piece is worked on cannot stand in its current name, so it need not be taken out by hand.
        if (draft.Forms.TryGetValue(NameForm.Current, out var current))
            current.RemoveWhere(i => draft.Slots[i].Kind is "version" or "milestone" or "date" or "hand" or "state");
        if (current?.Count == 0)
            draft.Forms.Remove(NameForm.Current);
        return draft;
    }

    // A script's field and a button's may stand side by side; one of them says something.
    private static string Notice(Microsoft.Extensions.Primitives.StringValues values) =>
        values.LastOrDefault(v => !string.IsNullOrEmpty(v)) ?? "";

    public static IReadOnlyList<string> SettingsOf(string kind) => Kinds.FirstOrDefault(k => k.Kind == kind).Settings ?? [];

    /// <summary>One step: <c>add</c>, <c>remove:2</c>, <c>move:2:0</c>. Any other text does nothing.</summary>
    public void Do(string step)
    {
        var parts = step.Split(':');
        int At(int part) =>
            parts.Length > part && int.TryParse(parts[part], CultureInfo.InvariantCulture, out var at) && at >= 0 && at < Slots.Count
                ? at
                : -1;
        switch (parts[0])
        {
            case "add" when Slots.Count < MaxSlots:
                var number = Slots.Count;
                Slots.Add(
                    new DraftSlot
                    {
                        Label = Enumerable
                            .Range(1, MaxSlots + 1)
                            .Select(n => n == 1 ? "part" : $"part-{n}")
                            .First(l => !Slots.Exists(s => s.Label == l)),
                        Kind = "code",
                        Optional = true,
                    }
                );
                Slots[number].Settings["list"] = Slots[number].Label;
                foreach (var form in Forms.Values.Where(f => f.Count > 0))
                    form.Add(number);
                break;
            case "remove" when At(1) is var gone and >= 0:
                Slots.RemoveAt(gone);
                Renumber(i =>
                    i == gone ? -1
                    : i > gone ? i - 1
                    : i
                );
                break;
            case "move" when At(1) is var from and >= 0 && At(2) is var to and >= 0 && from != to:
                var slot = Slots[from];
                Slots.RemoveAt(from);
                Slots.Insert(to, slot);
                Renumber(i =>
                    i == from ? to
                    : from < to && i > from && i <= to ? i - 1
                    : from > to && i >= to && i < from ? i + 1
                    : i
                );
                break;
        }
    }

    /// <summary>The draft as a convention's file.</summary>
    public string ToJson()
    {
        var root = new JsonObject { ["chronotype"] = 1, ["filler"] = Filler };
        root["slots"] = new JsonArray([
            .. Slots.Select(s =>
            {
                var slot = new JsonObject { ["label"] = s.Label, ["kind"] = s.Kind };
                foreach (var (setting, value) in s.Settings)
                {
                    // A list that is not named is the label's; a number that is none is told as a fault of its place.
                    if (value.Length > 0 || setting is "joiner" or "lead")
                        slot[setting] =
                            Numbers.Contains(setting) && int.TryParse(value, CultureInfo.InvariantCulture, out var number) ? number : value;
                }
                slot["join"] = s.Join;
                if (s.Optional)
                    slot["optional"] = true;
                return (JsonNode)slot;
            }),
        ]);
        var forms = new JsonObject();
        foreach (var (form, chosen) in Forms.OrderBy(f => f.Key))
            forms[ConventionFile.KeyOf(form)] = new JsonArray([.. chosen.Order().Select(i => (JsonNode)Slots[i].Label)]);
        root["forms"] = forms;
        if (Lists is not null)
            root["lists"] = JsonNode.Parse(Lists);
        return root.ToJsonString();
    }

    /// <summary>The draft read as its file would be, with the studio's lists beside those that came with it.</summary>
    public ReadConvention Read(IReadOnlyDictionary<string, CodeList> studio)
    {
        var lists = studio.ToDictionary(l => l.Key, l => l.Value);
        foreach (var (name, codes) in OwnLists())
        {
            lists[name] = lists.TryGetValue(name, out var known)
                ? new CodeList([
                    .. known.Codes,
                    .. codes.Codes.Where(c => !known.Codes.Any(k => k.Code.Equals(c.Code, StringComparison.OrdinalIgnoreCase))),
                ])
                : codes;
        }
        var named = Slots
            .Where(s => s.Kind == "code")
            .Select(s => s.Settings.GetValueOrDefault("list") is { Length: > 0 } list ? list : s.Label)
            .Append(Convention.HandList)
            .ToHashSet();
        return ConventionFile.Read(ToJson(), lists.Where(l => named.Contains(l.Key)).ToDictionary(l => l.Key, l => l.Value));
    }

    /// <summary>The lists that came with a file.</summary>
    public IReadOnlyDictionary<string, CodeList> OwnLists()
    {
        if (Lists is null)
            return new Dictionary<string, CodeList>();
        // Read as a file of nothing else, so that the lists are read in one way only.
        var labels = ((JsonObject)JsonNode.Parse(Lists)!).Select(l => l.Key).ToList();
        if (labels.Count == 0)
            return new Dictionary<string, CodeList>();
        var file = new JsonObject
        {
            ["slots"] = new JsonArray([
                .. labels
                    .Take(MaxSlots)
                    .Select(
                        (l, i) =>
                            (JsonNode)
                                new JsonObject
                                {
                                    ["label"] = $"s{i}",
                                    ["kind"] = "code",
                                    ["list"] = l,
                                }
                    ),
            ]),
            ["forms"] = new JsonObject { ["working"] = new JsonArray("s0") },
            ["filler"] = "",
            ["lists"] = JsonNode.Parse(Lists),
        };
        return ConventionFile.Read(file.ToJsonString()).Convention?.Lists ?? new Dictionary<string, CodeList>();
    }

    private static string? ListsOf(string json)
    {
        try
        {
            return json.Length > 0 && JsonNode.Parse(json) is JsonObject { Count: > 0 } lists ? lists.ToJsonString() : null;
        }
        catch (Exception e) when (e is System.Text.Json.JsonException or InvalidOperationException or ArgumentException)
        {
            return null;
        }
    }

    private void Renumber(Func<int, int> by)
    {
        foreach (var (form, chosen) in Forms.ToList())
        {
            HashSet<int> moved = [.. chosen.Select(by).Where(i => i >= 0)];
            if (moved.Count > 0)
                Forms[form] = moved;
            else
                Forms.Remove(form);
        }
    }

    private static string Text(JsonNode? node) =>
        node is null ? ""
        : node.GetValueKind() == System.Text.Json.JsonValueKind.String ? node.GetValue<string>()
        : node.ToJsonString();
}
