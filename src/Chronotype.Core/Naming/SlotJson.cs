using System.Text.Json;
using System.Text.Json.Nodes;

namespace Chronotype.Core.Naming;

/// <summary>A slot in a convention's file: its label, its kind, the kind's own settings and its mark, in one object.</summary>
internal static class SlotJson
{
    private static readonly string[] Kinds = ["code", "words", "version", "number", "line", "milestone", "date", "hand", "size", "state"];

    public static void Write(Utf8JsonWriter json, Slot slot)
    {
        json.WriteStartObject();
        json.WriteString("label", slot.Label);
        json.WriteString("kind", slot.Rule.Kind);
        switch (slot.Rule)
        {
            case CodeRule code:
                json.WriteString("list", code.List);
                break;
            case WordsRule words:
                json.WriteNumber("maxLength", words.MaxLength);
                json.WriteString("joiner", words.Joiner);
                json.WriteString("case", JsonNamingPolicy.CamelCase.ConvertName(words.Case.ToString()));
                if (words.Letters != Scripts.None)
                    json.WriteString("letters", WordLetters.Write(words.Letters));
                break;
            case LineRule line:
                json.WriteNumber("maxLength", line.MaxLength);
                json.WriteString("joiner", line.Joiner);
                break;
            case NumberRule number:
                json.WriteNumber("width", number.Width);
                if (number is VersionRule)
                    json.WriteNumber("start", number.Start);
                json.WriteString("lead", number.Lead);
                if (number is CountRule count)
                    json.WriteNumber("step", count.Step);
                break;
            case DateRule date:
                json.WriteString("pattern", date.Pattern);
                break;
            case StateRule state:
                json.WriteString("mark", state.Mark);
                break;
        }
        json.WriteString("join", slot.Join);
        if (slot.Optional)
            json.WriteBoolean("optional", true);
        json.WriteEndObject();
    }

    /// <returns>Null where the place holds no slot; the place then has its fault.</returns>
    public static Slot? Read(JsonPlace place)
    {
        if (!place.IsObject("A slot is an object with a label and a kind."))
            return null;
        var label = place.Text("label");
        var kind = place.Text("kind");
        var join = place.Text("join", "_");
        var optional = place.Flag("optional");
        SlotRule? rule = null;
        switch (kind)
        {
            case "code":
                Only("list");
                rule = new CodeRule(place.Text("list", label));
                break;
            case "words":
                Only("maxLength", "joiner", "case", "letters");
                var wordCase = place.Text("case", "lower");
                if (wordCase is not ("lower" or "upper" or "title"))
                    place.Child("case").Fault($"The case of words is lower, upper or title, not “{wordCase}”.");
                var letters = place.Text("letters", "plain");
                var scripts = WordLetters.Read(letters);
                if (scripts is null)
                    place
                        .Child("letters")
                        .Fault(
                            $"Letters are plain, any, or codes of scripts with spaces between ({string.Join(", ", WordLetters.All.Select(s => s.Code))}), not “{letters}”."
                        );
                rule = new WordsRule(
                    place.Int("maxLength", 40),
                    place.Text("joiner", "-"),
                    Enum.TryParse<WordCase>(wordCase, ignoreCase: true, out var c) ? c : WordCase.Lower,
                    scripts ?? Scripts.None
                );
                break;
            case "line":
                Only("maxLength", "joiner");
                rule = new LineRule(place.Int("maxLength", 20), place.Text("joiner", "-"));
                break;
            case "version":
                Only("width", "start", "lead");
                rule = new VersionRule(place.Int("width", 3), place.Int("start", 1), place.Text("lead", ""));
                break;
            case "number":
                Only("width", "lead", "step");
                rule = new CountRule(place.Int("width", 3), place.Text("lead", ""), place.Int("step", 1));
                break;
            case "milestone":
                Only("width", "lead");
                rule = new MilestoneRule(place.Int("width", 2), place.Text("lead", "M"));
                break;
            case "date":
                Only("pattern");
                rule = new DateRule(place.Text("pattern", "yyyyMMdd"));
                break;
            case "hand":
                Only();
                rule = new HandRule();
                break;
            case "size":
                Only();
                rule = new SizeRule();
                break;
            case "state":
                Only("mark");
                rule = new StateRule(place.Text("mark", "MASTER"));
                break;
            default:
                if (place.HasText("kind"))
                    place.Child("kind").Fault($"There is no kind “{kind}”. The kinds are {string.Join(", ", Kinds)}.");
                break;
        }
        return rule is null ? null : new Slot(label, rule, join, optional);

        void Only(params string[] settings) => place.Only(["label", "kind", "join", "optional", .. settings]);
    }
}

/// <summary>A place in a JSON document that is read with care: what is not as it should be becomes a fault of that place.</summary>
internal sealed class JsonPlace(JsonNode? node, string path, List<ConventionFault> faults)
{
    public bool IsText => node?.GetValueKind() == JsonValueKind.String;

    public bool HasText(string key) => (node as JsonObject)?[key]?.GetValueKind() == JsonValueKind.String;

    public void Fault(string message) => faults.Add(new ConventionFault(path, message));

    public bool IsObject(string otherwise)
    {
        if (node is JsonObject)
            return true;
        Fault(otherwise);
        return false;
    }

    public JsonPlace Child(string key) => new((node as JsonObject)?[key], path.Length == 0 ? key : $"{path}.{key}", faults);

    public void Only(params IReadOnlyList<string> keys)
    {
        foreach (var (key, _) in (JsonObject)node!)
        {
            if (!keys.Contains(key))
                Child(key).Fault($"There is no setting “{key}” here. The settings are {string.Join(", ", keys)}.");
        }
    }

    public string Text()
    {
        if (IsText)
            return node!.GetValue<string>();
        Fault("This is a text in quotes.");
        return "";
    }

    /// <param name="key">The property's name.</param>
    /// <param name="usual">What it is where nothing is said; null where something must be.</param>
    public string Text(string key, string? usual = null)
    {
        if (node is JsonObject all && all.ContainsKey(key))
            return Child(key).Text();
        if (usual is not null)
            return usual;
        Child(key).Fault("This is missing.");
        return "";
    }

    public int Int(string key, int usual)
    {
        if (node is not JsonObject all || !all.ContainsKey(key))
            return usual;
        if (all[key]?.GetValueKind() == JsonValueKind.Number && all[key]!.AsValue().TryGetValue<int>(out var number))
            return number;
        Child(key).Fault("This is a whole number.");
        return usual;
    }

    public bool Flag(string key)
    {
        if (node is not JsonObject all || !all.ContainsKey(key))
            return false;
        var kind = all[key]?.GetValueKind();
        if (kind is not (JsonValueKind.True or JsonValueKind.False))
            Child(key).Fault("This is true or false.");
        return kind == JsonValueKind.True;
    }

    public IEnumerable<JsonPlace> Items(string key, bool required)
    {
        if (node is JsonObject all && all.ContainsKey(key))
            return Child(key).Items();
        if (required)
            Child(key).Fault("This is missing.");
        return [];
    }

    public IEnumerable<JsonPlace> Items()
    {
        if (node is JsonArray array)
            return array.Select((item, i) => new JsonPlace(item, $"{path}[{i}]", faults));
        Fault("This is a list in square brackets.");
        return [];
    }

    public IEnumerable<(string Key, JsonPlace Place)> Fields(string key, bool required)
    {
        var place = Child(key);
        if ((node as JsonObject)?[key] is JsonObject fields)
            return fields.Select(f => (f.Key, place.Child(f.Key)));
        if (required || (node as JsonObject)?.ContainsKey(key) == true)
            place.Fault(node is JsonObject all && all.ContainsKey(key) ? "This is an object in curly brackets." : "This is missing.");
        return [];
    }
}
