using System.Text.Json;
using Chronotype.Core.Content;

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
